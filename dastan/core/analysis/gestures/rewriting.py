"""Gestures that ask another question as it was typed, and that make up for what the model no longer has."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.checks import check_reach
from dastan.core.analysis.document import Analysis, NumberDress, Opening, Question
from dastan.core.analysis.gestures.defaults import with_defaults
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.missing import LostKind, with_instead, without_missing
from dastan.core.analysis.openness import shown_levels, with_opening
from dastan.core.analysis.placing import placed_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.model.conditions import LevelName
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class Rewrite(Step):
    """Asks another question, as it was written in words. What the words do not tell stays so."""

    question: Question
    levels_seen: tuple[LevelName, ...] = ()
    """The finest levels that are to be seen of hierarchies in the table. Of one that is seen so far, no member is
    opened or closed; one that is not named stays as it is."""
    numbers: tuple[NumberDress, ...] | None = None
    """The scale and sign of measures, those of all others being their own; they stay as they are without."""
    kind: Literal["rewrite"] = "rewrite"
    says_what_it_keeps: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        rewritten = replace(document, question=self.question)
        for placed in (*self.question.rows, *self.question.columns):
            check_reach(rewritten, find_dimension(model, placed.dimension), model)
        for each in self.levels_seen:
            rewritten = _seen_as_far_as(each, rewritten, model)
        if self.numbers is not None:
            rewritten = _with_numbers(rewritten, self.numbers)
        return with_defaults(rewritten, document, model, is_written=True)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "wrote the sentence"


def _seen_as_far_as(wanted: LevelName, document: Analysis, model: SemanticModel) -> Analysis:
    """The document with a hierarchy of its table open as far as a level, where that is not so already."""
    own = (wanted.dimension, wanted.hierarchy)
    hierarchy = find_hierarchy(find_dimension(model, wanted.dimension), wanted.hierarchy)
    placed = placed_in(document.question, *own)
    if placed is None or wanted.level not in hierarchy.levels:
        return document
    if shown_levels(document, placed, hierarchy)[-1] == wanted.level:
        return document
    upper = hierarchy.levels[: hierarchy.levels.index(wanted.level)]
    return with_opening(document, Opening(dimension=own[0], hierarchy=own[1], levels=tuple(upper)))


def _with_numbers(document: Analysis, numbers: tuple[NumberDress, ...]) -> Analysis:
    """The document with the scale and sign of its measures as said."""
    said = {each.measure: each for each in numbers}
    dressed = []
    for placed in dict.fromkeys((*(each.measure for each in document.dress.numbers), *document.question.measures)):
        own = document.dress_of(placed)
        if placed in document.question.measures:
            wanted = said.get(placed, NumberDress(measure=placed))
            own = replace(own, scale=wanted.scale, is_turned=wanted.is_turned)
        if own != NumberDress(measure=placed):
            dressed.append(own)
    return replace(document, dress=replace(document.dress, numbers=tuple(dressed)))


@dataclass(frozen=True, slots=True, kw_only=True)
class DropMissing(Step):
    """Takes away whatever the model no longer has, so that the rest can be answered."""

    kind: Literal["drop_missing"] = "drop_missing"
    may_name_what_is_gone: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return without_missing(document, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "took away what is missing"


@dataclass(frozen=True, slots=True, kw_only=True)
class UseInstead(Step):
    """Names another thing wherever one is named that the model no longer has."""

    thing: LostKind
    name: str
    instead: str
    kind: Literal["use_instead"] = "use_instead"
    may_name_what_is_gone: ClassVar[bool] = True
    may_leave_some_gone: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return with_instead(document, self.thing, self.name, self.instead)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"used {self.instead} in place of {self.name}"
