"""The answers to an analysis's questions, its own and its model's."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import TypeVar

from dastan.core.analysis.document import Question
from dastan.core.errors import InputError, NotFoundError, did_you_mean
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    MeasureFilter,
    MemberFilter,
    Prompt,
    PromptRef,
    ReadyFilter,
    leaves_of,
)
from dastan.core.model.document import SemanticModel, next_named
from dastan.core.model.parts import Key, MemberPath

Given = TypeVar("Given", bound=tuple[object, ...])


@dataclass(frozen=True, slots=True)
class Answers:
    """What stands for each prompt: what was answered, else its default."""

    question: Question
    model: SemanticModel

    def prompt(self, name: str) -> Prompt:
        """The prompt of that name, the analysis's own first. Raises NotFoundError."""
        for each in (*self.question.prompts, *self.model.prompts):
            if each.name == name:
                return each
        known = [each.name for each in (*self.question.prompts, *self.model.prompts)]
        raise NotFoundError(f"There is no question “{name}” to ask.", did_you_mean(name, known), code="missing-name")

    def knows(self, name: str) -> bool:
        """Whether there is a prompt of that name."""
        return any(each.name == name for each in (*self.question.prompts, *self.model.prompts))

    def values(self, name: str) -> tuple[Key, ...] | None:
        """The values answered; None where there are none and none are required. Raises InputError."""
        prompt = self.prompt(name)
        given = next((each.values for each in self.question.answers if each.prompt == name), prompt.values)
        return self._checked(prompt, given)

    def members(self, name: str) -> tuple[MemberPath, ...] | None:
        """The members answered; None where there are none and none are required. Raises InputError."""
        prompt = self.prompt(name)
        given = next((each.members for each in self.question.answers if each.prompt == name), prompt.members)
        return self._checked(prompt, given)

    def fill(self, values: tuple[Key | PromptRef, ...]) -> tuple[Key, ...] | None:
        """Values with each prompt replaced by what was answered; None where a prompt is left without."""
        filled: list[Key] = []
        for each in values:
            if isinstance(each, PromptRef):
                answered = self.values(each.prompt)
                if answered is None:
                    return None
                filled += answered
            else:
                filled.append(each)
        return tuple(filled)

    def _checked(self, prompt: Prompt, given: Given) -> Given | None:
        if not given and prompt.required:
            raise InputError(
                f"“{prompt.caption}” has no answer yet.", "Answer it, and the analysis is shown.",
                code="prompt-unanswered", details={"prompt": prompt.name},
            )  # fmt: skip
        if len(given) > 1 and not prompt.many:
            raise InputError(f"“{prompt.caption}” takes one answer.", "Choose one.")
        for each in given:
            if prompt.type == "number" and not isinstance(each, int | float):
                raise InputError(f"“{prompt.caption}” asks for a number.", "Write digits, as in 10000 or 2.5.")
            if prompt.type == "date" and not _is_day(each):
                raise InputError(f"“{prompt.caption}” asks for a day.", "Write it as 2025-12-31.")
        return given or None


def _is_day(value: object) -> bool:
    try:
        return isinstance(value, str) and bool(date.fromisoformat(value))
    except ValueError:
        return False


def prompts_of(question: Question, model: SemanticModel) -> tuple[Prompt, ...]:
    """The prompts whose answers the question's conditions need, in the order in which they are met."""
    answers = Answers(question, model)
    names = dict.fromkeys(name for each in question.filters for name in prompts_named(each, model))
    return tuple(answers.prompt(name) for name in names)


def prompts_named(condition: Condition, model: SemanticModel) -> Iterator[str]:
    """The prompts whose answers a condition takes, and any ready-made one inside it."""
    for leaf in leaves_of(condition):
        if isinstance(leaf, ReadyFilter):
            yield from prompts_named(next_named(model.filters, leaf.name).condition, model)
        if isinstance(leaf, MemberFilter) and leaf.prompt is not None:
            yield leaf.prompt
        if isinstance(leaf, AttributeFilter | MeasureFilter):
            yield from (value.prompt for value in leaf.values if isinstance(value, PromptRef))


def can_be_asked(condition: Condition) -> bool:
    """Whether what a filter compares with can be an answer."""
    if isinstance(condition, MemberFilter):
        return condition.prompt is None and bool(condition.members)
    if isinstance(condition, AttributeFilter | MeasureFilter):
        return not any(isinstance(each, PromptRef) for each in condition.values) and condition.operator != "between"
    return False
