"""Gestures that make a filter a question which is asked on opening, answer it, and ask no more."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis, Question
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.prompts import Answers, can_be_asked, prompts_named
from dastan.core.errors import InputError
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    MeasureFilter,
    MemberFilter,
    Prompt,
    PromptAnswer,
    PromptRef,
)
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class AskOnOpening(Step):
    """Makes a filter's members or values an answer: whoever opens the analysis is asked for them."""

    at: int
    caption: str
    required: bool = True
    many: bool = True
    kind: Literal["ask_on_opening"] = "ask_on_opening"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        filters = list(document.question.filters)
        prompt, filters[self.at] = _asked(_filter_at(self.at, document), self, document.question)
        return with_question(document, filters=tuple(filters), prompts=(*document.question.prompts, prompt))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"asks “{self.caption.strip()}” on opening"


@dataclass(frozen=True, slots=True, kw_only=True)
class StopAsking(Step):
    """Makes what is answered now a filter's own again, and asks no more."""

    at: int
    kind: Literal["stop_asking"] = "stop_asking"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        filters = list(document.question.filters)
        filters[self.at] = _fixed(_filter_at(self.at, document), Answers(document.question, model))
        question = document.question
        used = {name for each in filters for name in prompts_named(each, model)}
        model_s = {each.name for each in model.prompts}
        return with_question(
            document,
            filters=tuple(filters),
            prompts=tuple(each for each in question.prompts if each.name in used),
            answers=tuple(each for each in question.answers if each.prompt in used or each.prompt in model_s),
        )

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return "no longer asks"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerPrompt(Step):
    """Answers a question that the analysis or its model asks."""

    answer: PromptAnswer
    kind: Literal["answer_prompt"] = "answer_prompt"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        Answers(document.question, model).prompt(self.answer.prompt)
        kept = tuple(each for each in document.question.answers if each.prompt != self.answer.prompt)
        return with_question(document, answers=(*kept, self.answer))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"answered “{Answers(before.question, model).prompt(self.answer.prompt).caption}”"


def _filter_at(at: int, document: Analysis) -> Condition:
    filters = document.question.filters
    if not 0 <= at < len(filters):
        raise InputError("There is no such filter any more.", "Look at the sentence, then try again.")
    return filters[at]


def _asked(condition: Condition, gesture: AskOnOpening, question: Question) -> tuple[Prompt, Condition]:
    if not can_be_asked(condition):
        raise InputError("This filter has nothing that could be asked for.", "Ask for members or for a value.")
    if not gesture.caption.strip():
        raise InputError("A question needs words.", "Write what is asked, as in “Which depots?”.")
    taken = {each.name for each in question.prompts}
    name = next(each for number in range(1, len(taken) + 2) if (each := f"asked_{number}") not in taken)
    caption = gesture.caption.strip()
    asked = Prompt(name=name, caption=caption, type="members", required=gesture.required, many=gesture.many)
    most = None if gesture.many else 1
    if isinstance(condition, MemberFilter):
        own = replace(asked, dimension=condition.dimension, hierarchy=condition.hierarchy)
        return replace(own, members=condition.members[:most]), replace(condition, members=(), prompt=name)
    assert isinstance(condition, AttributeFilter | MeasureFilter)
    values = tuple(each for each in condition.values if not isinstance(each, PromptRef))
    is_number = values and all(isinstance(each, int | float) for each in values)
    own = replace(asked, type="number" if is_number else "text", values=values[:most])
    return own, replace(condition, values=(PromptRef(prompt=name),))


def _fixed(condition: Condition, answers: Answers) -> Condition:
    if isinstance(condition, MemberFilter) and condition.prompt is not None:
        return replace(condition, members=answers.members(condition.prompt) or (), prompt=None)
    if isinstance(condition, AttributeFilter | MeasureFilter):
        return replace(condition, values=answers.fill(condition.values) or ())  # type: ignore[arg-type]
    raise InputError("This filter asks nothing.", "Look at the sentence, then try again.")
