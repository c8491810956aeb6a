"""Gestures on how placed hierarchies stand: limits, order, totals, levels passed over, what is empty."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members, level_caption, plural
from dastan.core.analysis.document import Analysis, AxisName, Limit, Order
from dastan.core.analysis.gestures.step import HierarchyStep, Step
from dastan.core.analysis.limit_words import limit_words
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.placing import axis_of, find_placed, hierarchy_of, placed_in, replace_placed, with_question
from dastan.core.analysis.resolve import check_level, find_dimension
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class SetLimit(HierarchyStep):
    """Limits a level of a placed hierarchy, in place of the limit that it had; lifts it without one."""

    dimension: str
    hierarchy: str
    level: str
    limit: Limit | None = None
    kind: Literal["set_limit"] = "set_limit"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        placed = find_placed(document.question, *self.own, model)
        check_level(find_dimension(model, self.dimension), hierarchy_of(model, *self.own), self.level)
        others = tuple(each for each in placed.limits if each.level != self.level)
        return replace_placed(document, replace(placed, limits=(*others, self.limit) if self.limit else others))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        placed = placed_in(before.question, *self.own)
        if self.limit is None or placed is None:
            return f"showed all {plural(level_caption(find_dimension(model, self.dimension), self.level))} again"
        return f"showed {limit_words(self.limit, placed, before, model)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetOrder(HierarchyStep):
    """Orders the members of a placed hierarchy."""

    dimension: str
    hierarchy: str
    order: Order
    kind: Literal["set_order"] = "set_order"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        placed = find_placed(document.question, *self.own, model)
        return replace_placed(document, replace(placed, order=self.order))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        order = self.order
        if order.by == "measure":
            by = shown_measure(order.measure, model, members).caption if order.measure is not None else order.by
            words = f"{by}, {'largest' if order.descending else 'smallest'} first"
        else:
            words = {"natural": "natural order", "caption": "name", "key": "key"}[order.by]
            words = f"{words}, reversed" if order.descending else words
        return f"ordered {self.placed_caption(before, model)} by {words}"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTotals(HierarchyStep):
    """Says where a placed hierarchy's subtotals stand; as is usual on its axis without."""

    dimension: str
    hierarchy: str
    totals: Literal["before", "after", "none"] | None = None
    kind: Literal["set_totals"] = "set_totals"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        placed = find_placed(document.question, *self.own, model)
        return replace_placed(document, replace(placed, totals=self.totals))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        where = {"none": "no subtotals of", "before": "subtotals first of", "after": "subtotals last of"}
        return f"{where.get(self.totals or '', 'the usual subtotals of')} {self.placed_caption(before, model)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetGrandTotal(Step):
    """Says where an axis's grand total stands."""

    axis: AxisName
    totals: Literal["before", "after", "none"]
    kind: Literal["set_grand_total"] = "set_grand_total"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        field = "row_total" if self.axis == "rows" else "column_total"
        return with_question(document, **{field: self.totals})

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        name = "row" if self.axis == "rows" else "column"
        where = {"none": f"no grand total {name}", "before": f"grand total {name} first"}
        return where.get(self.totals, f"grand total {name} last")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTotalsOfOne(Step):
    """Shows the totals of one child too, which say the same again, or leaves them out."""

    totals: Literal["hidden", "shown"]
    kind: Literal["set_totals_of_one"] = "set_totals_of_one"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return with_question(document, totals_of_one=self.totals)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "totals of one child too" if self.totals == "shown" else "no totals of one child"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTotalsOver(Step):
    """Says what totals are over where limits hide members."""

    over: Literal["scope", "shown"]
    kind: Literal["set_totals_over"] = "set_totals_over"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return with_question(document, totals_over=self.over)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "totals over everything in scope" if self.over == "scope" else "totals over what is shown"


@dataclass(frozen=True, slots=True, kw_only=True)
class SkipLevel(HierarchyStep):
    """Passes over a level of a placed hierarchy, or shows it again."""

    dimension: str
    hierarchy: str
    level: str
    is_skipped: bool
    kind: Literal["skip_level"] = "skip_level"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        placed = find_placed(document.question, *self.own, model)
        check_level(find_dimension(model, self.dimension), hierarchy_of(model, *self.own), self.level)
        kept = tuple(each for each in placed.skipped if each != self.level)
        skipped = (*kept, self.level) if self.is_skipped else kept
        return replace_placed(document, replace(placed, skipped=skipped))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        caption = plural(level_caption(find_dimension(model, self.dimension), self.level))
        return f"passed over {caption}" if self.is_skipped else f"showed {caption} again"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowAllMembers(HierarchyStep):
    """Shows members without records too, or no longer."""

    dimension: str
    hierarchy: str
    is_shown: bool
    kind: Literal["show_all_members"] = "show_all_members"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        placed = find_placed(document.question, *self.own, model)
        shown = replace_placed(document, replace(placed, all_members=self.is_shown))
        on = axis_of(document.question, placed)
        return _with_empty(shown, on, "shown") if on and self.is_shown else shown

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"{'showed' if self.is_shown else 'hid'} members of {self.placed_caption(before, model)} without records"


@dataclass(frozen=True, slots=True, kw_only=True)
class HideEmpty(Step):
    """Hides the rows, or columns, that have no value at all, or shows them again."""

    axis: AxisName
    is_hidden: bool
    kind: Literal["hide_empty"] = "hide_empty"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_empty(document, self.axis, "hidden" if self.is_hidden else "shown")

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"{'hid' if self.is_hidden else 'showed'} empty {self.axis}"


def _with_empty(document: Analysis, axis: AxisName, empty: str) -> Analysis:
    """With the empty headers of an axis shown or hidden; hiding them takes back that members stand without records."""
    question = document.question
    if empty == "hidden":
        question = question.with_axis(axis, tuple(replace(each, all_members=False) for each in question.axis(axis)))
    return with_question(replace(document, question=question), **{f"empty_{axis}": empty})
