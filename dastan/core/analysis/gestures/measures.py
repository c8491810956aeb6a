"""Gestures on the measures of the table."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members, listed
from dastan.core.analysis.document import Analysis, AxisName, PlacedMeasure
from dastan.core.analysis.gestures.defaults import with_defaults
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.placed import shown_measure, viewed_measure
from dastan.core.analysis.placed_measures import with_measures
from dastan.core.analysis.placing import moved, with_question
from dastan.core.analysis.resolve import find_measure
from dastan.core.analysis.view_words import plain_names, view_words
from dastan.core.analysis.views import View
from dastan.core.errors import InputError
from dastan.core.model.document import Aggregate, SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMeasure(Step):
    """Puts a measure in, or moves it, so that it stands before the measure now at `at` (last without)."""

    measure: str
    aggregate: Aggregate | None = None
    percentile: float | None = None
    view: View | None = None
    at: int | None = None
    kind: Literal["put_measure"] = "put_measure"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        own = _as_own(_placed(self), model)
        before = document.question.measures
        at = len(before) if self.at is None else self.at
        measures = moved(before, own, at, lambda each: each == own)
        return with_defaults(with_question(document, measures=measures), document, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        caption = shown_measure(_placed(self), model, members).caption
        is_there = any(shown_measure(each, model, members).caption == caption for each in before.question.measures)
        return f"moved {caption}" if is_there else caption


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeMeasure(Step):
    """Takes a measure away."""

    measure: str
    aggregate: Aggregate | None = None
    percentile: float | None = None
    view: View | None = None
    kind: Literal["take_measure"] = "take_measure"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        own = _as_own(_placed(self), model)
        left = tuple(each for each in document.question.measures if each != own)
        return with_defaults(with_question(document, measures=left), document, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"took {shown_measure(_placed(self), model, members).caption} away"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAggregate(Step):
    """Shows a placed measure by another aggregate, in its place; by its own without one."""

    placed: PlacedMeasure
    aggregate: Aggregate | None = None
    percentile: float | None = None
    kind: Literal["set_aggregate"] = "set_aggregate"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        _check_placed(document, self.placed)
        changed = replace(self.placed, aggregate=self.aggregate, percentile=self.percentile)
        if viewed_measure(changed, model).name == self.placed.measure:
            changed = PlacedMeasure(measure=self.placed.measure, view=self.placed.view)
        measures = tuple(changed if each == self.placed else each for each in document.question.measures)
        return with_question(document, measures=measures)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        changed = replace(self.placed, aggregate=self.aggregate, percentile=self.percentile)
        return f"showed {shown_measure(changed, model).caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowView(Step):
    """Shows a placed measure by a view of it, in its place; as the measure itself without one."""

    placed: PlacedMeasure
    view: View | None = None
    kind: Literal["show_view"] = "show_view"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        _check_placed(document, self.placed)
        shown = replace(self.placed, view=self.view)
        return with_measures(document, lambda each: shown if each == self.placed else each)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"showed {shown_measure(replace(self.placed, view=self.view), model, members).caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutViews(Step):
    """Puts several views of a placed measure in, one after the other beside it."""

    placed: PlacedMeasure
    views: tuple[View, ...]
    kind: Literal["put_views"] = "put_views"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        _check_placed(document, self.placed)
        if not self.views:
            raise InputError("No view is named to be put in.", "Name one or several.")
        measures = document.question.measures
        wanted = [replace(self.placed, view=each) for each in self.views]
        new = [each for each in dict.fromkeys(wanted) if each not in measures]
        at = measures.index(self.placed) + 1
        return with_question(document, measures=(*measures[:at], *new, *measures[at:]))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        views = listed([view_words(each, plain_names(model, members)) for each in self.views])
        return f"{shown_measure(self.placed, model, members).caption}, its {views}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceMeasures(Step):
    """Moves the measures, as one group, to an axis: with `at` of its hierarchies outside them (all without)."""

    axis: AxisName
    at: int | None = None
    kind: Literal["place_measures"] = "place_measures"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return with_question(document, measures_on=self.axis, measures_at=self.at)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"measures on {self.axis}"


def _placed(gesture: PutMeasure | TakeMeasure) -> PlacedMeasure:
    return PlacedMeasure(
        measure=gesture.measure, aggregate=gesture.aggregate, percentile=gesture.percentile, view=gesture.view
    )


def _as_own(placed: PlacedMeasure, model: SemanticModel) -> PlacedMeasure:
    """The placement that is meant; without an aggregate where it is the measure's own."""
    find_measure(model, placed.measure)
    plain = PlacedMeasure(measure=placed.measure, view=placed.view)
    return plain if shown_measure(placed, model) == shown_measure(plain, model) else placed


def _check_placed(document: Analysis, placed: PlacedMeasure) -> None:
    if placed not in document.question.measures:
        raise InputError("This measure is not in the table.", "Put it in first.")
