"""Gestures that put dimensions on the table's axes, take them off, keep them at hand, and turn the table."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.checks import check_reach
from dastan.core.analysis.document import Analysis, AxisName, PlacedDimension
from dastan.core.analysis.fitting import fitting_axis
from dastan.core.analysis.gestures.step import HierarchyStep, Step
from dastan.core.analysis.placed_measures import turned_views
from dastan.core.analysis.placing import (
    hierarchy_of,
    is_same_hierarchy,
    moved,
    placed_in,
    waiting_in,
    with_question,
    without_dimension,
)
from dastan.core.analysis.resolve import check_level, find_dimension
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class PutDimension(HierarchyStep):
    """Puts a hierarchy on an axis, or moves it there, from `level` down (from its top without). Without an axis it goes
    where it fits best."""

    dimension: str
    hierarchy: str
    level: str | None = None
    axis: AxisName | None = None
    at: int | None = None
    kind: Literal["put_dimension"] = "put_dimension"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy = hierarchy_of(model, *self.own)
        before = document.question
        present = placed_in(before, *self.own) or waiting_in(before, *self.own)
        level = self.level or (present.level if present else hierarchy.levels[0])
        dimension = find_dimension(model, self.dimension)
        check_level(dimension, hierarchy, level)
        if present is None:
            check_reach(document, dimension, model)
        placed = PlacedDimension(dimension=self.dimension, hierarchy=self.hierarchy, level=level)
        if present is not None:
            # A level that is now above the first shown, or is it, is no longer passed over.
            start = hierarchy.levels.index(level)
            skipped = tuple(each for each in present.skipped if hierarchy.levels.index(each) > start)
            placed = replace(present, level=level, skipped=skipped)
        axis = self._axis(document, model)
        target = before.axis(axis)
        at = len(target) if self.at is None else self.at
        question = without_dimension(before, *self.own)
        if question.measures_on == axis and question.measures_at is not None:
            stood = sum(not is_same_hierarchy(each, placed) for each in target[:at])
            question = replace(question, measures_at=question.measures_at + (stood < question.measures_at))
        on_axis = moved(target, placed, at, lambda each: is_same_hierarchy(each, placed))
        return replace(document, question=question.with_axis(axis, on_axis))

    def _axis(self, document: Analysis, model: SemanticModel) -> AxisName:
        return self.axis or fitting_axis(document, *self.own, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        joining = "by" if self._axis(before, model) == "rows" else "against"
        return f"{joining} {self.placed_caption(before, model, self.level)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeDimension(HierarchyStep):
    """Takes a hierarchy off its axis. What was open in it waits."""

    dimension: str
    hierarchy: str
    kind: Literal["take_dimension"] = "take_dimension"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return replace(document, question=without_dimension(document.question, *self.own))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"took {self.placed_caption(before, model)} away"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAside(HierarchyStep):
    """Keeps a hierarchy at hand, on neither axis: just as it stood, to be put back so."""

    dimension: str
    hierarchy: str
    kind: Literal["set_aside"] = "set_aside"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy = hierarchy_of(model, *self.own)
        placed = placed_in(document.question, *self.own) or waiting_in(document.question, *self.own)
        if placed is None:
            placed = PlacedDimension(dimension=self.dimension, hierarchy=self.hierarchy, level=hierarchy.levels[0])
        question = without_dimension(document.question, *self.own)
        return replace(document, question=replace(question, waiting=(*question.waiting, placed)))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"kept {self.placed_caption(before, model)} at hand"


@dataclass(frozen=True, slots=True, kw_only=True)
class SwapAxes(Step):
    """Turns the table: rows become columns and columns rows. Nothing else changes."""

    kind: Literal["swap_axes"] = "swap_axes"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        document = turned_views(document)
        question = document.question
        return with_question(
            document,
            measures_on="columns" if question.measures_on == "rows" else "rows",
            rows=question.columns,
            columns=question.rows,
            row_total=question.column_total,
            column_total=question.row_total,
            empty_rows=question.empty_columns,
            empty_columns=question.empty_rows,
        )

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "turned"
