"""Gestures that ask another question as it was typed, and that make up for what the model no longer has."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.checks import check_reach
from dastan.core.analysis.document import Analysis, Question
from dastan.core.analysis.gestures.defaults import with_defaults
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.missing import LostKind, with_instead, without_missing
from dastan.core.analysis.resolve import find_dimension
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class Rewrite(Step):
    """Asks another question, as it was written in words. What is open stays so."""

    question: Question
    kind: Literal["rewrite"] = "rewrite"
    says_what_it_keeps: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        rewritten = replace(document, question=self.question)
        for placed in (*self.question.rows, *self.question.columns):
            check_reach(rewritten, find_dimension(model, placed.dimension), model)
        return with_defaults(rewritten, document, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "wrote the sentence"


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
