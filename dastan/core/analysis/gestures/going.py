"""Gestures that go down and across: one level alone, into a member, breaking down by another dimension."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members, level_caption, member_caption, plural
from dastan.core.analysis.checks import check_reach
from dastan.core.analysis.document import Analysis, AxisName, PlacedDimension, Under
from dastan.core.analysis.gestures.step import HierarchyStep
from dastan.core.analysis.going import is_gone_into
from dastan.core.analysis.openness import close_level, with_opening
from dastan.core.analysis.placing import (
    find_placed,
    hierarchy_of,
    is_same_hierarchy,
    placed_in,
    replace_placed,
    waiting_in,
    with_question,
    without_dimension,
)
from dastan.core.analysis.resolve import check_level, find_dimension
from dastan.core.analysis.sentence import under_caption
from dastan.core.analysis.ways import is_led_to
from dastan.core.errors import InputError
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import MemberPath


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowLevel(HierarchyStep):
    """Shows one level of a placed hierarchy and nothing above or below it.

    With `instead_of`, in place of another hierarchy of the same dimension: months, now weeks.
    """

    dimension: str
    hierarchy: str
    level: str
    instead_of: str | None = None
    kind: Literal["show_level"] = "show_level"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy = hierarchy_of(model, *self.own)
        check_level(find_dimension(model, self.dimension), hierarchy, self.level)
        placed = find_placed(document.question, self.dimension, self.instead_of or self.hierarchy, model)
        if placed.hierarchy != self.hierarchy:
            document = self._in_place_of(placed, document)
        else:
            document = replace_placed(document, replace(placed, level=self.level, skipped=()))
        opening = document.opening(*self.own)
        for level in hierarchy.levels[hierarchy.levels.index(self.level) : -1]:
            opening = close_level(opening, hierarchy, level)
        return with_opening(document, opening)

    def _in_place_of(self, placed: PlacedDimension, document: Analysis) -> Analysis:
        question = document.question
        if placed_in(question, *self.own) is not None:
            raise InputError("A hierarchy stands twice in the table.", "Show this level where its hierarchy stands.")
        own = PlacedDimension(dimension=self.dimension, hierarchy=self.hierarchy, level=self.level)
        own = waiting_in(question, *self.own) or own
        own = replace(own, level=self.level, skipped=(), only_under=placed.only_under)
        swap = {
            axis: tuple(own if is_same_hierarchy(each, placed) else each for each in question.axis(axis))
            for axis in ("rows", "columns")
        }
        waiting = tuple(each for each in question.waiting if not is_same_hierarchy(each, own))
        return with_question(document, **swap, waiting=waiting)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"only {plural(level_caption(find_dimension(model, self.dimension), self.level))}"


@dataclass(frozen=True, slots=True, kw_only=True)
class GoInto(HierarchyStep):
    """Keeps only one member of a placed hierarchy and shows what is below it; everything again without a path."""

    dimension: str
    hierarchy: str
    path: MemberPath = ()
    kind: Literal["go_into"] = "go_into"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy = hierarchy_of(model, *self.own)
        placed = find_placed(document.question, *self.own, model)
        if len(self.path) >= len(hierarchy.levels):
            raise InputError("There is nothing below this member.", "Go into a member of a level above the last.")
        own = MemberFilter(dimension=self.dimension, hierarchy=self.hierarchy, members=(self.path,))
        filters = list(document.question.filters)
        places = [at for at, each in enumerate(filters) if is_gone_into(each, *self.own)]
        at = places[0] if places else len(filters)
        filters[at : at + 1] = [own] if self.path else []
        below = hierarchy.levels[len(self.path)]
        skipped = tuple(each for each in placed.skipped if hierarchy.levels.index(each) > len(self.path))
        document = replace_placed(document, replace(placed, level=below, skipped=skipped))
        return with_question(document, filters=tuple(filters))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        if not self.path:
            return f"came back to all of {self.caption(model)}"
        return f"went into {member_caption(self.path, members(*self.own))}"


@dataclass(frozen=True, slots=True, kw_only=True)
class BreakDown(HierarchyStep):
    """Breaks headers of an axis down by another hierarchy: those named by `under`, or all of them."""

    dimension: str
    hierarchy: str
    level: str | None = None
    axis: AxisName
    under: Under | None = None
    kind: Literal["break_down"] = "break_down"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy, dimension = hierarchy_of(model, *self.own), find_dimension(model, self.dimension)
        check_reach(document, dimension, model)
        level = self.level or hierarchy.levels[0]
        check_level(dimension, hierarchy, level)
        present = placed_in(document.question, *self.own)
        if present is not None and (present.only_under is None or present not in document.question.axis(self.axis)):
            raise InputError(f"{dimension.caption} stands in the table already.", "Move it instead, or choose another.")
        if present is not None:
            under = None if self.under is None else tuple(dict.fromkeys((*(present.only_under or ()), self.under)))
            return replace_placed(document, replace(present, only_under=under))
        waiting = waiting_in(document.question, *self.own)
        own = waiting or PlacedDimension(dimension=self.dimension, hierarchy=self.hierarchy, level=level)
        own = replace(own, level=level, only_under=None if self.under is None else (self.under,))
        question = without_dimension(document.question, *self.own)
        return replace(document, question=question.with_axis(self.axis, (*question.axis(self.axis), own)))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        what = under_caption(self.under, members) if self.under is not None else "all"
        return f"broke {what} down by {self.placed_caption(before, model)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class StopBreakingDown(HierarchyStep):
    """No longer breaks some headers down; takes the hierarchy away where it broke down no others."""

    dimension: str
    hierarchy: str
    under: Under
    kind: Literal["stop_breaking_down"] = "stop_breaking_down"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy_of(model, *self.own)
        placed = find_placed(document.question, *self.own, model)
        left = tuple(each for each in placed.only_under or () if each != self.under)
        if left or placed.only_under is None:
            return replace_placed(document, replace(placed, only_under=left or None))
        if is_led_to(document, placed):
            return replace_placed(document, replace(placed, only_under=()))
        return replace(document, question=without_dimension(document.question, *self.own))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"no longer broke {under_caption(self.under, members)} down by {self.placed_caption(before, model)}"
