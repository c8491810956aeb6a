"""Gestures that keep, leave out and lift."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members, listed, member_caption
from dastan.core.analysis.condition_words import condition_words
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures.step import HierarchyStep, Step
from dastan.core.analysis.placing import hierarchy_of, with_question
from dastan.core.errors import InputError
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import MemberPath, is_veiled

_MEMBERS_NAMED = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class FilterMembers(HierarchyStep):
    """Keeps the members, or leaves them out, in place of the hierarchy's filter of that kind.

    Without members that filter is lifted. `is_alone` lifts the hierarchy's filter of the other kind as well.
    """

    dimension: str
    hierarchy: str
    action: Literal["keep", "leave_out"]
    members: tuple[MemberPath, ...]
    is_alone: bool = False
    kind: Literal["filter_members"] = "filter_members"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy = hierarchy_of(model, *self.own)
        if any(not 0 < len(path) <= len(hierarchy.levels) for path in self.members):
            raise InputError("A member's path has one key per level, from the top down.", "Pick the member again.")
        own = MemberFilter(
            dimension=self.dimension,
            hierarchy=self.hierarchy,
            action=self.action,
            members=tuple(dict.fromkeys(self.members)),
        )
        filters = [
            each
            for each in document.question.filters
            if not (self.is_alone and plain_filter(each, self.own) and each.action != own.action)
        ]
        places = [at for at, each in enumerate(filters) if plain_filter(each, self.own) and each.action == own.action]
        at = places[0] if places else len(filters)
        if places and self.members:
            # What the person may not see was not theirs to take out.
            hidden = [path for path in filters[at].members if is_veiled(path)]  # type: ignore[union-attr]
            own = replace(own, members=tuple(dict.fromkeys((*own.members, *hidden))))
        filters[at : at + 1] = [own] if self.members else []
        return with_question(document, filters=tuple(filters))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        if not self.members:
            return f"lifted the filter on {self.caption(model)}"
        found = members(*self.own)
        count = len(self.members)
        shown = self.members if count <= _MEMBERS_NAMED + 1 else self.members[:_MEMBERS_NAMED]
        named = listed([member_caption(path, found) for path in shown], count - len(shown))
        return f"{'kept' if self.action == 'keep' else 'left out'} {named}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutFilter(Step):
    """Puts a condition in; in place of the filter at `at` where one is named."""

    condition: Condition
    at: int | None = None
    kind: Literal["put_filter"] = "put_filter"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        filters = list(document.question.filters)
        if self.at is None:
            filters.append(self.condition)
        else:
            _check_at(self.at, document)
            filters[self.at] = self.condition
        return with_question(document, filters=tuple(filters))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        verb = "kept" if self.condition.action == "keep" else "left out"
        verb = "changed a filter to" if self.at is not None else verb
        return f"{verb} {condition_words(self.condition, before.question, model, members).text}"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeFilter(Step):
    """Lifts the filter at a place."""

    at: int
    kind: Literal["take_filter"] = "take_filter"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        _check_at(self.at, document)
        filters = document.question.filters
        return with_question(document, filters=(*filters[: self.at], *filters[self.at + 1 :]))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        filters = before.question.filters
        is_there = 0 <= self.at < len(filters)
        what = condition_words(filters[self.at], before.question, model, members).text if is_there else ""
        return f"lifted the filter on {what}"


def _check_at(at: int, document: Analysis) -> None:
    if not 0 <= at < len(document.question.filters):
        raise InputError("There is no such filter any more.", "Look at the sentence, then try again.")


def plain_filter(condition: Condition, own: tuple[str, str]) -> MemberFilter | None:
    """A condition as a plain filter to members of a hierarchy, by its names; None where it is none."""
    if not isinstance(condition, MemberFilter) or condition.level is not None:
        return None
    if condition.prompt is not None or condition.list is not None:
        return None
    return condition if (condition.dimension, condition.hierarchy) == own else None
