"""An axis of the answer: its headers in the order in which they are read."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.grains import AxisGrain, Placement, axis_grains


@dataclass(frozen=True, slots=True)
class Header:
    """One member seen on an axis: which placement, how deep, which code."""

    place: int
    depth: int
    code: int


@dataclass(frozen=True, slots=True, eq=False)
class Axis:
    """The headers of one axis, one entry per row (or column) of the answer.

    `grain` is the number of the header's grain in `grains`; `codes` is `(n, n_placements) int32`, -1 beyond
    the header's own depth. The grand total is the last entry.
    """

    placements: tuple[Placement, ...]
    grains: tuple[AxisGrain, ...]
    grain: np.ndarray
    codes: np.ndarray
    all_caption: str

    def __len__(self) -> int:
        return len(self.grain)

    def is_total(self, entry: int) -> bool:
        """Whether the entry is the grand total."""
        return not self.grains[int(self.grain[entry])].depths

    def chain(self, entry: int) -> list[Header]:
        """The headers from the outermost down to the entry's own; none for the grand total."""
        headers: list[Header] = []
        depths = self.grains[int(self.grain[entry])].depths
        for place, (placement, depth) in enumerate(zip(self.placements, depths, strict=False)):
            code = int(self.codes[entry, place])
            for each in range(placement.start, depth + 1):
                at = int(placement.members.at_depth(np.array([code]), depth, each)[0])
                headers.append(Header(place, each, at))
        return headers

    def entry_of(self, grain: int, codes: tuple[np.ndarray, ...], count: int) -> np.ndarray:
        """The entries `(count,) int64` at which groups of a grain stand, -1 for those not seen."""
        entries = np.flatnonzero(self.grain == grain)
        if not codes:
            return np.full(count, entries[0] if len(entries) else -1)
        sizes = [
            len(placement.members.levels[depth])
            for placement, depth in zip(self.placements, self.grains[grain].depths, strict=False)
        ]
        wanted, have = np.zeros(count, np.int64), np.zeros(len(entries), np.int64)
        for place, size in enumerate(sizes):
            wanted = wanted * size + codes[place]
            have = have * size + self.codes[entries, place]
        if not len(have):
            return np.full(count, -1)
        order = np.argsort(have)
        at = np.searchsorted(have[order], wanted)
        at[at == len(have)] = 0
        return np.where(have[order][at] == wanted, entries[order][at], -1)


def build_axis(
    placements: tuple[Placement, ...],
    existing: Mapping[AxisGrain, tuple[np.ndarray, ...]],
    totals_first: bool,
    all_caption: str,
) -> Axis:
    """Puts the headers that have records into reading order.

    Args:
        existing: per grain, the member codes of the groups that have records.
        all_caption: what the grand total is called.
        totals_first: a member stands before what is below it (rows) or after it (columns).
    """
    width = len(placements)
    grains = axis_grains(placements)
    chosen = [_seen_codes(placements, grain, existing.get(grain, ())) for grain in grains if grain.depths]
    numbers = [number for number, grain in enumerate(grains) if grain.depths]
    codes = np.concatenate([np.empty((0, width), np.int32), *(_widened(each, width) for each in chosen)])
    grain = np.repeat(np.array(numbers, np.int64), [len(each) for each in chosen])
    depths = np.array([[*each.depths, *[-1] * (width - len(each.depths))] for each in grains], np.int64)
    depths = depths.reshape(len(grains), width)
    order = _reading_order(placements, codes, depths[grain], totals_first)
    codes, grain = codes[order], grain[order]
    total = grains.index(AxisGrain(()))
    codes = np.concatenate([codes, np.full((1, width), -1, np.int32)])
    grain = np.concatenate([grain, [total]])
    return Axis(placements, tuple(grains), grain, codes, all_caption)


def is_seen(placements: tuple[Placement, ...], grain: AxisGrain, codes: tuple[np.ndarray, ...]) -> np.ndarray:
    """`(n,) bool`: which groups of a grain are seen with the present openings."""
    seen = np.ones(len(codes[0]), np.bool_)
    last = len(grain.depths) - 1
    for place, (placement, depth) in enumerate(zip(placements, grain.depths, strict=False)):
        mask = placement.is_seen[depth] if place == last else placement.is_edge(depth)
        seen &= mask[codes[place]]
    return seen


def _seen_codes(placements: tuple[Placement, ...], grain: AxisGrain, codes: tuple[np.ndarray, ...]) -> np.ndarray:
    """`(n, n_depths) int32`: the groups of a grain that are seen."""
    if not codes:
        return np.empty((0, len(grain.depths)), np.int32)
    return np.asarray(np.stack(codes, axis=1)[is_seen(placements, grain, codes)])


def _widened(codes: np.ndarray, width: int) -> np.ndarray:
    wide = np.full((len(codes), width), -1, np.int32)
    wide[:, : codes.shape[1]] = codes
    return wide


def _reading_order(
    placements: tuple[Placement, ...], codes: np.ndarray, depths: np.ndarray, totals_first: bool
) -> np.ndarray:
    """Sorts by each placement's place in the natural order, a member just before or just after its own."""
    keys: list[np.ndarray] = []
    for place, placement in enumerate(placements):
        position = np.full(len(codes), -1 if totals_first else np.iinfo(np.int64).max)
        for depth, level in enumerate(placement.members.levels):
            here = depths[:, place] == depth
            position[here] = (level.first if totals_first else level.last)[codes[here, place]]
        keys.append(position)
        keys.append(depths[:, place] if totals_first else -depths[:, place])
    return np.lexsort(keys[::-1]) if keys else np.arange(len(codes))
