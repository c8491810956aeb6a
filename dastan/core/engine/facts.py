"""What a question asks of each fact. Measures that count the same records are asked together."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import product

import numpy as np

from dastan.core.analysis.document import Analysis, AxisName, PlacedMeasure
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.prompts import Answers
from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.filters import Circumstances, condition_of, looks_at_measures, reached_by
from dastan.core.engine.grains import AxisGrain, Placement, ancestors, axis_grains, seen_codes
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.measures import base_aggregates, grouped_values, measure_values, parts_of
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs, part_count
from dastan.core.engine.size import Budget, Size, refuse_beyond, size_of_fact
from dastan.core.engine.waist import Conditions, Groups, GroupSet, LevelRef, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.core.model.conditions import Condition as Written
from dastan.core.model.conditions import LevelName, MeasureFilter
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.reach import Grain, grain_of, reaches
from dastan.core.values import Values, empty_values
from dastan.core.values import widened as widened_values

COUNT = BaseAggregate("count")
_TOTAL = AxisGrain(())


@dataclass(frozen=True, slots=True)
class Records:
    """The records that measures count: of one fact, by one set of roles, under one condition of their own.

    What is open at a date is asked for `alone`: it exists in periods in which nothing began.
    """

    grain: Grain
    condition: Conditions
    alone: str


@dataclass(frozen=True, slots=True, eq=False)
class Fact:
    """The groups of every pair of grains that reaches some records, and the measures that count them.

    `row_codes` and `column_codes` hold the codes of each group's headers, `(n_groups, n_places)`.
    """

    grain: Grain
    measures: tuple[Measure, ...]
    aggregates: tuple[BaseAggregate, ...]
    groups: dict[PairOfGrains, Groups]
    row_codes: dict[PairOfGrains, np.ndarray]
    column_codes: dict[PairOfGrains, np.ndarray]

    @property
    def is_open(self) -> bool:
        """Whether it counts what is open at a date."""
        return self.aggregates[0].kind == "open"


class Questioner:
    """Asks one reader's question of a source: which records count, and what their groups come to."""

    def __init__(
        self,
        document: Analysis,
        model: SemanticModel,
        source: Source,
        rights: Rights,
        today: date,
        group: Callable[[Request], Groups],
        budget: Budget,
        watch: Watch,
    ) -> None:
        self.document = document
        self.model = model
        self.source = source
        self.rights = rights
        self.group = watch.watched(group)
        self.budget = budget
        self.watch = watch
        self._circumstances = Circumstances(
            model, today, Answers(document.question, model), self._newest, self._fulfilling
        )
        plain: list[Written] = []
        measured: list[Written] = []
        for each in document.question.filters:
            (measured if looks_at_measures(each, model) else plain).append(each)
        self._filters: Conditions = self._written(plain)
        # Conditions on a measure come after all others, and look at the records that those leave.
        self.filters: Conditions = self._filters + self._written(measured)

    def reached(self, grain: Grain) -> Callable[[str], bool]:
        """Whether a dimension reaches records of a grain."""
        return lambda name: reaches(self.model, grain, self.model.dimension(name))

    def records_of(self, measure: Measure) -> Records:
        """The records that a measure counts. Args: `measure` is not a ratio."""
        alone = measure.name if measure.aggregate == "open" else ""
        return Records(grain_of(measure), self._written(measure.where), alone)

    def table(
        self, placed: PlacedMeasure, levels: tuple[LevelRef, ...], more: Conditions, filters: Conditions | None = None
    ) -> tuple[np.ndarray, Values]:
        """A measure's values at some levels: `(n_groups, n_levels) int32` codes, and a value for each."""
        measure = shown_measure(placed, self.model)
        parts = parts_of(measure, self.model)
        codes: list[np.ndarray] = []
        values: list[Values] = []
        for part in parts:
            records, own = self.records_of(part), base_aggregates(part)
            reached = self.reached(records.grain)
            if not all(reached(each.dimension) for each in levels):
                codes.append(np.empty((0, len(levels)), np.int32))
                values.append(empty_values(0, 0))
                continue
            condition = records.condition + reached_by((self.filters if filters is None else filters) + more, reached)
            aggregates = own if records.alone else tuple(dict.fromkeys((COUNT, *own)))
            groups = self.group(Request(records.grain, levels, aggregates, condition, self.rights))
            has = np.flatnonzero(groups.values[0].data > 0)
            matrix = np.stack(groups.codes, axis=1) if levels else np.empty((len(groups), 0), np.int32)
            codes.append(matrix[has])
            values.append(grouped_values(part, aggregates, groups).take(has))
        if len(parts) == 1:
            return codes[0], values[0]
        joined = np.unique(np.concatenate(codes), axis=0)
        places = np.split(_numbered(np.concatenate([joined, *codes])), np.cumsum([len(joined), *map(len, codes)]))
        place_of = np.empty(len(joined), np.int64)
        place_of[places[0]] = np.arange(len(joined))
        found = {
            part.name: widened_values(each, place_of[place], len(joined))
            for part, each, place in zip(parts, values, places[1:], strict=False)
        }
        return joined, measure_values(measure, self.model, found)

    def _newest(self, dimension: str) -> str | None:
        grains = {
            grain_of(part)
            for each in self.document.question.measures
            for part in parts_of(shown_measure(each, self.model), self.model)
        }
        days = [self.source.newest(grain, dimension) for grain in grains]
        return max((day for day in days if day is not None), default=None)

    def _written(self, conditions: Sequence[Written]) -> Conditions:
        found = (condition_of(each, self._circumstances) for each in conditions)
        return tuple(each for each in found if each is not None)

    def _fulfilling(self, written: MeasureFilter) -> GroupSet:
        """The groups at a condition's grain for which its measure fulfils the comparison."""
        levels = tuple(_level_ref(each) for each in written.at)
        wanted = self._circumstances.answers.fill(written.values) or ()
        placed = PlacedMeasure(measure=written.measure)
        if written.per is None:
            codes, values = self.table(placed, levels, (), self._filters)
            numbers = values
        else:
            inner, values = self.table(placed, (*levels, _level_ref(written.per)), (), self._filters)
            codes, numbers = _averaged(inner[:, :-1], values)
        kept = codes[np.flatnonzero(fulfils(numbers, written.operator, wanted))]
        return GroupSet(levels, np.ascontiguousarray(kept, np.int32).tobytes())


def ask_facts(questioner: Questioner, measures: tuple[Measure, ...], shape: Shape) -> list[Fact]:
    """Groups each fact for every pair of grains that it is reached by.

    Where a placed dimension does not reach a fact, only the totals above it are asked; a filter or limit on such
    a dimension leaves the fact alone.
    """
    model = questioner.model
    alike: dict[Records, dict[str, Measure]] = {}
    for measure in measures:
        for part in parts_of(measure, model):
            alike.setdefault(questioner.records_of(part), {})[part.name] = part
    rows, columns = shape.rows.placements, shape.columns.placements
    pairs = [PairOfGrains(*each) for each in product(axis_grains(rows), axis_grains(columns))]
    asked_of: list[tuple[Asked, tuple[Measure, ...], dict[PairOfGrains, Conditions]]] = []
    size = Size(0, 0, 0.0)
    for records, own in alike.items():
        reached = questioner.reached(records.grain)
        wanted = [base for each in own.values() for base in base_aggregates(each)]
        aggregates = tuple(dict.fromkeys(wanted if records.alone else [COUNT, *wanted]))
        condition = records.condition + reached_by(questioner.filters, reached)
        asked = Asked(records.grain, aggregates, condition, questioner.rights)
        shown = {
            pair: reached_by(shape.rows.condition(pair.rows) + shape.columns.condition(pair.columns), reached)
            for pair in pairs
            if all(reached(each) for each in shape.dimensions(pair))
        }
        size += size_of_fact(shape, shown, aggregates, questioner.source.record_count(records.grain))
        asked_of.append((asked, tuple(own.values()), shown))
    refuse_beyond(size, questioner.budget, shape)
    questioner.watch.expect(sum(part_count(asked.aggregates, len(shown)) for asked, _, shown in asked_of))
    facts = []
    for asked, own_measures, shown in asked_of:
        groups = group_pairs(shown, shape, asked, questioner.group, questioner.watch)
        codes = {pair: shape.axis_codes(pair, each.codes, len(each)) for pair, each in groups.items()}
        facts.append(
            Fact(
                asked.grain,
                own_measures,
                asked.aggregates,
                groups,
                {pair: each for pair, (each, _) in codes.items()},
                {pair: each for pair, (_, each) in codes.items()},
            )
        )
    return facts


def seen_in(facts: list[Fact], axis: AxisName, shape: Shape) -> dict[AxisGrain, np.ndarray]:
    """Per grain of an axis, the header codes for which any of the facts has a cell, `(n, n_places)`.

    Whatever has records somewhere has them in every total above as well. But what is open in a month may not be
    open at the year's end: there every seen cell counts, and brings the members above it in.
    """
    own_limits, other_limits = (shape.rows, shape.columns) if axis == "rows" else (shape.columns, shape.rows)
    found: dict[AxisGrain, list[np.ndarray]] = {}
    for fact in facts:
        for pair in fact.groups:
            grain, codes, other, other_codes = pair.rows, fact.row_codes[pair], pair.columns, fact.column_codes[pair]
            if axis == "columns":
                grain, codes, other, other_codes = other, other_codes, grain, codes
            if grain == _TOTAL or (other != _TOTAL and not fact.is_open):
                continue
            if fact.is_open:
                codes = codes[
                    is_header(own_limits, grain, codes)
                    if other == _TOTAL
                    else is_header(own_limits, grain, codes) & is_header(other_limits, other, other_codes)
                ]
                for above, above_codes in _above(own_limits.placements, grain, codes):
                    found.setdefault(above, []).append(above_codes)
            found.setdefault(grain, []).append(codes)
    return {
        grain: np.unique(np.concatenate(codes), axis=0) if len(codes) > 1 else codes[0]
        for grain, codes in found.items()
    }


def is_header(limits: AxisLimits, grain: AxisGrain, codes: np.ndarray) -> np.ndarray:
    """`(n,) bool`: which headers of a grain stand on the axis."""
    return np.asarray(seen_codes(limits.placements, grain, codes) & limits.allowed(grain, codes))


def _above(
    placements: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray
) -> Iterator[tuple[AxisGrain, np.ndarray]]:
    """The grains and codes of every header above those of a grain, nearest first."""
    for last in range(len(grain.depths) - 1, -1, -1):
        if last < len(grain.depths) - 1:
            yield grain.upto(last + 1), codes[:, : last + 1]
        placement = placements[last]
        for upper in reversed([each for each in placement.shown_depths() if each < grain.depths[last]]):
            own = ancestors(placement, grain, last, codes[:, last], upper)
            yield grain.at(last, upper), np.column_stack([codes[:, :last], own]).astype(np.int32)


def fulfils(values: Values, operator: str, wanted: tuple[object, ...]) -> np.ndarray:
    """`(n,) bool`: which values fulfil a comparison; an empty one never does."""
    numbers = [each for each in wanted if isinstance(each, int | float) and not isinstance(each, bool)]
    if len(numbers) < (2 if operator == "between" else 1):
        raise InputError("A condition on a measure compares with a number.", "Write a number, two for a range.")
    own = values.as_float()
    match operator:
        case "equal":
            found = np.isin(own, numbers)
        case "not_equal":
            found = ~np.isin(own, numbers)
        case "less":
            found = own < numbers[0]
        case "at_most":
            found = own <= numbers[0]
        case "more":
            found = own > numbers[0]
        case "at_least":
            found = own >= numbers[0]
        case _:
            found = (own >= numbers[0]) & (own <= numbers[1])
    return np.asarray(found & values.present, np.bool_)


def _averaged(codes: np.ndarray, values: Values) -> tuple[np.ndarray, Values]:
    """The mean of each group's values that are there."""
    has = np.flatnonzero(values.present)
    groups, place = np.unique(codes[has], axis=0, return_inverse=True)
    place = np.asarray(place).ravel()
    total = np.zeros(len(groups))
    np.add.at(total, place, values.as_float()[has])
    counts = np.bincount(place, minlength=len(groups))
    return groups, Values(total / np.maximum(counts, 1), None, counts > 0)


def _numbered(rows: np.ndarray) -> np.ndarray:
    """Equal rows have equal numbers."""
    return np.asarray(np.unique(rows, axis=0, return_inverse=True)[1]).ravel()


def _level_ref(level: LevelName) -> LevelRef:
    return LevelRef(level.dimension, level.hierarchy, level.level)
