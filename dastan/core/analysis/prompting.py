"""Making a filter a question that is asked on opening, and back."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Question
from dastan.core.analysis.gesture import AskOnOpening, StopAsking
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.prompts import Answers, prompts_named
from dastan.core.errors import InputError
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    MeasureFilter,
    MemberFilter,
    Prompt,
    PromptRef,
)
from dastan.core.model.document import SemanticModel


def ask_or_fix(document: Analysis, gesture: AskOnOpening | StopAsking, model: SemanticModel) -> Analysis:
    """The document with a filter's part asked for, or no longer. Raises InputError."""
    filters = list(document.question.filters)
    if not 0 <= gesture.at < len(filters):
        raise InputError("There is no such filter any more.", "Look at the sentence, then try again.")
    condition = filters[gesture.at]
    if isinstance(gesture, AskOnOpening):
        prompt, filters[gesture.at] = _asked(condition, gesture, document.question)
        return with_question(document, filters=tuple(filters), prompts=(*document.question.prompts, prompt))
    filters[gesture.at] = _fixed(condition, Answers(document.question, model))
    question = replace(document.question, filters=tuple(filters))
    used = {name for each in filters for name in prompts_named(each, model)}
    model_s = {each.name for each in model.prompts}
    return with_question(
        document,
        filters=question.filters,
        prompts=tuple(each for each in question.prompts if each.name in used),
        answers=tuple(each for each in question.answers if each.prompt in used or each.prompt in model_s),
    )


def can_be_asked(condition: Condition) -> bool:
    """Whether what a filter compares with can be an answer."""
    if isinstance(condition, MemberFilter):
        return condition.prompt is None and bool(condition.members)
    if isinstance(condition, AttributeFilter | MeasureFilter):
        return not any(isinstance(each, PromptRef) for each in condition.values) and condition.operator != "between"
    return False


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
