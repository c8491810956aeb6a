"""The grains of an axis: every depth at which something of it is seen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import product
from typing import NamedTuple

import numpy as np

from dastan.core.analysis.document import Limit, Opening, PlacedDimension
from dastan.core.engine.openings import open_masks
from dastan.core.engine.waist import LevelRef, MemberSet
from dastan.core.model.document import FinancialLayout
from dastan.core.model.financial_layouts import layout_of
from dastan.core.model.members import HierarchyMembers

_SEEN_KEPT = 64


@dataclass(frozen=True, eq=False)
class Placement:
    """One hierarchy on an axis with what is seen of it.

    Per depth `(n_members,) bool`: `is_open`; `is_reached` (it starts the placement or its parent is open and
    reached); `is_seen` (it is reached and not passed over); an *edge* is seen and not open, so that the next
    dimension stands under it. At a limit's depth the member *others* of each parent has the code `n_members` +
    the parent's code.
    """

    placed: PlacedDimension
    members: HierarchyMembers
    start: int
    is_open: tuple[np.ndarray, ...]
    is_reached: tuple[np.ndarray, ...]
    is_seen: tuple[np.ndarray, ...]
    opens_into: PlacedDimension | None = None
    """The hierarchy just inside, where members of this one open into it."""

    @property
    def layout(self) -> FinancialLayout | None:
        """The layout whose rows stand here."""
        return layout_of(self.members)

    def is_edge(self, depth: int) -> np.ndarray:
        """`(n_members,) bool`: the members seen at a depth that are not open."""
        return np.asarray(self.is_seen[depth] & ~self.is_open[depth])

    @cached_property
    def shown_depths(self) -> tuple[int, ...]:
        """The depths from the start down that are not skipped."""
        return tuple(self.members.depth_of(each) for each in self.placed.shown(self._levels))

    @cached_property
    def seen_depths(self) -> tuple[int, ...]:
        """The depths at which some member is seen, from the start down."""
        return tuple(depth for depth in range(self.start, len(self.members.levels)) if self.is_seen[depth].any())

    @cached_property
    def edge_depths(self) -> frozenset[int]:
        """The depths at which some member is an edge."""
        return frozenset(depth for depth in self.seen_depths if self.is_edge(depth).any())

    def level(self, depth: int) -> LevelRef:
        """What to group by for that depth."""
        return LevelRef(self.placed.dimension, self.placed.hierarchy, self.members.levels[depth].name)

    def parent_depth(self, depth: int) -> int | None:
        """The depth under whose members those of `depth` stand; None at the top."""
        above = [each for each in self.shown_depths if each < depth]
        return above[-1] if above else None

    @cached_property
    def limits(self) -> tuple[tuple[int, Limit], ...]:
        """The limits in force with their depths, outermost first: one on a level that is not shown waits."""
        found = self.placed.limits_in_force(self._levels)
        return tuple((self.members.depth_of(each.level), each) for each in found)

    @property
    def _levels(self) -> list[str]:
        return [each.name for each in self.members.levels]

    @cached_property
    def code_rooms(self) -> tuple[int, ...]:
        """At each depth, above every code, *others* included."""
        parents = [self.parent_depth(depth) for depth in range(len(self.members.levels))]
        sizes = [len(each) for each in self.members.levels]
        return tuple(own + (1 if parent is None else sizes[parent]) for own, parent in zip(sizes, parents, strict=True))

    def parent_of_others(self, codes: np.ndarray, depth: int) -> np.ndarray:
        """The parents' codes of *others* members of a depth."""
        return codes - len(self.members.levels[depth])


class AxisGrain(NamedTuple):
    """One depth per placement, outermost first; fewer than there are placements for an outer subtotal.

    In the places in `others` it is not members that stand there but the rest that a limit leaves.
    """

    depths: tuple[int, ...]
    others: tuple[int, ...] = ()

    def upto(self, place: int) -> AxisGrain:
        """The grain of the headers outside a place."""
        return AxisGrain(self.depths[:place], tuple(each for each in self.others if each < place))

    def at(self, place: int, depth: int) -> AxisGrain:
        """The grain of the headers at a depth of a place, inside the same outer ones."""
        outer = self.upto(place)
        return AxisGrain((*outer.depths, depth), outer.others)


@lru_cache(_SEEN_KEPT)
def see(
    placed: PlacedDimension,
    members: HierarchyMembers,
    opening: Opening,
    opens_into: PlacedDimension | None,
    hides: bool = False,
) -> Placement:
    """What is seen of a hierarchy with its open members. The latest are kept: a step changes one of a few.

    Args: `hides`: what is not visible of the members is not reached. Usually it is, since it may have a part in what is
        shown: no record of it is let through, and a joint member's second part stands nowhere.
    """
    masks = open_masks(opening, members)
    start = members.depth_of(placed.level)
    is_open: list[np.ndarray] = []
    reached: list[np.ndarray] = []
    seen: list[np.ndarray] = []
    for depth, level in enumerate(members.levels):
        is_skipped = level.name in placed.skipped
        passed = np.full(len(level), is_skipped) | level.is_passed
        is_open.append(masks[depth] | passed)
        if depth < start:
            reached.append(np.zeros(len(level), np.bool_))
        elif depth == start:
            reached.append(np.ones(len(level), np.bool_))
        else:
            reached.append((reached[-1] & is_open[depth - 1])[level.parent])
        if hides and members.visible:
            reached[-1] = reached[-1] & members.visible[depth]
        seen.append(reached[-1] & ~passed)
    return Placement(placed, members, start, tuple(is_open), tuple(reached), tuple(seen), opens_into)


@lru_cache(_SEEN_KEPT)
def axis_grains(placements: tuple[Placement, ...]) -> tuple[AxisGrain, ...]:
    """Every grain at which the axis has something to show, the grand total's first."""
    grains: list[AxisGrain] = []
    for count in range(len(placements) + 1):
        for combination in product(*(_steps(each) for each in placements[:count])):
            outer = zip(placements, combination[:-1], strict=False)
            if all(is_others or depth in placement.edge_depths for placement, (depth, is_others) in outer):
                others = tuple(place for place, (_, is_others) in enumerate(combination) if is_others)
                grains.append(AxisGrain(tuple(depth for depth, _ in combination), others))
    return tuple(grains)


def _steps(placement: Placement) -> list[tuple[int, bool]]:
    steps = [(depth, False) for depth in placement.seen_depths]
    # The rest of a level may stand even where all that could be seen of it is passed over.
    limits = [depth for depth, limit in placement.limits if limit.others and placement.is_reached[depth].any()]
    return steps + [(depth, True) for depth in limits]


def grouped_parts(placements: tuple[Placement, ...], grain: AxisGrain) -> list[tuple[int, Placement, int]]:
    """The places that a grain is grouped by, each with its placement and depth: *others* by their parent's."""
    parts = []
    for place, (placement, depth) in enumerate(zip(placements, grain.depths, strict=False)):
        by = placement.parent_depth(depth) if place in grain.others else depth
        if by is not None:
            parts.append((place, placement, by))
    return parts


def axis_codes(
    placements: tuple[Placement, ...], grain: AxisGrain, grouped: Sequence[np.ndarray], count: int
) -> np.ndarray:
    """`(count, n_places) int32`: the codes of a grain's headers, from those of its grouped parts."""
    if len(grouped) == 1 == len(grain.depths) and not grain.others:
        return np.asarray(grouped[0], np.int32).reshape(count, 1)
    codes = np.zeros((count, len(grain.depths)), np.int32)
    for (place, _, _), own in zip(grouped_parts(placements, grain), grouped, strict=True):
        codes[:, place] = own
    for place in grain.others:
        codes[:, place] += len(placements[place].members.levels[grain.depths[place]])
    return codes


def ancestors(placement: Placement, grain: AxisGrain, place: int, codes: np.ndarray, depth: int) -> np.ndarray:
    """The codes at `depth` (not below the grain's own) of the headers' ancestors at a place."""
    own = grain.depths[place]
    if place in grain.others:
        if depth == own:
            return codes
        parent = placement.parent_depth(own)
        assert parent is not None  # what is asked for lies above
        return placement.members.at_depth(placement.parent_of_others(codes, own), parent, depth)
    return placement.members.at_depth(codes, own, depth)


def header_sets(placements: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray) -> tuple[MemberSet, ...]:
    """What it takes to belong to a header, hierarchy by hierarchy; the rest of a level belongs to its parent.

    Args: `codes` are the header's, `(n_places,)` or longer.
    """
    found = []
    for place, placement, depth in grouped_parts(placements, grain):
        code = int(codes[place])
        if place in grain.others:
            code = int(placement.parent_of_others(codes[place : place + 1], grain.depths[place])[0])
        path = placement.members.path_of(depth, code)
        found.append(MemberSet(placement.placed.dimension, placement.placed.hierarchy, (path,)))
    return tuple(found)


def seen_codes(placements: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray) -> np.ndarray:
    """`(n,) bool`: which headers of a grain are seen with the present openings."""
    seen = np.ones(len(codes), np.bool_)
    last = len(grain.depths) - 1
    for place, (placement, depth) in enumerate(zip(placements, grain.depths, strict=False)):
        if place in grain.others:
            parent = placement.parent_depth(depth)
            if parent is not None:
                is_open = placement.is_open[parent] & placement.is_reached[parent]
                seen &= is_open[placement.parent_of_others(codes[:, place], depth)]
            continue
        mask = placement.is_seen[depth] if place == last else placement.is_edge(depth)
        seen &= mask[codes[:, place]]
    return seen
