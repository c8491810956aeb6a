"""What is wrong with a condition, wherever it is written."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from dastan.core.errors import did_you_mean
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
    Prompt,
    PromptRef,
    ReadyFilter,
)
from dastan.core.model.document import Dimension, SemanticModel
from dastan.core.model.parts import Key
from dastan.core.model.reach import is_calendar

FARTHEST_UNITS = 100_000
"""So many days, or of any longer unit, are counted from an anchor at most: some three centuries of days."""


@dataclass(frozen=True, slots=True)
class ConditionFault:
    """What is wrong and what to do; `name` is the name that is not there, where that is the fault."""

    field: str
    message: str
    hint: str
    name: str | None = None


def condition_faults(
    condition: Condition, model: SemanticModel, knows_prompt: Callable[[str], bool]
) -> Iterator[ConditionFault]:
    """Every fault of a condition and of those inside it. Args: `model` has all its levels."""
    match condition:
        case MemberFilter():
            yield from _member_faults(condition, model, knows_prompt)
        case AttributeFilter():
            dimension = _dimension(model, condition.dimension)
            if dimension is None:
                yield _missing("Dimension", "dimension", condition.dimension, (each.name for each in model.dimensions))
            elif condition.attribute not in (names := [each.name for each in dimension.attributes]):
                yield _missing("Attribute", "attribute", condition.attribute, names)
            yield from _value_faults(condition.operator, condition.values, knows_prompt)
        case PeriodFilter() | KeyFilter():
            dimension = _dimension(model, condition.dimension)
            if dimension is None:
                yield _missing("Dimension", "dimension", condition.dimension, (each.name for each in model.dimensions))
            elif isinstance(condition, PeriodFilter) and not (dimension.key and is_calendar(model, dimension)):
                hint = "Name the dimension of days that the measures follow."
                yield ConditionFault("dimension", f"{dimension.caption} is not a calendar.", hint)
            elif dimension.key is None:
                hint = "Name a dimension that has a `key`."
                yield ConditionFault("dimension", f"{dimension.caption} is not pointed at by a key.", hint)
            if isinstance(condition, PeriodFilter):
                yield from _period_faults(condition)
        case MeasureFilter():
            if all(each.name != condition.measure for each in model.measures):
                yield _missing("Measure", "measure", condition.measure, (each.name for each in model.measures))
            if not condition.at:
                yield ConditionFault("at", "A condition on a measure needs a level at which it is taken.", "Name one.")
            for each in (*condition.at, *([condition.per] if condition.per is not None else [])):
                yield from _level_faults(each, model)
            yield from _value_faults(condition.operator, condition.values, knows_prompt)
        case ReadyFilter():
            if all(each.name != condition.name for each in model.filters):
                known = (each.name for each in model.filters)
                yield _missing("Ready-made filter", "name", condition.name, known)
        case FilterGroup():
            for part in condition.parts:
                yield from condition_faults(part, model, knows_prompt)


def prompt_faults(prompt: Prompt, model: SemanticModel) -> Iterator[ConditionFault]:
    """Every fault of a question to ask. Args: `model` has all its levels."""
    if prompt.type != "members":
        return
    dimension = _dimension(model, prompt.dimension or "")
    if dimension is None:
        yield _missing("Dimension", "dimension", prompt.dimension or "", (each.name for each in model.dimensions))
    elif all(each.name != prompt.hierarchy for each in dimension.hierarchies):
        yield _missing("Hierarchy", "hierarchy", prompt.hierarchy or "", (each.name for each in dimension.hierarchies))


def _member_faults(
    condition: MemberFilter, model: SemanticModel, knows_prompt: Callable[[str], bool]
) -> Iterator[ConditionFault]:
    dimension = _dimension(model, condition.dimension)
    if dimension is None:
        yield _missing("Dimension", "dimension", condition.dimension, (each.name for each in model.dimensions))
        return
    found = [each for each in dimension.hierarchies if each.name == condition.hierarchy and each.levels]
    if not found:
        known = (each.name for each in dimension.hierarchies)
        yield _missing("Hierarchy", "hierarchy", condition.hierarchy, known)
        return
    levels = found[0].levels
    if found[0].layout is not None:
        message = (
            f"The rows of “{found[0].caption or found[0].name}” cannot be narrowed: they stand as they are laid out."
        )
        yield ConditionFault("hierarchy", message, "Narrow by what they are made of.")
    if condition.level is not None and condition.level not in levels:
        yield _missing("Level", "level", condition.level, levels)
    if condition.prompt is not None and not knows_prompt(condition.prompt):
        yield ConditionFault("prompt", f"There is no question “{condition.prompt}”.", "Add it to `prompts`.")
    if condition.list is not None:
        listed = next((each for each in model.lists if each.name == condition.list), None)
        if listed is None:
            yield _missing("List", "list", condition.list, (each.name for each in model.lists))
        elif (listed.dimension, listed.hierarchy) != (condition.dimension, condition.hierarchy):
            message = f"“{listed.caption}” lists members of another hierarchy."
            yield ConditionFault("list", message, "Name the hierarchy that it is of.")
    deepest = None if found[0].parent_child is not None else len(levels)
    if any(not path or (deepest is not None and len(path) > deepest) for path in condition.members):
        hint = "Write one key per level, from the top down: [[bus], [tram, hill]]."
        yield ConditionFault("members", f"A member of {dimension.caption} has too many keys, or none.", hint)


def _period_faults(condition: PeriodFilter) -> Iterator[ConditionFault]:
    if condition.first > condition.last:
        yield ConditionFault("first", "A period ends before it begins.", "Let `first` be no later than `last`.")
    farthest = max(abs(condition.first), abs(condition.last))
    if farthest > FARTHEST_UNITS:
        field = "first" if farthest == abs(condition.first) else "last"
        hint = f"Count at most {FARTHEST_UNITS:,} {condition.unit.replace('_', ' ')}s."
        yield ConditionFault(field, f"A period of {farthest:,} units lies beyond all calendars.", hint)


def _level_faults(level: LevelName, model: SemanticModel) -> Iterator[ConditionFault]:
    dimension = _dimension(model, level.dimension)
    if dimension is None:
        yield _missing("Dimension", "at", level.dimension, (each.name for each in model.dimensions))
        return
    found = [each for each in dimension.hierarchies if each.name == level.hierarchy]
    if not found:
        yield _missing("Hierarchy", "at", level.hierarchy, (each.name for each in dimension.hierarchies))
    elif level.level not in found[0].levels:
        yield _missing("Level", "at", level.level, found[0].levels)


def _value_faults(
    operator: str, values: tuple[Key | PromptRef, ...], knows_prompt: Callable[[str], bool]
) -> Iterator[ConditionFault]:
    named = [each for each in values if isinstance(each, PromptRef)]
    for each in named:
        if not knows_prompt(each.prompt):
            yield ConditionFault("values", f"There is no question “{each.prompt}”.", "Add it to `prompts`.")
    if named:
        return
    if operator == "between" and len(values) != 2:
        yield ConditionFault("values", "A range has two ends.", "Give two values, both included.")
    elif not values:
        yield ConditionFault("values", "A comparison needs a value.", "Give at least one.")
    elif operator in TEXT_OPERATORS and not all(isinstance(each, str) for each in values):
        yield ConditionFault("values", "A text is compared with text.", "Put the value in quotation marks.")


def _dimension(model: SemanticModel, name: str) -> Dimension | None:
    return next((each for each in model.dimensions if each.name == name), None)


def _missing(kind: str, field: str, name: str, known: Iterable[str]) -> ConditionFault:
    return ConditionFault(field, f"{kind} “{name}” is not in the model.", did_you_mean(name, known), name)
