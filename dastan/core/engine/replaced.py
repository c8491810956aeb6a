"""Other scopes that replace a part of the cell's own: another time, or a member in place of all others.

Each is the same request under another condition, whose groups land on the cells.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.engine.beginnings import blocks_of, first_days
from dastan.core.engine.calendars import Calendar
from dastan.core.engine.filters import reached_by
from dastan.core.engine.grains import AxisGrain, Placement
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.moved_time import Move
from dastan.core.engine.plan import PairOfGrains, Shape
from dastan.core.engine.questioner import Questioner, Records
from dastan.core.engine.waist import Condition, Conditions, DataSpan, MemberSet, dimensions_of
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.scopes import Earlier, Instead, Opening, Replacing, ToDate
from dastan.core.model.joints import JoinedMembers
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import shown_hierarchies


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
class Replacements:
    """What holds for records of a fact in place of its part of a scope. Args: `aggregates` are those wanted."""

    records: Records
    aggregates: tuple[BaseAggregate, ...]
    shape: Shape
    questioner: Questioner
    _calendars: dict[str, Calendar] = field(default_factory=dict, init=False)

    def of(self, scope: Replacing, pair: PairOfGrains) -> tuple[Replaced, ...]:
        """What holds for the records of another scope, and where its members land, each on other headers; nothing where
        there is no such scope."""
        if not self.questioner.reached(self.records.grain)(scope.dimension):
            return ()
        standing = list(self.standing(scope.dimension, pair))
        if any(each.is_rest for each in standing):
            return ()  # the rest that a limit leaves is nothing that another could stand for
        if isinstance(scope, Opening):
            return tuple(self._opening(scope, pair, standing))
        if isinstance(scope, Earlier):
            found = self._earlier(scope, pair, standing)
        elif isinstance(scope, ToDate):
            found = self._to_date(scope, pair, standing)
        else:
            found = self._instead(scope, pair, standing)
        return () if found is None else (found,)

    def _instead(self, scope: Instead, pair: PairOfGrains, standing: list[Standing]) -> Replaced | None:
        """A member in place of all others of its dimension: it stands against every member at its level, and against no
        total over them."""
        members = self.questioner.source.members(scope.dimension, scope.hierarchy)
        path: MemberPath = scope.path  # type: ignore[assignment]
        code = members.find(path)
        if code is None or (not standing and self._placements(scope.dimension)):
            return None
        others = self.filters_by((scope.dimension,))[1] + self._limits_beside(scope.dimension, pair)
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
        by_time, others = self.filters_by((scope.dimension,))
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
        by_time, others = self.filters_by((scope.dimension,))
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

    def _opening(self, scope: Opening, pair: PairOfGrains, standing: list[Standing]) -> Iterator[Replaced]:
        """The last loaded day before the first one of each period, or of the whole time where none stands.

        Those found in another period are asked for together, and those found in their own, which filters cut short:
        of each period one day is taken at most either way.
        """
        calendar, hierarchies = self._calendar(scope.dimension), self._hierarchies(scope.dimension)
        found = [(each, calendar.periods(each.placement.members, each.depth)) for each in standing]
        if len(found) > 1 or any(own is None for _, own in found):
            return
        by_time, others = self.filters_by((scope.dimension,))
        others += self._limits_beside(scope.dimension, pair)
        if not found:
            by_time += self._limits_on(scope.dimension, pair)
        allowed = self.questioner.source.allowed_rows(scope.dimension, by_time)[: len(calendar.days)]
        if not allowed.any():
            return
        blocks = blocks_of(self.records, self.aggregates, calendar, hierarchies, self.questioner)
        if not found:
            before = blocks.before(np.array([calendar.days[allowed].min()]))
            if before[0] >= 0:
                yield Replaced((*others, calendar.condition(blocks.code == before[0], hierarchies)), ())
            return
        [(stand, own)] = found
        assert own is not None
        onto, first = first_days(own, calendar.days, allowed)
        before = blocks.before(first)
        onto, before = onto[before >= 0], before[before >= 0]
        came = np.zeros(len(blocks.last_day), np.int64)
        came[blocks.code[blocks.code >= 0]] = own.code[blocks.code >= 0]
        is_own = came[before] == onto
        for each in (~is_own, is_own):
            if each.any():
                told = calendar.condition(np.isin(blocks.code, before[each]), [stand.placement.members, *hierarchies])
                yield Replaced((*others, told), (Landing(stand, came[before[each]], onto[each]),))

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

    def standing(self, dimension: str, pair: PairOfGrains) -> Iterator[Standing]:
        sides: tuple[tuple[AxisName, AxisLimits, AxisGrain], ...] = (
            ("rows", self.shape.rows, pair.rows),
            ("columns", self.shape.columns, pair.columns),
        )
        for axis, limits, grain in sides:
            for place, (placement, depth) in enumerate(zip(limits.placements, grain.depths, strict=False)):
                if placement.placed.dimension == dimension:
                    yield Standing(axis, place, placement, depth, place in grain.others)

    def filters_by(self, dimensions: tuple[str, ...]) -> tuple[Conditions, Conditions]:
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

    def _limits_on(self, dimension: str, pair: PairOfGrains) -> Conditions:
        """What limits on a dimension alone hide from the cells of a pair of grains."""
        limits = self.shape.rows.condition(pair.rows) + self.shape.columns.condition(pair.columns)
        return tuple(each for each in limits if dimensions_of(each) == {dimension})


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
