"""Values of bases in another scope than the cell's own, found for all cells of a pair of grains at once.

Nothing is asked cell by cell: a scope above is one grouped request at coarser levels, in which every cell finds the
group that it lies under. Another time, or a member in place of all others, is the same request under another condition,
whose groups land on the cells.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.analysis.views import calendars_of
from dastan.core.engine.above import looked_up
from dastan.core.engine.aggregates import roll_up
from dastan.core.engine.calendars import Calendar
from dastan.core.engine.filters import reached_by
from dastan.core.engine.grains import AxisGrain, Placement, grouped_parts, header_sets
from dastan.core.engine.grouping import find_rows, group_rows, packed_rows
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.moved_time import Move
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs
from dastan.core.engine.questioner import Questioner, Records
from dastan.core.engine.waist import Condition, Conditions, DataSpan, Groups, MemberSet, Request, dimensions_of
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.scopes import Above, Earlier, Instead, ToDate, Without
from dastan.core.model.joints import JoinedMembers
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import shown_hierarchies
from dastan.core.values import empty_values, joined


@dataclass(frozen=True, slots=True, eq=False)
class Landed:
    """Groups of another scope, and the headers of this pair of grains that they belong to, `(n, n_places)` each."""

    row_codes: np.ndarray
    column_codes: np.ndarray
    groups: Groups


@dataclass(frozen=True, slots=True)
class Standing:
    """Where a dimension stands in a pair of grains; `is_rest` where the rest that a limit leaves does."""

    axis: AxisName
    place: int
    placement: Placement
    depth: int
    is_rest: bool


@dataclass(frozen=True, slots=True, eq=False)
class Landing:
    """At a place where a dimension stands: the members `came`, each of which lands on the one beside it in `onto`,
    `(n,) int64` codes."""

    standing: Standing
    came: np.ndarray
    onto: np.ndarray


@dataclass(frozen=True, slots=True, eq=False)
class Replaced:
    """The part of a scope that a dimension makes, replaced: what holds for the records, and where members land."""

    condition: Conditions
    landings: tuple[Landing, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Elsewhere:
    """Asks for some records beyond the scopes of the cells. Args: `aggregates` are those wanted, a count first."""

    records: Records
    aggregates: tuple[BaseAggregate, ...]
    shape: Shape
    questioner: Questioner
    _asked: dict[tuple[PairOfGrains, Conditions], Groups] = field(default_factory=dict, init=False)
    _calendars: dict[str, Calendar] = field(default_factory=dict, init=False)

    def looked_up(
        self, scope: Above | Without, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> Iterator[tuple[np.ndarray, Groups, np.ndarray]]:
        """For some cells after others: which they are, the groups above or outside, and the one that each finds, -1 for
        none."""
        if isinstance(scope, Above):
            yield from self._above(scope, pair, row_codes, column_codes)
        else:
            groups, at = self._without(scope, pair, row_codes, column_codes)
            yield np.arange(len(row_codes)), groups, at

    def _above(
        self, scope: Above, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> Iterator[tuple[np.ndarray, Groups, np.ndarray]]:
        for each in looked_up(scope, self.shape, pair, row_codes, column_codes):
            groups = self._groups(each.pair, self._filtered(each.limits))
            found = np.hstack(self.shape.axis_codes(each.pair, groups.codes, len(groups)))
            wanted = np.hstack([each.row_codes, each.column_codes])
            yield each.cells, groups, find_rows(wanted, found, rooms_of(self.shape, each.pair))

    def _without(
        self, scope: Without, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> tuple[Groups, np.ndarray]:
        """Groups by everything but some dimensions, and the one that each cell finds, `(n,) int64`, -1 for none."""
        levels, own, rooms = [], [], []
        for limits, grain, codes in (
            (self.shape.rows, pair.rows, row_codes), (self.shape.columns, pair.columns, column_codes),
        ):  # fmt: skip
            for place, placement, depth in grouped_parts(limits.placements, grain):
                if placement.placed.dimension not in scope.dimensions:
                    is_rest, code = place in grain.others, codes[:, place]
                    levels.append(placement.level(depth))
                    own.append(placement.parent_of_others(code, grain.depths[place]) if is_rest else code)
                    rooms.append(len(placement.members.levels[depth]))
        condition = self._outside(scope, pair)
        asked = Request(self.records.grain, tuple(levels), self.aggregates, condition, self.questioner.rights)
        groups = self.questioner.group(asked)
        if not levels:
            return groups, np.full(len(row_codes), 0 if len(groups) else -1)
        return groups, find_rows(np.stack(own, axis=1), np.stack(groups.codes, axis=1), rooms)

    def _outside(self, scope: Without, pair: PairOfGrains) -> Conditions:
        """What holds for the records, whatever their members of some dimensions."""
        reached = self.questioner.reached(self.records.grain)
        if scope.where:
            _, filters = self._filters_by(scope.dimensions)
        else:
            filters = self.records.condition + reached_by(self.questioner.filters, reached)
        limits: Conditions = ()
        for each, grain in ((self.shape.rows, pair.rows), (self.shape.columns, pair.columns)):
            placed = [one.placed.dimension for one in each.placements]
            kept = {at: sets for at, sets in each.kept.items() if placed[at[0]] not in scope.dimensions}
            limits += AxisLimits(each.placements, each.totals_over, kept).condition(grain)
        return filters + reached_by(limits, reached) + self.questioner.where(scope.where)

    def landed(self, scope: Earlier | ToDate | Instead, pair: PairOfGrains) -> Landed | None:
        """The groups of another scope by the headers that they land on; None where there is no such scope."""
        replaced = self._replaced(scope, pair)
        if replaced is None:
            return None
        groups = self._groups(pair, replaced.condition)
        row_codes, column_codes = self.shape.axis_codes(pair, groups.codes, len(groups))
        at = np.arange(len(groups))
        for landing in replaced.landings:
            place = landing.standing.place
            codes = row_codes if landing.standing.axis == "rows" else column_codes
            again, onto = _pairs(codes[:, place], landing)
            at, row_codes, column_codes = at[again], row_codes[again], column_codes[again]
            (row_codes if landing.standing.axis == "rows" else column_codes)[:, place] = onto
        taken = Groups(tuple(each[at] for each in groups.codes), tuple(each.take(at) for each in groups.values))
        landed = Landed(row_codes, column_codes, taken)
        if isinstance(scope, ToDate):
            return self._added_up(landed, pair)
        is_joint = np.zeros(len(at), np.bool_)
        for landing in replaced.landings:
            codes = row_codes if landing.standing.axis == "rows" else column_codes
            is_joint |= _is_joint(landing.standing, codes[:, landing.standing.place])
        if isinstance(scope, Instead) or not is_joint.any():
            return landed
        # The times before of what a joint member joins come to its own.
        own, joint = (_chosen(landed, np.flatnonzero(each)) for each in (~is_joint, is_joint))
        added = self._added_up(joint, pair)
        return Landed(
            np.concatenate([own.row_codes, added.row_codes]),
            np.concatenate([own.column_codes, added.column_codes]),
            Groups(
                tuple(np.concatenate(each) for each in zip(own.groups.codes, added.groups.codes, strict=False)),
                tuple(joined(each) for each in zip(own.groups.values, added.groups.values, strict=True)),
            ),
        )

    def _added_up(self, landed: Landed, pair: PairOfGrains) -> Landed:
        """Groups of several members that landed on the same headers as one; of aggregates that do not roll up nothing,
        for which nothing to date is ever asked."""
        width, count = landed.row_codes.shape[1], len(landed.row_codes)
        codes, rooms = np.hstack([landed.row_codes, landed.column_codes]), rooms_of(self.shape, pair)
        levels = [
            (codes[:, at].astype(np.int32), np.arange(room, dtype=np.int32), room) for at, room in enumerate(rooms)
        ]
        grouped = group_rows(levels, count)
        matrix = np.stack(grouped.codes, axis=1) if levels else np.empty((grouped.count, 0), np.int32)
        values = tuple(
            roll_up(each.kind, own, grouped.group, grouped.count, each.argument)
            if each.rolls_up
            else empty_values(grouped.count, own.scale)
            for each, own in zip(self.aggregates, landed.groups.values, strict=True)
        )
        return Landed(matrix[:, :width], matrix[:, width:], Groups(grouped.codes, values))

    def same_time(
        self, scope: Earlier | Instead, pair: PairOfGrains, codes: np.ndarray, landed: np.ndarray
    ) -> np.ndarray:
        """`(n_cells,) bool`: the cells at whose time any groups landed.

        Args: `codes` are the cells' headers, rows first; `landed` the cells of the groups.
        """
        times = [scope.dimension] if isinstance(scope, Earlier) else calendars_of(self.questioner.model)
        width = len(pair.rows.depths)
        stand = [each for name in times for each in self._standing(name, pair)]
        places = [each.place if each.axis == "rows" else width + each.place for each in stand]
        if not places:
            return np.full(len(codes), len(landed) > 0)
        rooms = [rooms_of(self.shape, pair)[each] for each in places]
        own = packed_rows(codes[:, places], rooms)
        return np.isin(own, own[landed])

    def behind(
        self,
        scope: Above | Earlier | ToDate | Instead | Without | None,
        pair: PairOfGrains,
        row_codes: np.ndarray,
        column_codes: np.ndarray,
    ) -> Conditions | None:
        """What holds for the records of a scope at one cell; None where there is no such scope, or its headers do not
        reach the records. Args: `row_codes` and `column_codes` are its headers' codes, `(1, n_places)`."""
        if isinstance(scope, Above):
            found = next(looked_up(scope, self.shape, pair, row_codes, column_codes), None)
            if found is None:
                return None
            headers = self._headers(found.pair, found.row_codes, found.column_codes)
            return self._reached(self._filtered(found.limits), headers)
        if isinstance(scope, Without):
            headers = self._headers(pair, row_codes, column_codes)
            headers = tuple(each for each in headers if each.dimension not in scope.dimensions)
            return self._reached(self._outside(scope, pair), headers)
        if scope is None:
            limits = self.shape.rows.condition(pair.rows) + self.shape.columns.condition(pair.columns)
            return self._reached(self._filtered(limits), self._headers(pair, row_codes, column_codes))
        replaced = self._replaced(scope, pair)
        if replaced is None:
            return None
        headers = self._headers(pair, row_codes, column_codes)
        for landing in replaced.landings:
            standing = landing.standing
            codes = row_codes if standing.axis == "rows" else column_codes
            came = landing.came[landing.onto == codes[0, standing.place]].tolist()
            if not came:
                return None
            members = standing.placement.members
            paths = tuple(members.path_of(standing.depth, each) for each in came)
            own = (scope.dimension, members.hierarchy)
            headers = tuple(each for each in headers if (each.dimension, each.hierarchy) != own)
            headers += (MemberSet(*own, paths),)
        return self._reached(replaced.condition, headers)

    def _replaced(self, scope: Earlier | ToDate | Instead, pair: PairOfGrains) -> Replaced | None:
        """What holds for the records of another scope, and where its members land; None where there is none."""
        if not self.questioner.reached(self.records.grain)(scope.dimension):
            return None
        standing = list(self._standing(scope.dimension, pair))
        if any(each.is_rest for each in standing):
            return None  # the rest that a limit leaves is nothing that another could stand for
        if isinstance(scope, Earlier):
            return self._earlier(scope, pair, standing)
        if isinstance(scope, ToDate):
            return self._to_date(scope, pair, standing)
        return self._instead(scope, pair, standing)

    def _instead(self, scope: Instead, pair: PairOfGrains, standing: list[Standing]) -> Replaced | None:
        """A member in place of all others of its dimension: it stands against every member at its level, and against no
        total over them."""
        members = self.questioner.source.members(scope.dimension, scope.hierarchy)
        path: MemberPath = scope.path  # type: ignore[assignment]
        code = members.find(path)
        if code is None or (not standing and self._placements(scope.dimension)):
            return None
        others = self._filters_by((scope.dimension,))[1] + self._limits_beside(scope.dimension, pair)
        landings = []
        for each in standing:
            if each.placement.members.hierarchy != scope.hierarchy or each.depth > len(path) - 1:
                return None
            own = int(members.at_depth(np.array([code]), len(path) - 1, each.depth)[0])
            onto = np.arange(len(members.levels[each.depth]))
            landings.append(Landing(each, np.full(len(onto), own), onto))
        return Replaced((*others, MemberSet(scope.dimension, scope.hierarchy, (path,))), tuple(landings))

    def _earlier(self, scope: Earlier, pair: PairOfGrains, standing: list[Standing]) -> Replaced | None:
        """An earlier time: periods land on later ones; what is no period, such as a weekday, stays what it is."""
        calendar = self._calendar(scope.dimension)
        found = [(each, calendar.periods(each.placement.members, each.depth)) for each in standing]
        periods = [(each, own) for each, own in found if own is not None]
        by_time, others = self._filters_by((scope.dimension,))
        others += self._limits_beside(scope.dimension, pair)
        allowed = self.questioner.source.allowed_rows(scope.dimension, by_time)[: len(calendar.days)]
        span = self.questioner.seen.span(self.records.grain, scope.dimension)
        if span is None:
            return None
        years = scope.count if scope.by == "year" else 0
        if years and not periods and _reaches_first_years(calendar.days[allowed], span, years):
            return None
        if scope.same_part:
            allowed = allowed & (calendar.days <= np.datetime64(span.last, "D").astype(np.int64))
        move = self._move(scope, calendar, [each for each, _ in periods], allowed)
        if move is None:
            return None
        landings, is_whole = [], bool(periods) and not by_time and not scope.same_part
        for each, own in periods:
            onto, takes_all = calendar.landing(move, own)
            came = np.flatnonzero(onto >= 0)
            landings.append(Landing(each, *_with_joints(each, came, onto[came], calendar.days, span, years)))
            is_whole = is_whole and takes_all
        if is_whole:
            return Replaced(others, tuple(landings))  # whole periods, each found by its own member
        before = move.before(allowed)
        if not before.any():
            return None
        placed = [each.members for each in self._placements(scope.dimension) if each.members.spread is None]
        told = calendar.condition(before, [*placed, *self._hierarchies(scope.dimension)])
        return Replaced((*others, told), tuple(landings))

    def _to_date(self, scope: ToDate, pair: PairOfGrains, standing: list[Standing]) -> Replaced | None:
        """From the beginning of the period around it to the end of the cell's own. Without a period on its headers, the
        filters must leave days of one such period; a total over periods has no date."""
        calendar = self._calendar(scope.dimension)
        hierarchy = self.questioner.source.members(scope.dimension, scope.hierarchy)
        around = calendar.periods(hierarchy, hierarchy.depth_of(scope.level))
        by_time, others = self._filters_by((scope.dimension,))
        others += self._limits_beside(scope.dimension, pair)
        found = [(each, calendar.periods(each.placement.members, each.depth)) for each in standing]
        periods = [(each, own) for each, own in found if own is not None]
        if around is None or len(periods) > 1:
            return None
        allowed = self.questioner.source.allowed_rows(scope.dimension, by_time)[: len(calendar.days)]
        held = np.unique(around.code[allowed])
        if periods:
            each, own = periods[0]
            if by_time and len(held):
                # No header stands beyond the periods around what is kept.
                reached = np.isin(around.code, held)
                others = (*others, calendar.condition(reached, [hierarchy, *self._hierarchies(scope.dimension)]))
            return Replaced(others, (Landing(each, *own.to_date(around)),))
        if self._placements(scope.dimension):
            return None
        if len(held) != 1:
            return None
        chosen = (around.code == held[0]) & (calendar.days <= calendar.days[allowed].max())
        told = calendar.condition(chosen, [hierarchy, *self._hierarchies(scope.dimension)])
        return Replaced((*others, told), ())

    def _move(self, scope: Earlier, calendar: Calendar, periods: list[Standing], allowed: np.ndarray) -> Move | None:
        stands = [each.members for each in self._placements(scope.dimension)]
        if scope.by == "year":
            return calendar.year_on(stands, scope.count)
        if len(periods) == 1:
            return calendar.period_on(periods[0].placement.members, periods[0].depth, scope.count)
        if periods or stands:
            return None  # a total over periods has none before it
        for members in self._hierarchies(scope.dimension):
            for depth in range(len(members.levels)):
                own = calendar.periods(members, depth)
                held = np.unique(own.code[allowed]) if own is not None else np.empty(0)
                if own is not None and len(held) == 1 and bool(allowed[own.code == held[0]].all()):
                    return calendar.period_on(members, depth, scope.count)
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
        named = [each.name for each in shown_hierarchies(found) if not each.is_list]
        return [self.questioner.source.members(dimension, each) for each in named]

    def _standing(self, dimension: str, pair: PairOfGrains) -> Iterator[Standing]:
        sides: tuple[tuple[AxisName, AxisLimits, AxisGrain], ...] = (
            ("rows", self.shape.rows, pair.rows),
            ("columns", self.shape.columns, pair.columns),
        )
        for axis, limits, grain in sides:
            for place, (placement, depth) in enumerate(zip(limits.placements, grain.depths, strict=False)):
                if placement.placed.dimension == dimension:
                    yield Standing(axis, place, placement, depth, place in grain.others)

    def _headers(self, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray) -> tuple[MemberSet, ...]:
        """What it takes to belong to the headers of one cell."""
        rows, columns = self.shape.rows.placements, self.shape.columns.placements
        return header_sets(rows, pair.rows, row_codes[0]) + header_sets(columns, pair.columns, column_codes[0])

    def _reached(self, condition: Conditions, headers: tuple[MemberSet, ...]) -> Conditions | None:
        reached = self.questioner.reached(self.records.grain)
        return condition + headers if all(reached(each.dimension) for each in headers) else None

    def _filters_by(self, dimensions: tuple[str, ...]) -> tuple[Conditions, Conditions]:
        """The filters on some dimensions alone; and all other conditions, those of limits left aside.

        Raises: InputError for a filter on these dimensions and something else.
        """
        own: list[Condition] = []
        others: list[Condition] = list(self.records.condition)
        for each in reached_by(self.questioner.filters, self.questioner.reached(self.records.grain)):
            about = dimensions_of(each)
            if about & set(dimensions) and not about <= set(dimensions):
                name = next(name for name in dimensions if name in about)
                raise InputError(
                    f"A filter joins {self.questioner.model.dimension(name).caption} with something else, so "
                    "nothing else can be put in its place.",
                    "Filter by each separately, or take the change or slice away.",
                )
            (own if about and about <= set(dimensions) else others).append(each)
        return tuple(own), tuple(others)

    def _limits_beside(self, dimension: str, pair: PairOfGrains) -> Conditions:
        """What limits on other dimensions hide from the cells of a pair of grains."""
        limits = self.shape.rows.condition(pair.rows) + self.shape.columns.condition(pair.columns)
        found = reached_by(limits, self.questioner.reached(self.records.grain))
        return tuple(each for each in found if dimension not in dimensions_of(each))

    def _filtered(self, limits: Conditions) -> Conditions:
        reached = self.questioner.reached(self.records.grain)
        return self.records.condition + reached_by(self.questioner.filters + limits, reached)

    def _groups(self, pair: PairOfGrains, condition: Conditions) -> Groups:
        known = self._asked.get((pair, condition))
        if known is None:
            asked = Asked(self.records.grain, self.aggregates, condition, self.questioner.rights)
            found = group_pairs({pair: ()}, self.shape, asked, self.questioner.group, self.questioner.watch)
            known = self._asked[pair, condition] = found[pair]
        return known


def _reaches_first_years(days: np.ndarray, span: DataSpan, years: int) -> bool:
    """Whether a time holds days of the first years that there is data for, so many before which nothing is known: the
    time before would be a part, and its change nearly the whole."""
    first = np.datetime64(span.first, "Y") + (years - 1)
    return bool((days.astype("datetime64[D]").astype("datetime64[Y]") <= first).any())


def _with_joints(
    standing: Standing, came: np.ndarray, onto: np.ndarray, days: np.ndarray, span: DataSpan, years: int
) -> tuple[np.ndarray, np.ndarray]:
    """Members and those on which they land, `(n,) int64` each, with joint members and what is below them: what lands on
    one of theirs lands on them too. One of whose members nothing is known before has no time before it.

    Args: `days` are those of the calendar's rows; `years` so many years before are meant, 0 for periods.
    """
    members, depth = standing.placement.members, standing.depth
    pairs = [(came, onto)]
    for branch in members.branches if isinstance(members, JoinedMembers) else ():
        if branch.depth <= depth and branch.finest <= depth:
            is_whole = depth > branch.deep or bool(np.isin(branch.below[depth], onto).all())
            own = days[branch.rows[: len(days)]]
            if not is_whole or (years and depth == branch.deep and _reaches_first_years(own, span, years)):
                continue
            here = branch.here(onto, depth)
            pairs.append((came[here >= 0], here[here >= 0].astype(np.int64)))
    return np.concatenate([each for each, _ in pairs]), np.concatenate([each for _, each in pairs])


def _is_joint(standing: Standing, codes: np.ndarray) -> np.ndarray:
    """`(n,) bool`: which members at a place are joint ones."""
    members = standing.placement.members
    branches = members.branches if isinstance(members, JoinedMembers) else ()
    return np.isin(codes, [each.code for each in branches if each.deep == standing.depth])


def _chosen(landed: Landed, rows: np.ndarray) -> Landed:
    groups = Groups(
        tuple(each[rows] for each in landed.groups.codes), tuple(each.take(rows) for each in landed.groups.values)
    )
    return Landed(landed.row_codes[rows], landed.column_codes[rows], groups)


def _pairs(codes: np.ndarray, landing: Landing) -> tuple[np.ndarray, np.ndarray]:
    """Which groups land, each as often as its member does, and on which members."""
    order = np.argsort(landing.came, kind="stable")
    came, onto = landing.came[order], landing.onto[order]
    first = np.searchsorted(came, codes, "left")
    counts = np.searchsorted(came, codes, "right") - first
    again = np.repeat(np.arange(len(codes)), counts)
    within = np.arange(len(again)) - np.repeat(np.cumsum(counts) - counts, counts)
    return again, onto[first[again] + within]


def rooms_of(shape: Shape, pair: PairOfGrains) -> list[int]:
    """Above every code of each place of a pair of grains, rows first."""
    sides = ((shape.rows, pair.rows), (shape.columns, pair.columns))
    return [
        placement.code_rooms[depth]
        for limits, grain in sides
        for placement, depth in zip(limits.placements, grain.depths, strict=False)
    ]
