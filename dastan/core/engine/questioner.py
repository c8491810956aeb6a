"""Asks one reader's question: which records count, and what a measure comes to at any levels."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from copy import copy
from dataclasses import dataclass, replace
from datetime import date
from functools import cache, cached_property
from math import prod
from typing import cast

import numpy as np

from dastan.core.analysis.document import Analysis, PlacedMeasure
from dastan.core.analysis.joints import joinings_of
from dastan.core.analysis.placed import shown_formula, shown_measure
from dastan.core.analysis.prompts import Answers
from dastan.core.engine.aggregates import COUNT
from dastan.core.engine.filters import Circumstances, condition_of, looks_at_measures, reached_by
from dastan.core.engine.joints import JoinedSource
from dastan.core.engine.laid_out import LaidOutSource, layouts_of
from dastan.core.engine.listed import listed_paths
from dastan.core.engine.on_rows import on_rows
from dastan.core.engine.seen import Seen
from dastan.core.engine.size import Budget, refuse_beyond, size_of_groups
from dastan.core.engine.waist import (
    Conditions,
    Groups,
    GroupSet,
    LevelRef,
    Request,
    Rights,
    Source,
    dimensions_of,
    group_set,
    has_groups,
)
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.formula import Along, Base, Beneath, Formula, OnRows, Standing, bases_of, calculate, is_own
from dastan.core.model.conditions import Condition as Written
from dastan.core.model.conditions import LevelName, MeasureFilter
from dastan.core.model.document import Measure, SemanticModel, next_named
from dastan.core.model.financial_layouts import LaidOutMembers
from dastan.core.model.meaning import parts_of
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import Grain, grain_of, reaches
from dastan.core.values import Values, empty_values, widened


@dataclass(frozen=True, slots=True)
class Records:
    """The records that measures count: of one fact, by one set of roles, under one condition of their own.

    What is open at a date is asked for `alone`: it exists in periods in which nothing began.
    """

    grain: Grain
    condition: Conditions
    alone: str
    placed: Conditions = ()

    def by(self, levels: Iterable[LevelRef]) -> Conditions:
        """What holds for them besides in a table by some levels."""
        dimensions = {each.dimension for each in levels}
        return tuple(each for each in self.placed if dimensions_of(each) <= dimensions)


@dataclass(frozen=True, slots=True)
class Wanted:
    """The bases that count the same records, and the aggregates that they need: a count first, but of what is open."""

    records: Records
    bases: tuple[Base, ...]
    aggregates: tuple[BaseAggregate, ...]

    def value(self, base: Base, groups: Groups) -> Values:
        """A base's values, from groups of its aggregates."""
        return groups.values[self.aggregates.index(base.aggregate)]


@dataclass(frozen=True, slots=True, eq=False)
class OnGroups:
    """The groups at some levels, on which formulas of their own records are worked out."""

    codes: np.ndarray
    """`(n, n_levels) int32`"""
    values: dict[Base, Values]
    laid_out: tuple[tuple[int, LaidOutMembers], ...] = ()
    """At which of the levels rows of a financial layout stand."""

    @property
    def size(self) -> int:
        return len(self.codes)

    def base(self, base: Base) -> Values:
        return self.values[base]

    def along(self, along: Along, own: Values) -> Values:
        raise AssertionError(f"{along.kind} of {len(own)} values: what runs along the table has none outside of it")

    def beneath(self, beneath: Beneath) -> Values:
        raise AssertionError(f"{beneath.how} over {beneath.level}: only the cells of a table are brought together so")

    def standing(self, standing: Standing) -> Values:
        raise AssertionError(f"{standing.level}: only the cells of a table stand at a level")

    def on_rows(self, laid_out: OnRows, own: Values) -> Values:  # noqa: ARG002
        return on_rows(own, self.codes, self.laid_out)


Beyond = Callable[["Questioner", Formula, tuple[LevelRef, ...], Conditions], tuple[np.ndarray, Values]]
"""The values of a formula that looks beyond its own records, as in a table by some levels, of records for which
conditions hold."""


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
        beyond: Beyond,
    ) -> None:
        self.document = document
        self.model = model
        self.rights = rights
        self.source, self.group, self._joined = source, watch.watched(group), None
        layouts = layouts_of(model)
        placed = (*document.question.rows, *document.question.columns)
        self.is_laid_out = any((each.dimension, each.hierarchy) in layouts for each in placed)
        """Whether rows of a financial layout stand in the table."""
        if layouts:
            laid_out = LaidOutSource(self.source, self.group, layouts)
            self.source, self.group = laid_out, laid_out.group
        if document.joints:
            self._joined = JoinedSource(self.source, self.group, joinings_of(document))
            self.source, self.group = self._joined, self._joined.group
        self.seen = Seen(model, self.source, rights, self.group)
        self.budget = budget
        self.watch = watch
        self._beyond = beyond
        self._listed: dict[str, tuple[MemberPath, ...]] = {}
        self._circumstances = Circumstances(
            model, today, Answers(document.question, model), self._newest, self._fulfilling, self.listed
        )

    @cached_property
    def filters(self) -> Conditions:
        """All filters. Those on a measure come after all others, and look at the records that these leave."""
        return self._plain_filters + self.written(
            [each for each in self.document.question.filters if looks_at_measures(each, self.model)]
        )

    @cached_property
    def _plain_filters(self) -> Conditions:
        return self.written(
            [each for each in self.document.question.filters if not looks_at_measures(each, self.model)]
        )

    def asked_otherwise(self, document: Analysis, filters: Conditions) -> Questioner:
        """The same reader asking for another table, of which `filters` hold and no others."""
        other = copy(self)
        other.document = document
        other.__dict__ |= {"filters": filters, "_plain_filters": filters}
        return other

    def codes_left(self, members: HierarchyMembers, depth: int) -> np.ndarray:
        """The codes at a level, ascending, of the members that the filters on their own dimension leave, and the
        reader may see; of what belongs nowhere none."""
        dimension = members.dimension
        condition = tuple(each for each in self.filters if dimensions_of(each) == {dimension} and not has_groups(each))
        allowed = self.seen.allowed_rows(dimension, ())
        if self._joined is not None:
            return self._joined.codes_left(dimension, members.hierarchy, depth, condition, allowed)
        left = self.source.allowed_rows(dimension, condition) & allowed
        left[-2:] = False
        return members.codes_in(left, depth)

    def listed(self, name: str) -> tuple[MemberPath, ...]:
        """The members of a list, found once."""
        if name not in self._listed:
            self._listed[name] = listed_paths(next_named(self.model.lists, name), self)
        return self._listed[name]

    def condition_of(self, written: Written) -> Conditions:
        """One filter alone, as a source takes it; none where it asks for nothing."""
        return self.written([written])

    def reached(self, grain: Grain) -> Callable[[str], bool]:
        """Whether a dimension reaches records of a grain."""
        return cache(lambda name: reaches(self.model, grain, self.model.dimension(name)))

    def records_of(self, counted: Counted) -> Records:
        """The records that a base counts."""
        # Formulas do not look into the conditions of measures, and only pass them on.
        placed = self.where(counted.placed)
        return Records(Grain(counted.table, counted.roles), self.where(counted.where), counted.alone, placed)

    def where(self, written: tuple[Hashable, ...]) -> Conditions:
        """The conditions of a measure's own, or of a slice, as a source takes them."""
        found = self.written(cast("tuple[Written, ...]", written))
        return self._joined.of_records(found) if self._joined is not None else found

    def formula_of(self, placed: PlacedMeasure) -> Formula:
        """What the values of a placement are worked out from."""
        return shown_formula(placed, self.model, self.is_laid_out)

    def wanted(self, bases: Iterable[Base]) -> list[Wanted]:
        """What has to be asked for bases, those of the same records together."""
        alike: dict[Records, list[Base]] = {}
        for base in dict.fromkeys(bases):
            alike.setdefault(self.records_of(base.counted), []).append(base)
        found = []
        for records, own in alike.items():
            aggregates = [each.aggregate for each in own]
            all_of_them = tuple(dict.fromkeys(aggregates if records.alone else [COUNT, *aggregates]))
            found.append(Wanted(records, tuple(own), all_of_them))
        return found

    def table(
        self, placed: PlacedMeasure, levels: tuple[LevelRef, ...], more: Conditions, filters: Conditions | None = None
    ) -> tuple[np.ndarray, Values]:
        """A measure's values at some levels: `(n_groups, n_levels) int32` codes, and a value for each.

        One that looks beyond its own records has those of a table by these levels.
        """
        formula = self.formula_of(replace(placed, view=None))
        if is_own(formula):
            return self.table_of(formula, levels, more, filters)
        return self._beyond(self, formula, levels, (self.filters if filters is None else filters) + more)

    def table_of(
        self,
        formula: Formula,
        levels: tuple[LevelRef, ...],
        more: Conditions,
        filters: Conditions | None = None,
        standing: tuple[str, ...] = (),
    ) -> tuple[np.ndarray, Values]:
        """A formula's values at some levels: `(n_groups, n_levels) int32` codes, and a value for each.

        Args: `standing` are further dimensions that must reach the records: the rest of a first level is no group.
        """
        wanted, laid_out = self.wanted(bases_of(formula)), tuple(self._laid_out(levels))
        codes: list[np.ndarray] = []
        values: list[dict[Base, Values]] = []
        for each in wanted:
            records, reached = each.records, self.reached(each.records.grain)
            if not all(reached(name) for name in (*(level.dimension for level in levels), *standing)):
                codes.append(np.empty((0, len(levels)), np.int32))
                values.append({base: empty_values(0, 0) for base in each.bases})
                continue
            self._refuse_too_many(levels, records.grain)
            condition = records.condition + reached_by((self.filters if filters is None else filters) + more, reached)
            condition += records.by(levels)
            groups = self.group(Request(records.grain, levels, each.aggregates, condition, self.rights))
            has = np.flatnonzero(groups.values[0].data > 0)
            matrix = np.stack(groups.codes, axis=1) if levels else np.empty((len(groups), 0), np.int32)
            codes.append(matrix[has])
            values.append({base: each.value(base, groups).take(has) for base in each.bases})
        if len(wanted) == 1:
            return codes[0], calculate(formula, OnGroups(codes[0], values[0], laid_out))
        joined, place = np.unique(np.concatenate(codes), axis=0, return_inverse=True)
        places = np.split(np.asarray(place).ravel(), np.cumsum([len(each) for each in codes])[:-1])
        found = {
            base: widened(each, own_places, len(joined))
            for own, own_places in zip(values, places, strict=True)
            for base, each in own.items()
        }
        return joined, calculate(formula, OnGroups(joined, found, laid_out))

    def _laid_out(self, levels: tuple[LevelRef, ...]) -> Iterator[tuple[int, LaidOutMembers]]:
        for at, each in enumerate(levels):
            members = self.source.members(each.dimension, each.hierarchy)
            if isinstance(members, LaidOutMembers):
                yield at, members

    def _refuse_too_many(self, levels: tuple[LevelRef, ...], grain: Grain) -> None:
        """Raises LimitError where a measure would be ranked or compared at more groups than may be answered."""
        counts = []
        for each in levels:
            members = self.seen.members(each.dimension, each.hierarchy)
            depth = members.depth_of(each.level)
            counts.append((members.levels[depth].caption, members.count_at(depth)))
        groups = min(prod(count for _, count in counts), self.seen.record_count(grain))
        size = size_of_groups(groups, 1)
        refuse_beyond(size, self.budget, counts, self.seen.is_all)
        self.watch.admit(size.memory_bytes)

    def _newest(self, dimension: str) -> str | None:
        return self._newest_of([shown_measure(each, self.model) for each in self.document.question.measures], dimension)

    def _newest_of(self, measures: Sequence[Measure], dimension: str) -> str | None:
        grains = {grain_of(part) for each in measures for part in parts_of(each, self.model)}
        days = [self.seen.newest(grain, dimension) for grain in grains]
        return max((day for day in days if day is not None), default=None)

    def written(self, conditions: Sequence[Written], measures: Sequence[str] | None = None) -> Conditions:
        """Conditions of a document as a source takes them. Args: the newest data is that of `measures`, by their names;
        of those that are asked for without."""
        around = self._circumstances
        if measures is not None:
            own = [next_named(self.model.measures, each) for each in measures]
            around = replace(around, newest=lambda dimension: self._newest_of(own, dimension))
        found = (condition_of(each, around) for each in conditions)
        return tuple(each for each in found if each is not None)

    def _fulfilling(self, written: MeasureFilter) -> GroupSet:
        """As `fulfilling`, over what the other filters leave."""
        return self.fulfilling(written, self._plain_filters)

    def fulfilling(self, written: MeasureFilter, over: Conditions) -> GroupSet:
        """The groups at a condition's grain for which its measure fulfils the comparison, over some records."""
        levels = tuple(_level_ref(each) for each in written.at)
        wanted = self._circumstances.answers.fill(written.values) or ()
        placed = PlacedMeasure(measure=written.measure)
        if written.per is None:
            codes, values = self.table(placed, levels, (), over)
        else:
            inner, values = self.table(placed, (*levels, _level_ref(written.per)), (), over)
            codes, values = _averaged(inner[:, :-1], values)
        return group_set(levels, codes[np.flatnonzero(fulfils(values, written.operator, wanted))])


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


def _level_ref(level: LevelName) -> LevelRef:
    return LevelRef(level.dimension, level.hierarchy, level.level)
