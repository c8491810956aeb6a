"""What a question asks of each fact. Bases that count the same records are asked together."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import product, takewhile

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.engine.elsewhere import Elsewhere, rooms_of
from dastan.core.engine.filters import reached_by
from dastan.core.engine.grains import AxisGrain, Placement, ancestors
from dastan.core.engine.grouping import find_rows
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs, part_count
from dastan.core.engine.questioner import Questioner, Wanted
from dastan.core.engine.size import Size, size_of_fact
from dastan.core.engine.waist import Groups
from dastan.core.formula.formula import Base, Formula, bases_of
from dastan.core.formula.scopes import Known, Replacing, Without
from dastan.core.model.reach import Grain
from dastan.core.values import Values, widened

_TOTAL = AxisGrain(())


@dataclass(frozen=True, slots=True, eq=False)
class FactPlan:
    """What will be asked of one fact, at every pair of grains by which it is reached."""

    wanted: Wanted
    pairs: tuple[PairOfGrains, ...]

    @property
    def others(self) -> tuple[Replacing, ...]:
        """The other scopes whose groups land on the cells, each of which is asked for by itself."""
        scopes = (each.scope.of if isinstance(each.scope, Known) else each.scope for each in self.wanted.bases)
        return tuple(dict.fromkeys(each for each in scopes if isinstance(each, Replacing)))


@dataclass(frozen=True, slots=True, eq=False)
class PairCells:
    """The cells of one pair of grains.

    `row_codes` and `column_codes` hold the codes of their headers, `(n_cells, n_places)`. The first `own_count` have
    groups of their own, with `counts` records each; those after them have values of another scope alone.
    """

    row_codes: np.ndarray
    column_codes: np.ndarray
    counts: np.ndarray
    values: dict[Base, Values]

    @property
    def own_count(self) -> int:
        return len(self.counts)


@dataclass(frozen=True, slots=True, eq=False)
class Fact:
    """The cells of every pair of grains that reaches some records."""

    wanted: Wanted
    pairs: dict[PairOfGrains, PairCells]
    elsewhere: Elsewhere
    """Asks for its records beyond the scopes of the cells."""

    @property
    def grain(self) -> Grain:
        return self.wanted.records.grain

    @property
    def is_open(self) -> bool:
        """Whether it counts what is open at a date."""
        return bool(self.wanted.records.alone)


def plan_facts(questioner: Questioner, formulas: tuple[Formula, ...], shape: Shape) -> list[FactPlan]:
    """One plan for all bases that count the same records.

    Where a placed dimension does not reach a fact, only the totals above it are asked.
    """
    plans = []
    for wanted in questioner.wanted(base for each in formulas for base in bases_of(each)):
        reached = questioner.reached(wanted.records.grain)
        rows, columns = (_reaching(each, reached) for each in (shape.rows, shape.columns))
        shown = tuple(PairOfGrains(*each) for each in product(rows, columns))
        plans.append(FactPlan(wanted, shown))
    return plans


def _reaching(limits: AxisLimits, reached: Callable[[str], bool]) -> list[AxisGrain]:
    """The grains of an axis whose dimensions all reach some records."""
    count = sum(1 for _ in takewhile(lambda each: reached(each.placed.dimension), limits.placements))
    return [each for each in limits.grains if len(each.depths) <= count]


def size_of_plans(plans: list[FactPlan], shape: Shape, questioner: Questioner) -> Size:
    """The most that all of it can come to."""
    size = Size(0, 0, 0.0)
    for each in plans:
        records = questioner.seen.record_count(each.wanted.records.grain)
        outside = {base.scope for base in each.wanted.bases if isinstance(base.scope, Without)}
        for _ in (None, *each.others, *outside):
            size += size_of_fact(shape, each.pairs, each.wanted.aggregates, records)
    return size


def ask_facts(plans: list[FactPlan], shape: Shape, questioner: Questioner) -> list[Fact]:
    """Groups each fact. A filter or limit on a dimension that does not reach it leaves it alone."""
    questioner.watch.expect(sum(part_count(each.wanted.aggregates, len(each.pairs)) for each in plans))
    facts = []
    for plan in plans:
        records, aggregates = plan.wanted.records, plan.wanted.aggregates
        reached = questioner.reached(records.grain)
        condition = records.condition + reached_by(questioner.filters, reached)
        asked = Asked(records.grain, aggregates, condition, questioner.rights)
        limited = {
            pair: records.by(shape.levels(pair))
            + reached_by(shape.rows.condition(pair.rows) + shape.columns.condition(pair.columns), reached)
            for pair in plan.pairs
        }
        groups = group_pairs(limited, shape, asked, questioner.group, questioner.watch)
        elsewhere = Elsewhere(records, aggregates, shape, questioner)
        cells = {pair: _cells(plan, pair, each, shape, elsewhere) for pair, each in groups.items()}
        facts.append(Fact(plan.wanted, cells, elsewhere))
    return facts


def _cells(plan: FactPlan, pair: PairOfGrains, groups: Groups, shape: Shape, elsewhere: Elsewhere) -> PairCells:
    """The cells of a pair of grains, with the values of every base of the cell's own records, and of those that land
    there. What is looked up above or outside has a value in every cell of the cube, whichever fact it is of."""
    row_codes, column_codes = shape.axis_codes(pair, groups.codes, len(groups))
    counts, wanted = groups.values[0].data, plan.wanted
    places: dict[Replacing | None, tuple[np.ndarray, Groups]] = {None: (np.arange(len(groups)), groups)}
    for other in plan.others:
        found = elsewhere.landed(other, pair)
        if found is not None:
            rooms = rooms_of(shape, pair)
            both = np.hstack([found.row_codes, found.column_codes])
            at = find_rows(both, np.hstack([row_codes, column_codes]), rooms)
            further = np.flatnonzero(at < 0)
            at[further] = len(row_codes) + np.arange(len(further))
            row_codes = np.concatenate([row_codes, found.row_codes[further]])
            column_codes = np.concatenate([column_codes, found.column_codes[further]])
            places[other] = (at, found.groups)
    size = len(row_codes)
    values: dict[Base, Values] = {}
    for base in wanted.bases:
        scope = base.scope
        if isinstance(scope, Known) and scope.of in places:
            codes = np.hstack([row_codes, column_codes])
            known = elsewhere.same_time(scope.of, pair, codes, places[scope.of][0])
            values[base] = Values(np.ones(size, np.int64), 0, known)
        elif (scope is None or isinstance(scope, Replacing)) and scope in places:
            at, own = places[scope]
            values[base] = widened(wanted.value(base, own), at, size)
    return PairCells(row_codes, column_codes, counts, values)


def seen_in(facts: list[Fact], axis: AxisName, shape: Shape) -> dict[AxisGrain, np.ndarray]:
    """Per grain of an axis, the header codes for which any of the facts has a cell, `(n, n_places)`.

    Whatever has records somewhere has them in every total above as well. But what is open in a month may not be
    open at the year's end: there every seen cell counts, and brings the members above it in.
    """
    own_limits, other_limits = (shape.rows, shape.columns) if axis == "rows" else (shape.columns, shape.rows)
    found: dict[AxisGrain, list[np.ndarray]] = {}
    for fact in facts:
        for pair, cells in fact.pairs.items():
            own = cells.own_count
            grain, codes, other, other_codes = pair.rows, cells.row_codes[:own], pair.columns, cells.column_codes[:own]
            if axis == "columns":
                grain, codes, other, other_codes = other, other_codes, grain, codes
            if grain == _TOTAL or (other != _TOTAL and not fact.is_open):
                continue
            if fact.is_open:
                codes = codes[
                    own_limits.stands(grain, codes)
                    if other == _TOTAL
                    else own_limits.stands(grain, codes) & other_limits.stands(other, other_codes)
                ]
                for above, above_codes in _above(own_limits.placements, grain, codes):
                    found.setdefault(above, []).append(above_codes)
            found.setdefault(grain, []).append(codes)
    return {
        grain: np.unique(np.concatenate(codes), axis=0) if len(codes) > 1 else codes[0]
        for grain, codes in found.items()
    }


def _above(
    placements: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray
) -> Iterator[tuple[AxisGrain, np.ndarray]]:
    """The grains and codes of every header above those of a grain, nearest first."""
    for last in range(len(grain.depths) - 1, -1, -1):
        if last < len(grain.depths) - 1:
            yield grain.upto(last + 1), codes[:, : last + 1]
        placement = placements[last]
        for upper in reversed([each for each in placement.shown_depths if each < grain.depths[last]]):
            own = ancestors(placement, grain, last, codes[:, last], upper)
            yield grain.at(last, upper), np.column_stack([codes[:, :last], own]).astype(np.int32)
