"""Lists of members: what is wrong with one, and which others it stands on."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.errors import did_you_mean
from dastan.core.model.condition_faults import ConditionFault, condition_faults
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PromptRef,
    ReadyFilter,
    leaves_of,
)
from dastan.core.model.document import Hierarchy, MemberList, ModelJoint, SemanticModel
from dastan.core.model.expression import Only, all_parts

MOST_LISTED = 100_000
"""So many members are on a list at most."""


def level_of(each: MemberList) -> LevelName:
    """The level of a rule's members."""
    return LevelName(dimension=each.dimension, hierarchy=each.hierarchy, level=each.level or "")


class FaultyPlaceError(Exception):
    """Members of a hierarchy that is not there, or has none that could be named."""

    def __init__(self, fault: ConditionFault) -> None:
        super().__init__(fault.message)
        self.fault = fault


def hierarchy_of_members(each: MemberList | ModelJoint, model: SemanticModel, done: str) -> Hierarchy:
    """The hierarchy whose members something names. Args: `done` is what is done with them, "listed".

    Raises: FaultyPlaceError.
    """
    dimension = next((one for one in model.dimensions if one.name == each.dimension), None)
    if dimension is None:
        hint = did_you_mean(each.dimension, (one.name for one in model.dimensions))
        message = f"Dimension “{each.dimension}” is not in the model."
        raise FaultyPlaceError(ConditionFault("dimension", message, hint, each.dimension))
    hierarchy = next((one for one in dimension.hierarchies if one.name == each.hierarchy and one.levels), None)
    if hierarchy is None or hierarchy.is_list:
        hint = did_you_mean(each.hierarchy, (one.name for one in dimension.hierarchies if not one.is_list))
        message = f"{dimension.caption} has no hierarchy “{each.hierarchy}” whose members can be {done}."
        raise FaultyPlaceError(ConditionFault("hierarchy", message, hint, each.hierarchy))
    return hierarchy


def path_faults(each: MemberList | ModelJoint, hierarchy: Hierarchy, model: SemanticModel) -> Iterator[ConditionFault]:
    """A fault where a member is named by more keys than its hierarchy has levels, or by none."""
    deepest = None if hierarchy.parent_child is not None else len(hierarchy.levels)
    if any(not path or (deepest is not None and len(path) > deepest) for path in each.members):
        caption = model.dimension(each.dimension).caption
        hint = "Write one key per level, from the top down: [[bus], [tram, hill]]."
        yield ConditionFault("members", f"A member of {caption} has too many keys, or none.", hint)


def list_faults(each: MemberList, model: SemanticModel) -> Iterator[ConditionFault]:
    """Every fault of a list. Args: `model` has all its levels, and the list."""
    try:
        hierarchy = hierarchy_of_members(each, model, "listed")
    except FaultyPlaceError as error:
        yield error.fault
        return
    yield from path_faults(each, hierarchy, model)
    if each.level is None:
        if not each.members:
            yield ConditionFault("members", f"“{each.caption}” lists no members.", "Choose some, or give it a rule.")
        if each.where or each.ranked or each.over:
            yield ConditionFault("level", f"The rule of “{each.caption}” is of no level.", "Say of which level.")
        return
    if each.level not in hierarchy.levels:
        hint = did_you_mean(each.level, hierarchy.levels)
        yield ConditionFault("level", f"Level “{each.level}” is not in the hierarchy.", hint, each.level)
        return
    yield from _rule_faults(each, model)
    if any(name == each.name for name in lists_behind(each, model)):
        message = f"“{each.caption}” stands on a measure that stands on “{each.caption}”."
        yield ConditionFault("where", message, "Take another measure.")


def _rule_faults(each: MemberList, model: SemanticModel) -> Iterator[ConditionFault]:
    for field, conditions in (("where", each.where), ("over", each.over)):
        for condition in conditions:
            yield from (
                ConditionFault(field, fault.message, fault.hint, fault.name)
                for fault in condition_faults(condition, model, lambda _: False)
            )
            for leaf in leaves_of(condition):
                if isinstance(leaf, ReadyFilter) or (isinstance(leaf, MemberFilter) and leaf.list is not None):
                    message = f"The rule of “{each.caption}” stands on a filter or list of another name."
                    yield ConditionFault(field, message, "Write out what holds.")
                elif any(isinstance(value, PromptRef) for value in getattr(leaf, "values", ())):
                    yield ConditionFault(field, f"The rule of “{each.caption}” asks a question.", "Write a value.")
                elif field == "over" and isinstance(leaf, MeasureFilter):
                    message = f"The records of “{each.caption}” are told by a measure."
                    yield ConditionFault(field, message, "Tell them by members and periods.")
                elif field == "where" and not _is_of_its_members(leaf, each):
                    message = f"A condition of “{each.caption}” is not about its members."
                    hint = (
                        "Compare their attributes, or a measure at their level; what is of records belongs to `over`."
                    )
                    yield ConditionFault(field, message, hint)
    if each.ranked is not None:
        if all(one.name != each.ranked.measure for one in model.measures):
            hint = did_you_mean(each.ranked.measure, (one.name for one in model.measures))
            name = each.ranked.measure
            yield ConditionFault("ranked", f"Measure “{name}” is not in the model.", hint, name)
        if not each.ranked.amount > 0:
            yield ConditionFault("ranked", f"“{each.caption}” has no members.", "Give an amount above zero.")


def _is_of_its_members(leaf: Condition, each: MemberList) -> bool:
    if isinstance(leaf, MeasureFilter):
        return leaf.at == (level_of(each),)
    return isinstance(leaf, AttributeFilter | MemberFilter) and leaf.dimension == each.dimension


def lists_named(condition: Condition) -> Iterator[str]:
    """The lists that a condition names."""
    for leaf in leaves_of(condition):
        if isinstance(leaf, MemberFilter) and leaf.list is not None:
            yield leaf.list


def lists_of_measure(name: str, model: SemanticModel) -> Iterator[str]:
    """The lists that a measure stands on: in the slices of its formula, or of one that it is made of."""
    visited, waiting = set[str](), [name]
    while waiting:
        at = waiting.pop()
        measure = next((each for each in model.measures if each.name == at), None)
        if at in visited or measure is None:
            continue
        visited.add(at)
        waiting += [each for each in (measure.numerator, measure.denominator) if each is not None]
        for condition in measure.where:
            yield from lists_named(condition)
        for part in all_parts(measure.formula) if measure.formula is not None else ():
            waiting += [found] if (found := getattr(part, "measure", None)) is not None else []
            for condition in part.conditions if isinstance(part, Only) else ():
                yield from lists_named(condition)


def lists_behind(each: MemberList, model: SemanticModel) -> Iterator[str]:
    """The lists that the measures of a list's rule stand on, however far."""
    visited, waiting = set[str](), [each]
    while waiting:
        at = waiting.pop()
        names = [leaf.measure for one in at.where for leaf in leaves_of(one) if isinstance(leaf, MeasureFilter)]
        names += [at.ranked.measure] if at.ranked is not None else []
        for found in (one for name in names for one in lists_of_measure(name, model)):
            if found not in visited:
                visited.add(found)
                yield found
                waiting += [one for one in model.lists if one.name == found]
