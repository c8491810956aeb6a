"""Gestures on lists of members."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis, AxisName
from dastan.core.analysis.gestures.dimensions import PutDimension
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.lists import check_list_name, find_list, find_own_list, list_used_by, named_list
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError
from dastan.core.model.conditions import Action, MemberFilter
from dastan.core.model.document import MemberList, SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeList(Step):
    """Puts members on a list, by hand or by a rule. With `is_put` the table keeps only them."""

    made: MemberList
    is_put: bool = False
    kind: Literal["make_list"] = "make_list"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        check_list_name(self.made, model)
        made = named_list(self.made, model)
        after = replace(document, lists=(*document.lists, made))
        return _with_filter(after, made, "keep") if self.is_put else after

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"made the list {self.made.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeList(Step):
    """Tells a list anew: its members or its rule, and what it is called. Whatever names it follows."""

    made: MemberList
    kind: Literal["change_list"] = "change_list"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        was = find_own_list(document, self.made.name)
        if (was.dimension, was.hierarchy) != (self.made.dimension, self.made.hierarchy):
            raise InputError(f"“{was.caption}” lists members of another hierarchy.", "Make a list of this one instead.")
        check_list_name(self.made, model)
        return replace(document, lists=tuple(self.made if each == was else each for each in document.lists))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        was = find_own_list(before, self.made.name).caption
        return f"changed {was}" if was == self.made.caption else f"called {was} {self.made.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetList(Step):
    """Forgets a list that nothing stands on."""

    name: str
    kind: Literal["forget_list"] = "forget_list"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = find_own_list(document, self.name)
        users = list(list_used_by(document, self.name))
        if users:
            raise InputError(f"“{made.caption}” is used by {', '.join(users)}.", "Take it out there first.")
        return replace(document, lists=tuple(each for each in document.lists if each != made))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"forgot {find_own_list(before, self.name).caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class FilterList(Step):
    """Keeps the members of a list or leaves them out, whatever else is kept. Without an action its filter is lifted."""

    name: str
    action: Action | None
    kind: Literal["filter_list"] = "filter_list"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = find_list(model, self.name)
        if self.action is not None:
            return _with_filter(document, made, self.action)
        filters = tuple(each for each in document.question.filters if getattr(each, "list", None) != self.name)
        return with_question(document, filters=filters)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        caption = find_list(model, self.name).caption
        if self.action is None:
            return f"lifted the filter on {caption}"
        return f"{'kept' if self.action == 'keep' else 'left out'} {caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutList(Step):
    """Puts the members of a list on an axis: their hierarchy at their level, of which only these are kept."""

    name: str
    axis: AxisName
    at: int
    kind: Literal["put_list"] = "put_list"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = find_list(model, self.name)
        levels = find_hierarchy(find_dimension(model, made.dimension), made.hierarchy).levels
        level = made.level or levels[min(map(len, made.members), default=1) - 1]
        put = PutDimension(dimension=made.dimension, hierarchy=made.hierarchy, level=level, axis=self.axis, at=self.at)
        return _with_filter(put.applied(document, model), made, "keep")

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"{'by' if self.axis == 'rows' else 'against'} {find_list(model, self.name).caption}"


def _with_filter(document: Analysis, made: MemberList, action: Action) -> Analysis:
    own = MemberFilter(dimension=made.dimension, hierarchy=made.hierarchy, action=action, list=made.name)
    filters = document.question.filters
    at = next((at for at, each in enumerate(filters) if getattr(each, "list", None) == made.name), len(filters))
    kept = [each for each in filters if getattr(each, "list", None) != made.name]
    kept.insert(at, own)
    return with_question(document, filters=tuple(kept))
