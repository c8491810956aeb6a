"""An axis of the answer: the headers that stand on it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import prod

import numpy as np

from dastan.core.analysis.document import Under
from dastan.core.engine.grains import AxisGrain, Placement, ancestors
from dastan.core.engine.grouping import find_rows, packed_rows
from dastan.core.engine.limits import AxisLimits
from dastan.core.model.financial_layouts import rows_under

_TABLE_LIMIT = 1 << 16


@dataclass(frozen=True, slots=True)
class Header:
    """One member seen on an axis: which placement, how deep, which code; or the rest that a limit leaves."""

    place: int
    depth: int
    code: int
    is_others: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Axis:
    """The headers of one axis, one entry per row (or column) of the answer.

    `grain` is the number of the header's grain in `grains`; `codes` is `(n, n_placements) int32`, -1 beyond
    the header's own depth. `total` is the grand total's entry, None where it is not shown. `is_heading` entries
    have no figures.
    """

    placements: tuple[Placement, ...]
    grains: tuple[AxisGrain, ...]
    grain: np.ndarray
    codes: np.ndarray
    all_caption: str
    total: int | None
    is_heading: np.ndarray
    part_filled: tuple[tuple[np.ndarray, ...], ...] = ()
    """Per placement and depth `(n_members,) bool`: periods that the data's ends cut; nothing for what is no time."""
    _tables: dict[AxisGrain, tuple[list[int], np.ndarray | None]] = field(default_factory=dict, init=False)
    """The rooms of each grain's codes and, with few possible headers, the entry of each by its packed codes, -1 for
    none."""
    _entries: dict[int, np.ndarray] = field(default_factory=dict, init=False)

    def __len__(self) -> int:
        return len(self.grain)

    def entries_at(self, number: int) -> np.ndarray:
        """The entries of one grain, by its number, `(n,) int64` ascending."""
        found = self._entries.get(number)
        if found is None:
            found = self._entries[number] = np.flatnonzero(self.grain == number)
        return found

    def is_total(self, entry: int) -> bool:
        """Whether the entry is the grand total."""
        return entry == self.total

    def chain(self, entry: int) -> list[Header]:
        """The headers from the outermost down to the entry's own; none for the grand total."""
        return self.chains(np.array([entry]))[0]

    def chains(self, entries: np.ndarray) -> list[list[Header]]:
        """The headers of each entry, from the outermost down to its own: many at a time, a grain after another."""
        found: list[list[Header]] = [[] for _ in range(len(entries))]
        numbers = self.grain[entries]
        for number in np.unique(numbers).tolist():
            at = np.flatnonzero(numbers == number)
            codes, own = self.codes[entries[at]], at.tolist()
            grain = self.grains[number]
            for place, (placement, depth) in enumerate(zip(self.placements, grain.depths, strict=False)):
                is_others = place in grain.others
                for each in placement.shown_depths:
                    if each < depth or (each == depth and not is_others):
                        above = ancestors(placement, grain, place, codes[:, place], each)
                        passed = placement.members.levels[each].is_passed[above].tolist()
                        for line, code, is_passed in zip(own, above.tolist(), passed, strict=True):
                            if not is_passed:
                                found[line].append(Header(place, each, code))
                if is_others:
                    for line, code in zip(own, codes[:, place].tolist(), strict=True):
                        found[line].append(Header(place, depth, code, True))
        return found

    def entries_of(self, grain: AxisGrain, codes: np.ndarray) -> np.ndarray:
        """The entries `(n,) int64` at which headers of a grain stand, -1 for those that do not."""
        if grain not in self.grains:
            return np.full(len(codes), -1)
        if not grain.depths:
            return np.full(len(codes), -1 if self.total is None else self.total)
        known = self._tables.get(grain)
        if known is None:
            known = self._tables[grain] = self._table(grain)
        rooms, table = known
        if table is not None:
            return np.asarray(table[packed_rows(codes, rooms)])
        entries = self.entries_at(self.grains.index(grain))
        at = find_rows(codes, self.codes[entries, : len(rooms)], rooms)
        return np.where(at >= 0, np.append(entries, -1)[at], -1)

    def _table(self, grain: AxisGrain) -> tuple[list[int], np.ndarray | None]:
        rooms = [placement.code_rooms[depth] for placement, depth in zip(self.placements, grain.depths, strict=False)]
        if prod(rooms) > _TABLE_LIMIT:
            return rooms, None
        entries = self.entries_at(self.grains.index(grain))
        table = np.full(prod(rooms), -1)
        table[packed_rows(self.codes[entries, : len(rooms)], rooms)] = entries
        return rooms, table

    def parents(self) -> np.ndarray:
        """The entry in which each header stands directly, `(n,) int64`: the grand total's for the outermost, -1 for
        the grand total itself and without one."""
        found = np.full(len(self), -1 if self.total is None else self.total)
        if self.total is not None:
            found[self.total] = -1
        for number, grain in enumerate(self.grains):
            entries = self.entries_at(number)
            if not len(entries) or not grain.depths:
                continue
            codes, last = self.codes[entries], len(grain.depths) - 1
            placement = self.placements[last]
            above = np.full(len(entries), -1)
            for depth in reversed([each for each in placement.shown_depths if each < grain.depths[last]]):
                # A member that is passed over has no entry: what is above it is the parent.
                left = np.flatnonzero(above < 0)
                own = ancestors(placement, grain, last, codes[left, last], depth)
                above[left] = self.entries_of(grain.at(last, depth), np.column_stack([codes[left, :last], own]))
            if last:
                left = np.flatnonzero(above < 0)
                above[left] = self.entries_of(grain.upto(last), codes[left, :last])
            found[entries[above >= 0]] = above[above >= 0]
        return found

    def arranged(self, entries: np.ndarray, is_heading: np.ndarray) -> Axis:
        """The axis with those entries, in that order."""
        total = np.flatnonzero(self.grain[entries] == self.grains.index(AxisGrain(())))
        return replace(
            self,
            grain=self.grain[entries],
            codes=self.codes[entries],
            total=int(total[0]) if len(total) else None,
            is_heading=is_heading,
        )


def build_axis(limits: AxisLimits, existing: Mapping[AxisGrain, np.ndarray], all_caption: str) -> Axis:
    """The headers that have records, and the grand total's, in no particular order.

    Args:
        existing: per grain, the header codes of the groups that have records, `(n, n_places)`.
        all_caption: what the grand total is called.
    """
    placements = limits.placements
    width = len(placements)
    grains = limits.grains
    codes, numbers = [np.full((1, width), -1, np.int32)], [np.array([grains.index(AxisGrain(()))])]
    for number, grain in enumerate(grains):
        if grain.depths and grain in existing:
            found = existing[grain]
            found = found[limits.stands(grain, found) & _breaks_down(placements, grain, found, True)]
            wide = np.full((len(found), width), -1, np.int32)
            wide[:, : found.shape[1]] = found
            codes.append(wide)
            numbers.append(np.full(len(found), number))
    grain_of_entry = np.concatenate(numbers)
    nothing = np.zeros(len(grain_of_entry), np.bool_)
    return Axis(placements, grains, grain_of_entry, np.concatenate(codes), all_caption, 0, nothing)


def breaks_down(axis: Axis) -> np.ndarray:
    """`(n,) bool`: which headers stand at places that break down what is outside them there."""
    stands = np.ones(len(axis), np.bool_)
    for number, grain in enumerate(axis.grains):
        entries = axis.entries_at(number)
        stands[entries] = _breaks_down(axis.placements, grain, axis.codes[entries, : len(grain.depths)], False)
    return stands


def _breaks_down(
    placements: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray, for_formulas: bool
) -> np.ndarray:
    """`(n,) bool`: which headers stand at places that break down what is outside them there.

    Args: `for_formulas`: also those that a formula over the rows of a layout is of.
    """
    stands = np.ones(len(codes), np.bool_)
    for place in range(1, len(grain.depths)):
        only_under = placements[place].placed.only_under
        if only_under is not None:
            wanted = [
                one for each in only_under for one in (_with_rows(each, placements[:place]) if for_formulas else [each])
            ]
            here = [_is_under(each, placements[:place], grain, codes) for each in wanted]
            stands &= np.any(here, axis=0) if here else False
    return stands


def _with_rows(under: Under, outer: tuple[Placement, ...]) -> list[Under]:
    """The headers that are meant; and where one is a row of a formula, beside it those that it is of."""
    found = [under]
    for at, member in enumerate(under.members):
        for each in outer:
            own = (each.placed.dimension, each.placed.hierarchy)
            if each.layout is not None and own == (member.dimension, member.hierarchy):
                for name in rows_under(each.layout, str(member.path[0])):
                    instead = replace(member, path=(name,))
                    found.append(replace(under, members=(*under.members[:at], instead, *under.members[at + 1 :])))
    return found


def _is_under(under: Under, outer: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray) -> np.ndarray:
    holds = np.ones(len(codes), np.bool_)
    for member in under.members:
        own = (member.dimension, member.hierarchy)
        places = [at for at, each in enumerate(outer) if (each.placed.dimension, each.placed.hierarchy) == own]
        code = outer[places[0]].members.find(member.path) if places else None
        if code is None or grain.depths[places[0]] != len(member.path) - 1 or places[0] in grain.others:
            return np.zeros(len(codes), np.bool_)
        holds &= codes[:, places[0]] == code
    return holds
