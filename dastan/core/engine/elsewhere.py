"""The values of bases in another scope than the cell's own, found for all cells of a pair of grains at once.

Nothing is asked cell by cell: a scope above is one grouped request at coarser levels, in which every cell finds the
group that it lies under; an earlier one is the same request over other days, whose groups land on the cells.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.analysis.views import calendars_of
from dastan.core.engine.calendars import Calendar
from dastan.core.engine.filters import reached_by
from dastan.core.engine.grains import AxisGrain, Placement, ancestors
from dastan.core.engine.grouping import find_rows, packed_rows
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.moved_time import Move
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs
from dastan.core.engine.questioner import Questioner, Records
from dastan.core.engine.waist import Condition, Conditions, Groups, MemberSet, dimensions_of
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.scopes import Above, Earlier, Instead, Reach
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import shown_hierarchies

_TOTAL = AxisGrain(())


@dataclass(frozen=True, slots=True, eq=False)
class Landed:
    """Groups of another scope, and the headers of this pair of grains that they belong to, `(n, n_places)` each."""

    row_codes: np.ndarray
    column_codes: np.ndarray
    groups: Groups


@dataclass(frozen=True, slots=True, eq=False)
class Elsewhere:
    """Asks for some records beyond the scopes of the cells. Args: `aggregates` are those wanted, a count first."""

    records: Records
    aggregates: tuple[BaseAggregate, ...]
    shape: Shape
    questioner: Questioner
    _asked: dict[tuple[PairOfGrains, Conditions], Groups] = field(default_factory=dict, init=False)
    _calendars: dict[str, Calendar] = field(default_factory=dict, init=False)

    def above(
        self, scope: Above, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> Iterator[tuple[np.ndarray, Groups, np.ndarray]]:
        """For some cells after others: which they are, the groups above, and the one that each lies under, -1 none."""
        rows, columns = self.shape.rows, self.shape.columns
        if isinstance(scope.rows, tuple) and not (_stands_on(rows, scope.rows) or _stands_on(columns, scope.rows)):
            return
        for own_rows, row_grain, row_above in _headers_above(rows, pair.rows, row_codes, scope.rows):
            for own_columns, column_grain, column_above in _headers_above(
                columns, pair.columns, column_codes, scope.columns
            ):
                cells = np.flatnonzero(own_rows & own_columns)
                if not len(cells):
                    continue
                target = PairOfGrains(row_grain, column_grain)
                limits = (*_kept_limits(rows, pair.rows, row_grain), *_kept_limits(columns, pair.columns, column_grain))
                groups = self._groups(target, self._filtered(self.questioner.filters + limits))
                found_rows, found_columns = self.shape.axis_codes(target, groups.codes, len(groups))
                wanted = np.hstack([row_above[cells], column_above[cells]])
                found = np.hstack([found_rows, found_columns])
                yield cells, groups, find_rows(wanted, found, rooms_of(self.shape, target))

    def landed(self, scope: Earlier | Instead, pair: PairOfGrains) -> Landed | None:
        """The groups of another scope by the headers that they land on; None where there is no such scope."""
        return self.earlier(scope, pair) if isinstance(scope, Earlier) else self.instead(scope, pair)

    def instead(self, scope: Instead, pair: PairOfGrains) -> Landed | None:
        """The groups of a member in place of all others of its dimension, by the headers that they stand against."""
        asking = self.questioner
        if not asking.reached(self.records.grain)(scope.dimension):
            return None
        members = asking.source.members(scope.dimension, scope.hierarchy)
        path: MemberPath = scope.path  # type: ignore[assignment]
        code = members.find(path)
        if code is None:
            return None
        stands = any(each for each in self._placed(scope.dimension, pair))
        if not stands and self._placements(scope.dimension):
            return None  # a total over members stands against none of them
        _, others = self._filters_by(scope.dimension, pair)
        groups = self._groups(pair, (*others, MemberSet(scope.dimension, scope.hierarchy, (path,))))
        row_codes, column_codes = self.shape.axis_codes(pair, groups.codes, len(groups))
        at = np.arange(len(groups))
        for axis, place, placement, depth, is_rest in self._placed(scope.dimension, pair):
            if is_rest or placement.members.hierarchy != scope.hierarchy or depth > len(path) - 1:
                return None
            # The same member stands against every other at its level.
            own = int(members.at_depth(np.array([code]), len(path) - 1, depth)[0])
            codes = row_codes if axis == "rows" else column_codes
            at = at[codes[at, place] == own]
            count = len(placement.members.levels[depth])
            at, against = np.repeat(at, count), np.tile(np.arange(count, dtype=np.int32), len(at))
            row_codes, column_codes = row_codes[at], column_codes[at]
            (row_codes if axis == "rows" else column_codes)[:, place] = against
            groups = _taken(groups, at)
            at = np.arange(len(groups))
        return Landed(row_codes, column_codes, groups)

    def earlier(self, scope: Earlier, pair: PairOfGrains) -> Landed | None:
        """The groups of an earlier scope by the headers that they land on; None where there is no such scope."""
        if not self.questioner.reached(self.records.grain)(scope.dimension):
            return None
        moved = self._moved(scope, pair)
        if moved is None:
            return None
        condition, landings = moved
        groups = self._groups(pair, condition)
        row_codes, column_codes = (each.copy() for each in self.shape.axis_codes(pair, groups.codes, len(groups)))
        stands = np.ones(len(groups), np.bool_)
        for axis, place, landing in landings:
            codes = row_codes if axis == "rows" else column_codes
            codes[:, place] = landing[codes[:, place]]
            stands &= codes[:, place] >= 0
        kept = np.flatnonzero(stands)
        return Landed(row_codes[kept], column_codes[kept], _taken(groups, kept))

    def same_time(
        self, scope: Earlier | Instead, pair: PairOfGrains, codes: np.ndarray, landed: np.ndarray
    ) -> np.ndarray:
        """`(n_cells,) bool`: the cells at whose time any groups landed.

        Args: `codes` are the cells' headers, rows first; `landed` the cells of the groups.
        """
        width = len(pair.rows.depths)
        times = [scope.dimension] if isinstance(scope, Earlier) else calendars_of(self.questioner.model)
        stand = [each for name in times for each in self._placed(name, pair)]
        places = [place if axis == "rows" else width + place for axis, place, *_ in stand]
        if not places:
            return np.full(len(codes), len(landed) > 0)
        rooms = [rooms_of(self.shape, pair)[each] for each in places]
        own = packed_rows(codes[:, places], rooms)
        return np.isin(own, own[landed])

    def _moved(
        self, scope: Earlier, pair: PairOfGrains
    ) -> tuple[Conditions, list[tuple[AxisName, int, np.ndarray]]] | None:
        """What holds for the records of the earlier scope, and where the members of its calendar levels land."""
        calendar, placed = self._calendar(scope.dimension), list(self._placed(scope.dimension, pair))
        if any(is_rest for *_, is_rest in placed):
            return None  # the rest that a limit leaves has no place in time
        stands = [(axis, place, each.members, depth) for axis, place, each, depth, _ in placed]
        periods = [each for each in stands if calendar.periods(*each[2:]) is not None]
        by_time, others = self._filters_by(scope.dimension, pair)
        allowed = self.questioner.source.allowed_rows(scope.dimension, by_time)[: len(calendar.days)]
        if scope.same_part:
            newest = self.questioner.seen.newest(self.records.grain, scope.dimension)
            upto = np.datetime64(newest, "D").astype(np.int64) if newest is not None else calendar.days.min() - 1
            allowed = allowed & (calendar.days <= upto)
        move = self._move(scope, calendar, [each[2:] for each in periods], allowed)
        if move is None:
            return None
        found = [(axis, place, calendar.periods(members, depth)) for axis, place, members, depth in periods]
        landed = [(axis, place, *calendar.landing(move, own)) for axis, place, own in found if own is not None]
        landings = [(axis, place, landing) for axis, place, landing, _ in landed]
        if not by_time and not scope.same_part and landed and all(takes_all for *_, takes_all in landed):
            return others, landings  # whole periods, each found by its own member
        before = move.before(allowed)
        if not before.any():
            return None
        placed_here = [each.members for each in self._placements(scope.dimension) if each.members.spread is None]
        known = [*placed_here, *self._hierarchies(scope.dimension)]
        return (*others, calendar.condition(before, known)), landings

    def _move(
        self, scope: Earlier, calendar: Calendar, periods: list[tuple[HierarchyMembers, int]], allowed: np.ndarray
    ) -> Move | None:
        stands = [each.members for each in self._placements(scope.dimension)]
        if scope.by == "year":
            return calendar.year_on(stands)
        if len(periods) == 1:
            return calendar.period_on(*periods[0])
        if periods or stands:
            return None  # a total over periods has none before it
        for members in self._hierarchies(scope.dimension):
            for depth in range(len(members.levels)):
                own = calendar.periods(members, depth)
                held = np.unique(own.code[allowed]) if own is not None else np.empty(0)
                if own is not None and len(held) == 1 and bool(allowed[own.code == held[0]].all()):
                    return calendar.period_on(members, depth)
        return None

    def _calendar(self, dimension: str) -> Calendar:
        if dimension not in self._calendars:
            self._calendars[dimension] = Calendar(dimension, self.questioner.source.days(dimension))
        return self._calendars[dimension]

    def _placements(self, dimension: str) -> list[Placement]:
        """Where a dimension stands on either axis, whatever the pair of grains."""
        found = (*self.shape.rows.placements, *self.shape.columns.placements)
        return [each for each in found if each.placed.dimension == dimension]

    def _hierarchies(self, dimension: str) -> list[HierarchyMembers]:
        found = self.questioner.model.dimension(dimension)
        named = [each.name for each in shown_hierarchies(found) if not each.sets]
        return [self.questioner.source.members(dimension, each) for each in named]

    def _placed(self, dimension: str, pair: PairOfGrains) -> Iterator[tuple[AxisName, int, Placement, int, bool]]:
        """Where a dimension stands in a pair of grains: axis, place, placement, depth, and whether as a rest."""
        sides: tuple[tuple[AxisName, AxisLimits, AxisGrain], ...] = (
            ("rows", self.shape.rows, pair.rows),
            ("columns", self.shape.columns, pair.columns),
        )
        for axis, limits, grain in sides:
            for place, (placement, depth) in enumerate(zip(limits.placements, grain.depths, strict=False)):
                if placement.placed.dimension == dimension:
                    yield axis, place, placement, depth, place in grain.others

    def _filters_by(self, dimension: str, pair: PairOfGrains) -> tuple[Conditions, Conditions]:
        """The conditions on a dimension alone, and all others with those of limits.

        Raises: InputError for a condition on the dimension and something else.
        """
        limits = self.shape.rows.condition(pair.rows) + self.shape.columns.condition(pair.columns)
        by_time: list[Condition] = []
        others: list[Condition] = list(self.records.condition)
        for each in reached_by(self.questioner.filters, self.questioner.reached(self.records.grain)):
            about = dimensions_of(each)
            if dimension in about and len(about) > 1:
                raise InputError(
                    f"A filter joins {self.questioner.model.dimension(dimension).caption} with something else, so "
                    "nothing else can be put in its place for a change.",
                    "Filter by each separately, or take the change away.",
                )
            (by_time if about == {dimension} else others).append(each)
        others += [
            each
            for each in reached_by(limits, self.questioner.reached(self.records.grain))
            if dimension not in dimensions_of(each)
        ]
        return tuple(by_time), tuple(others)

    def _filtered(self, conditions: Conditions) -> Conditions:
        return self.records.condition + reached_by(conditions, self.questioner.reached(self.records.grain))

    def _groups(self, pair: PairOfGrains, condition: Conditions) -> Groups:
        known = self._asked.get((pair, condition))
        if known is None:
            asked = Asked(self.records.grain, self.aggregates, condition, self.questioner.rights)
            found = group_pairs({pair: ()}, self.shape, asked, self.questioner.group, self.questioner.watch)
            known = self._asked[pair, condition] = found[pair]
        return known


def _taken(groups: Groups, at: np.ndarray) -> Groups:
    return Groups(tuple(each[at] for each in groups.codes), tuple(each.take(at) for each in groups.values))


def rooms_of(shape: Shape, pair: PairOfGrains) -> list[int]:
    """Above every code of each place of a pair of grains, rows first."""
    sides = ((shape.rows, pair.rows), (shape.columns, pair.columns))
    return [
        placement.code_rooms[depth]
        for limits, grain in sides
        for placement, depth in zip(limits.placements, grain.depths, strict=False)
    ]


def _kept_limits(limits: AxisLimits, own: AxisGrain, above: AxisGrain) -> Conditions:
    """What limits hide from a cell's own header is hidden here too. What stands above is as it is before any limit, but
    for the rest of a level in which it stands itself."""
    if above == own:
        return limits.condition(own)
    return AxisLimits(limits.placements, "scope", limits.kept).condition(above)


def _headers_above(
    limits: AxisLimits, grain: AxisGrain, codes: np.ndarray, reach: Reach
) -> Iterator[tuple[np.ndarray, AxisGrain, np.ndarray]]:
    """Which headers `(n,) bool`, the grain above them, and the codes there `(n, n_places)`: some after others."""
    everything = np.ones(len(codes), np.bool_)
    if reach == "here":
        yield everything, grain, codes
    elif reach == "all":
        yield everything, _TOTAL, np.empty((len(codes), 0), np.int32)
    elif reach == "parent":
        yield from _parents(limits, grain, codes)
    elif not _stands_on(limits, reach):
        yield everything, grain, codes
    else:
        for place, (placement, depth) in enumerate(zip(limits.placements, grain.depths, strict=False)):
            if (placement.placed.dimension, placement.placed.hierarchy) != reach[:2]:
                continue
            wanted = placement.members.depth_of(reach[2])
            # The rest that a limit leaves lies under what is shown above it, and under nothing where nothing is.
            lowest = placement.parent_depth(depth) if place in grain.others else depth
            if lowest is not None and wanted <= lowest:
                own = ancestors(placement, grain, place, codes[:, place], wanted)
                yield everything, grain.at(place, wanted), np.column_stack([codes[:, :place], own])


def _stands_on(limits: AxisLimits, level: tuple[str, str, str]) -> bool:
    """Whether the hierarchy of a level stands on an axis."""
    return any((each.placed.dimension, each.placed.hierarchy) == level[:2] for each in limits.placements)


def _parents(
    limits: AxisLimits, grain: AxisGrain, codes: np.ndarray
) -> Iterator[tuple[np.ndarray, AxisGrain, np.ndarray]]:
    if not grain.depths:
        return
    last = len(grain.depths) - 1
    placement = limits.placements[last]
    left = np.ones(len(codes), np.bool_)
    for depth in reversed([each for each in placement.shown_depths if each < grain.depths[last]]):
        own = ancestors(placement, grain, last, codes[:, last], depth)
        # A member that is passed over does not stand: what is above it is the parent.
        stands = left & ~placement.members.levels[depth].is_passed[own]
        if stands.any():
            yield stands, grain.at(last, depth), np.column_stack([codes[:, :last], own])
        left &= ~stands
    if left.any():
        yield left, grain.upto(last), codes[:, :last]
