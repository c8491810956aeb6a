"""A condition in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, assert_never

from dastan.core.analysis.captions import (
    HIDDEN_MEMBER,
    Members,
    hierarchy_caption,
    level_caption,
    listed,
    member_caption,
    number_words,
    plural,
    those_of,
)
from dastan.core.analysis.document import Question
from dastan.core.analysis.prompts import Answers
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.errors import InputError
from dastan.core.model.conditions import (
    TEXT_OPERATORS,
    AttributeFilter,
    Condition,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    PromptRef,
    ReadyFilter,
)
from dastan.core.model.document import MemberList, Ranking, SemanticModel, next_named
from dastan.core.model.parts import Key, MemberPath, is_veiled

MEMBERS_IN_FULL = 4
"""A filter names this many members; further ones are counted, and listed when the phrase is opened."""

COMPARES: dict[str, str] = {
    "equal": "", "not_equal": "other than ", "less": "less than ", "at_most": "at most ", "more": "more than ",
    "at_least": "at least ", "contains": "containing ", "begins_with": "beginning with ", "ends_with": "ending in ",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class ConditionWords:
    """A condition as it stands after "for" or "without"; `note` is set small; `details` are members, all of them."""

    text: str
    note: str = ""
    details: tuple[str, ...] = ()


def condition_words(condition: Condition, question: Question, model: SemanticModel, members: Members) -> ConditionWords:
    """What a condition keeps, or leaves out. Raises NotFoundError for a name that the model does not have."""
    answers = Answers(question, model)
    match condition:
        case MemberFilter():
            return _member_words(condition, answers, model, members)
        case AttributeFilter():
            dimension = find_dimension(model, condition.dimension)
            caption = level_caption(dimension, condition.attribute).lower()
            values = _values(condition.values, answers)
            return ConditionWords(f"{caption} {_compared(condition.operator, values)}", dimension.caption.lower())
        case PeriodFilter():
            return ConditionWords(period_words(condition), find_dimension(model, condition.dimension).caption.lower())
        case KeyFilter():
            caption = find_dimension(model, condition.dimension).caption.lower()
            return ConditionWords(
                f"{caption} left blank" if condition.state == "left_blank" else f"{caption} not known", "records"
            )
        case MeasureFilter():
            at = listed([plural(_level(each, model)) for each in condition.at])
            values = _values(condition.values, answers)
            what = find_measure(model, condition.measure).caption
            level = _level(condition.per, model).lower() if condition.per is not None else ""
            per = f" {'an' if level[0] in 'aeio' else 'a'} {level} on average" if level else ""
            return ConditionWords(f"{at} with {_compared(condition.operator, values)} {what}{per}")
        case ReadyFilter():
            ready = next_named(model.filters, condition.name)
            inside = condition_words(ready.condition, question, model, members)
            return ConditionWords(ready.caption, _not_twice(inside.text, ready.caption), (ready.description,))
        case FilterGroup():
            parts = []
            for part in condition.parts:
                words = condition_words(part, question, model, members)
                text = f"({words.text})" if _has_parts(part) else words.text
                parts.append(f"not {text}" if part.action == "leave_out" else text)
            return ConditionWords(_joined(parts, condition.join) if parts else "all")
        case _:
            assert_never(condition)


def _has_parts(part: Condition) -> bool:
    """Whether the words of a condition would run into those of others beside it."""
    match part:
        case FilterGroup():
            return len(part.parts) > 1
        case MemberFilter():
            return len(part.members) > 1
        case AttributeFilter() | MeasureFilter():
            return len(part.values) > 1 and part.operator != "between"
        case _:
            return False


def _joined(parts: Sequence[str], join: Literal["all", "any"]) -> str:
    """ "either A or B", "both A and B", "all of A, B and C"; one alone as it is."""
    if len(parts) == 1:
        return parts[0]
    start = "either" if join == "any" else "both" if len(parts) == 2 else "all of"
    return f"{start} {listed(parts, last='or' if join == 'any' else 'and')}"


def list_words(each: MemberList, model: SemanticModel, members: Members) -> str:
    """What members a list has: "Harbour Loop and Pier Line"; "the 10 largest lines by Boardings, over 2025"."""
    found = members(each.dimension, each.hierarchy)
    # A model's list may name members that a reader does not see: these are counted and not named.
    captions = [member_caption(path, found) for path in each.members if found.find(path) is not None]
    shown = captions if len(captions) <= MEMBERS_IN_FULL + 1 else captions[:MEMBERS_IN_FULL]
    below = listed(shown, len(each.members) - len(shown)) if each.members else ""
    if not each.is_rule:
        return below or "no members"
    line = level_caption(find_dimension(model, each.dimension), each.level or "").lower()
    lines = plural(line)
    held = [_held(condition, line, each, model, members) for condition in each.where]
    those = f"{lines}{f' below {below}' if below else ''}{f' {listed(held)}' if held else ''}"
    over = [told_of_records(condition, model, members) for condition in each.over]
    text = _ranked(each.ranked, line, those, model) if each.ranked is not None else f"all {those}"
    return f"{text}, over {listed(over)}" if over else text


def _held(condition: Condition, line: str, each: MemberList, model: SemanticModel, members: Members) -> str:
    """What holds for the members of a list: "containing “e”", "with at least 10 Boardings"."""
    text = condition_words(condition, Question(), model, members).text
    lines = plural(line)
    # A level's own name is not said twice: "lines with line containing".
    text = text.removeprefix(f"{lines} with ").removeprefix(f"{line} ") if text != line else text
    is_told = isinstance(condition, AttributeFilter) and condition.operator in TEXT_OPERATORS
    if is_told and isinstance(condition, AttributeFilter) and condition.attribute == each.level:
        return f"not {text}" if condition.action == "leave_out" else text
    return f"{'without' if condition.action == 'leave_out' else 'with'} {text}"


def _ranked(ranked: Ranking, line: str, those: str, model: SemanticModel) -> str:
    amount, by = number_words(ranked.amount), find_measure(model, ranked.measure).caption
    lines = plural(line)
    of = "" if those == lines else f" of {those}"
    match ranked.count:
        case "members" if ranked.amount == 1:
            return f"the {ranked.side}{'' if of else f' {line}'} by {by}{of}"
        case "members":
            return f"the {amount} {ranked.side}{'' if of else f' {lines}'} by {by}{of}"
        case "percent_of_members":
            return f"the {ranked.side} {amount} % by {by} of {those}"
        case _:
            return f"the {ranked.side} that make {amount} % of {by} of {those}"


def told_of_records(condition: Condition, model: SemanticModel, members: Members) -> str:
    """A condition on the records that something is over: "2025", "all without Metro"."""
    words = condition_words(condition, Question(), model, members)
    return f"all without {words.text}" if condition.action == "leave_out" else words.text


def period_words(period: PeriodFilter) -> str:
    """A moving period: "this year so far", "the last 4 quarters", "the 500 days up to now"."""
    unit = period.unit.replace("_", " ")
    first, last = period.first, period.last
    if first == last:
        text = {0: f"this {unit}", -1: f"last {unit}", 1: f"next {unit}"}.get(
            first, f"{abs(first)} {unit}s {'ago' if first < 0 else 'ahead'}"
        )
        if period.to_date:
            text = f"{text} so far" if first == 0 else f"the same part of {text}"
    elif first < 0 and last in (-1, 0):
        if unit == "day" and last == 0:
            text = f"the {-first} days up to now"
        else:
            this = f" and this {unit}" if last == 0 else ""
            text = f"the last {-first} {unit}s{this}{' so far' if period.to_date and last == 0 else ''}"
            text = f"{text} as far as the same part of the last" if period.to_date and last == -1 else text
    else:
        text = f"the {unit}s from {_offset(first, unit)} to {_offset(last, unit)}"
        text = f"{text} as far as the same part of the last" if period.to_date else text
    return text + (", counted from the newest data" if period.anchor == "newest" else "")


def _not_twice(text: str, caption: str) -> str:
    """What a ready-made filter or a list means, beyond what its name says already."""
    bare = text if caption.casefold().startswith("the ") else text.removeprefix("the ")
    return bare[len(caption) :].lstrip(" ,") if bare.casefold().startswith(caption.casefold()) else text


def _offset(number: int, unit: str) -> str:
    units = unit if abs(number) == 1 else f"{unit}s"
    return f"this {unit}" if number == 0 else f"{abs(number)} {units} {'ago' if number < 0 else 'ahead'}"


def _member_words(condition: MemberFilter, answers: Answers, model: SemanticModel, members: Members) -> ConditionWords:
    dimension = find_dimension(model, condition.dimension)
    hierarchy = find_hierarchy(dimension, condition.hierarchy)
    if condition.list is not None:
        own = next_named(model.lists, condition.list)
        told = list_words(own, model, members)
        return ConditionWords(own.caption, _not_twice(told, own.caption), (own.description,))
    paths: tuple[MemberPath, ...] = condition.members
    if condition.prompt is not None:
        try:
            paths = answers.members(condition.prompt) or ()
        except InputError:
            return ConditionWords("…", answers.prompt(condition.prompt).caption)
    found = members(dimension.name, hierarchy.name)
    captions = tuple(those_of(path, found) for path in paths if not is_veiled(path))
    hidden = len(paths) - len(captions)
    if hidden:
        captions = (*captions, HIDDEN_MEMBER if hidden == 1 else f"{hidden} members that you do not see")
    # One more than the limit is named too: "and 1 more" would be as long.
    shown = captions if len(captions) <= MEMBERS_IN_FULL + 1 else captions[:MEMBERS_IN_FULL]
    text = listed(shown, len(captions) - len(shown)) if captions else ""
    if condition.level is not None:
        every = f"every {level_caption(dimension, condition.level).lower()}"
        text = f"{every} below {text}" if text else every
    note = (
        dimension.caption.lower()
        if hierarchy == dimension.hierarchies[0]
        else hierarchy_caption(dimension, hierarchy).lower()
    )
    return ConditionWords(text or "any", note, captions)


def _level(level: LevelName, model: SemanticModel) -> str:
    return level_caption(find_dimension(model, level.dimension), level.level)


def _values(values: tuple[Key | PromptRef, ...], answers: Answers) -> list[str]:
    texts: list[str] = []
    for each in values:
        if isinstance(each, PromptRef):
            try:
                texts += [_value(value) for value in answers.values(each.prompt) or ("anything",)]
            except InputError:
                texts.append(f"… ({answers.prompt(each.prompt).caption})")
        else:
            texts.append(_value(each))
    return texts


def _value(value: Key) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return number_words(value) if isinstance(value, int | float) else f"“{value}”"


def _compared(operator: str, values: list[str]) -> str:
    if operator == "between":
        return f"from {values[0]} to {values[-1]}"
    return COMPARES[operator] + listed(values, last="or")
