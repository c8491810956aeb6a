"""Limits: which members remain where only the first few are shown, and what their totals are over.

Outer dimensions come first: an inner member is ranked among what the outer limits leave. Neither axis knows
of the other's limits. A limit on lines holds whether or not they are open; an inner dimension is ranked under each
outer header that it stands under, or over all.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from math import ceil, prod
from typing import Literal

import numpy as np

from dastan.core.analysis.document import Limit, PlacedMeasure
from dastan.core.engine.grains import (
    AxisGrain,
    Placement,
    ancestors,
    axis_codes,
    axis_grains,
    grouped_parts,
    seen_codes,
)
from dastan.core.engine.grouping import find_rows, packed_rows
from dastan.core.engine.waist import Condition, Conditions, Joined, LevelRef, Not, group_set
from dastan.core.errors import InputError
from dastan.core.model.document import Ranking
from dastan.core.model.joints import differences
from dastan.core.model.members import HierarchyMembers
from dastan.core.values import Values

_NUMBERED_LIMIT = 1 << 62
"""Codes that make no larger a number are told apart by it."""

Ask = Callable[[PlacedMeasure, tuple[LevelRef, ...], Conditions], tuple[np.ndarray, Values]]
"""A measure's values at some levels: `(n_groups, n_levels) int32` codes, and one value for each."""


@dataclass(frozen=True, slots=True, eq=False)
class Kept:
    """The members that a limit leaves inside the headers of one outer grain (inside any, without `outer`).

    `codes` are their headers' codes, `(n, n_places)`: outer ones first. `condition` holds for their records;
    `inside` for all records under the outer headers, whatever a limit leaves of them.
    """

    outer: AxisGrain | None
    codes: np.ndarray
    condition: Condition
    inside: Conditions = ()


@dataclass(frozen=True, eq=False)
class AxisLimits:
    """All limits of one axis, by place and depth."""

    placements: tuple[Placement, ...]
    totals_over: Literal["scope", "shown"]
    kept: dict[tuple[int, int], list[Kept]] = field(default_factory=dict)

    @cached_property
    def grains(self) -> tuple[AxisGrain, ...]:
        """Every grain at which the axis has something to show, the grand total's first."""
        return axis_grains(self.placements)

    def allowed(self, grain: AxisGrain, codes: np.ndarray) -> np.ndarray:
        """`(n,) bool`: which headers of a grain the limits leave."""
        allowed = np.ones(len(codes), np.bool_)
        for (place, depth), sets in self.kept.items():
            if place >= len(grain.depths) or grain.depths[place] < depth:
                continue
            if place in grain.others and grain.depths[place] == depth:
                continue
            placement = self.placements[place]
            own = ancestors(placement, grain, place, codes[:, place], depth)
            found = _set_for(sets, grain.upto(place))
            if found is None:
                allowed[:] = False
            elif found.outer is None:
                allowed &= np.isin(own, found.codes[:, 0])
            else:
                rooms = self._rooms(found.outer, place)
                headers = np.column_stack([codes[:, :place], own])
                allowed &= find_rows(headers, found.codes, [*rooms, placement.code_rooms[depth]]) >= 0
        return allowed

    def stands(self, grain: AxisGrain, codes: np.ndarray) -> np.ndarray:
        """`(n,) bool`: which headers of a grain stand on the axis: seen with the present openings, and left."""
        return np.asarray(seen_codes(self.placements, grain, codes) & self.allowed(grain, codes))

    def condition(self, grain: AxisGrain) -> Conditions:
        """What holds for the records of a grain's cells, beyond their belonging to its headers."""
        conditions: list[Condition] = []
        for (place, depth), sets in self.kept.items():
            limit = next(each for at, each in self.placements[place].limits if at == depth)
            at = grain.depths[place] if place < len(grain.depths) else -1
            if place in grain.others:
                found = _set_for(sets, grain.upto(place))
                if at == depth and found is not None:
                    conditions.append(Not(found.condition, self._own(place)))
            elif at < depth and self.totals_over == "shown" and not limit.others:
                conditions.append(self._shown(grain, place, depth))
        return tuple(conditions)

    def inside(self, outer: AxisGrain) -> Conditions:
        """What holds for the records under the headers of an outer grain, under which something else stands."""
        conditions: list[Condition] = []
        for place, (placement, depth) in enumerate(zip(self.placements, outer.depths, strict=False)):
            if place in outer.others:
                parent = placement.parent_depth(depth)
                if parent is not None:
                    is_open = placement.is_open[parent] & placement.is_reached[parent]
                    conditions.append(group_set((placement.level(parent),), np.flatnonzero(is_open)))
            else:
                edges = np.flatnonzero(placement.is_edge(depth))
                conditions.append(group_set((placement.level(depth),), edges))
            for (at, at_depth), sets in self.kept.items():
                found = _set_for(sets, outer.upto(place)) if at == place and at_depth <= depth else None
                if found is not None:
                    is_rest = place in outer.others and at_depth == depth
                    conditions.append(Not(found.condition, self._own(place)) if is_rest else found.condition)
        return tuple(conditions)

    def _shown(self, grain: AxisGrain, place: int, depth: int) -> Condition:
        """Holds for the records that a limit shows, inside a grain's headers."""
        sets = [each for each in self.kept[place, depth] if each.outer is None or _is_within(each.outer, grain, place)]
        parts = [each.condition for each in sets]
        for (outer_place, outer_depth), outer_sets in self.kept.items():
            # The rest of an outer level of the same hierarchy is shown as a whole.
            limits = dict(self.placements[outer_place].limits)
            if outer_place == place and outer_depth < depth and limits[outer_depth].others:
                if any(each.members.spread is not None for each in self.placements[:place]):
                    raise InputError(
                        "Totals over what is shown cannot be taken for two limits of one dimension inside a list.",
                        "Show totals over everything in scope, or put the list inside.",
                    )
                within = [one for one in outer_sets if one.outer is None or _is_within(one.outer, grain, place)]
                parts += [Joined("all", (*one.inside, Not(one.condition, self._own(outer_place)))) for one in within]
        return parts[0] if len(parts) == 1 else Joined("any", tuple(parts))

    def _own(self, place: int) -> tuple[str, str]:
        """The hierarchy at a place, by its dimension and name."""
        placed = self.placements[place].placed
        return (placed.dimension, placed.hierarchy)

    def _rooms(self, grain: AxisGrain, place: int) -> list[int]:
        return [
            placement.code_rooms[depth] for placement, depth in zip(self.placements[:place], grain.depths, strict=False)
        ]


def find_limits(bare: AxisLimits, ask: Ask) -> AxisLimits:
    """The axis with the members of every limited level ranked, the outermost first."""
    if not any(each.limits for each in bare.placements):
        return bare
    limits = AxisLimits(bare.placements, bare.totals_over)
    for place, placement in enumerate(bare.placements):
        for depth, limit in placement.limits:
            limits.kept[place, depth] = (
                _ranked_in_parents(limits, place, depth, limit, ask)
                if limit.per == "parent"
                else [_ranked_over_all(limits, place, depth, limit, ask)]
            )
    return limits


def _ranked_over_all(limits: AxisLimits, place: int, depth: int, limit: Limit, ask: Ask) -> Kept:
    placement = limits.placements[place]
    level = placement.level(depth)
    outer = AxisLimits(limits.placements, "shown", dict(limits.kept)).condition(AxisGrain(()))
    codes, values = _of_members(placement.members, depth, *ask(limit.by, (level,), outer))
    natural = placement.members.levels[depth].first[codes[:, 0]]
    kept = codes[first_few(values, np.zeros(len(codes), np.int64), natural, limit)]
    return Kept(None, kept, group_set((level,), kept))


def _ranked_in_parents(limits: AxisLimits, place: int, depth: int, limit: Limit, ask: Ask) -> list[Kept]:
    placement = limits.placements[place]
    parent = placement.parent_depth(depth)
    found = []
    for outer in axis_grains(limits.placements[:place]):
        if len(outer.depths) < place:
            continue
        parts = grouped_parts(limits.placements, outer)
        levels = (*(each.level(at) for _, each, at in parts), placement.level(depth))
        outside = limits.condition(outer)
        codes, values = _of_members(placement.members, depth, *ask(limit.by, levels, outside))
        grain = outer.at(place, depth)
        headers = axis_codes(limits.placements, grain, tuple(codes.T), len(codes))
        seen = limits.allowed(grain, headers)
        if place:
            seen &= seen_codes(limits.placements[:place], outer, headers[:, :place])
            # The last outer header must be an edge as well, for something stands under it.
            last = limits.placements[place - 1]
            if place - 1 not in outer.others:
                seen &= last.is_edge(outer.depths[-1])[headers[:, place - 1]]
        chosen = np.flatnonzero(seen)
        own = headers[chosen, place]
        above, rooms = headers[chosen, :place], limits._rooms(outer, place)
        if parent is not None:
            above = np.column_stack([above, placement.members.at_depth(own, depth, parent)])
            rooms = [*rooms, len(placement.members.levels[parent])]
        natural = placement.members.levels[depth].first[own]
        kept = chosen[first_few(values.take(chosen), _numbered(above, rooms), natural, limit)]
        groups: Condition = group_set(levels, codes[kept])
        rest = tuple(each for each in outside if isinstance(each, Not))
        found.append(
            Kept(outer, headers[kept], Joined("all", (groups, *rest)) if rest else groups, limits.inside(outer))
        )
    return found


def _of_members(members: HierarchyMembers, depth: int, codes: np.ndarray, values: Values) -> tuple[np.ndarray, Values]:
    """Without what is asked for differences of members, which are ranked among none. Args: the last of `codes` are
    members at a depth."""
    own = differences(members, depth)
    kept = np.flatnonzero(~np.isin(codes[:, -1], [*own, *own.values()]))
    return codes[kept], values.take(kept)


def _numbered(rows: np.ndarray, rooms: list[int]) -> np.ndarray:
    """A number for each row, `(n,) int64`, the same for equal ones. Args: `rooms` are above every code of a column."""
    if prod(rooms) < _NUMBERED_LIMIT:
        return packed_rows(rows, rooms)
    return np.asarray(np.unique(rows, axis=0, return_inverse=True)[1]).ravel()


def _is_within(outer: AxisGrain, grain: AxisGrain, place: int) -> bool:
    """Whether the headers of an outer grain stand under those of `grain`, whose last ones may be open."""
    for at, depth in enumerate(grain.depths[:place]):
        is_last = at == len(grain.depths) - 1
        if (at in grain.others) and not (at in outer.others and outer.depths[at] == depth):
            return False
        if not is_last and (at in outer.others) != (at in grain.others):
            return False
        if outer.depths[at] < depth or (not is_last and outer.depths[at] != depth):
            return False
    return True


def _set_for(sets: list[Kept], outer: AxisGrain) -> Kept | None:
    for each in sets:
        if each.outer is None or each.outer == outer:
            return each
    return None


def first_few(values: Values, group: np.ndarray, natural: np.ndarray, limit: Limit | Ranking) -> np.ndarray:
    """The places, ascending, of the members that a limit leaves of each group.

    Args:
        group: `(n,) int64`, which members are ranked together.
        natural: `(n,)` their natural order, which decides between equal values.
    Empty values are never among them. Of the members that make a share of the measure, those above zero count.
    """
    ranked = values.present & (values.data > 0) if limit.count == "percent_of_measure" else values.present
    places = np.flatnonzero(ranked)
    data = values.data[places]
    order = np.lexsort((natural[places], -data if limit.side == "largest" else data, group[places]))
    places = places[order]
    if not len(places):
        return places
    groups = group[places]
    starts = np.flatnonzero(np.append(True, groups[1:] != groups[:-1]))
    sizes = np.diff(np.append(starts, len(groups)))
    rank = np.arange(len(groups)) - np.repeat(starts, sizes)
    if limit.count == "members":
        return np.sort(places[rank < limit.amount])
    if limit.count == "percent_of_members":
        most = np.array([ceil(round(size * limit.amount / 100, 9)) for size in sizes])
        return np.sort(places[rank < np.repeat(most, sizes)])
    # Exact in whole numbers of any size, so that a share of exactly so much is reached exactly.
    exact = values.data[places].astype(object) if values.scale is not None else values.data[places]
    before, totals = np.empty(len(places), exact.dtype), np.empty(len(places), exact.dtype)
    for start, size in zip(starts, sizes, strict=True):
        run = np.cumsum(exact[start : start + size])
        before[start : start + size] = run - exact[start : start + size]
        totals[start : start + size] = run[-1]
    share = Fraction(repr(limit.amount)) / 100
    if values.scale is None:
        return np.sort(places[before < totals * float(share)])
    return np.sort(places[np.asarray(before * share.denominator < totals * share.numerator, np.bool_)])
