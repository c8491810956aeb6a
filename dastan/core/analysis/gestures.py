"""Gestures: each is one step, a pure function from document to document.

`apply_gesture` either returns a document that the model can answer, or raises and changes nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal, TypeVar, assert_never

from dastan.core.analysis.document import AXES, Analysis, AxisName, Filter, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.openness import close_level, close_member, open_level, open_member, with_opening
from dastan.core.analysis.resolve import (
    check_document,
    check_level,
    check_reach,
    find_dimension,
    find_hierarchy,
    find_measure,
    grains_of_question,
)
from dastan.core.errors import AppError, InputError
from dastan.core.model.document import Hierarchy, MemberPath, Part, SemanticModel
from dastan.core.model.reach import Grain, reaches


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMeasure(Part):
    """Puts a measure in, or moves it, so that it stands before the measure now at `at` (last without)."""

    measure: str
    at: int | None = None
    kind: Literal["put_measure"] = "put_measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeMeasure(Part):
    """Takes a measure away."""

    measure: str
    kind: Literal["take_measure"] = "take_measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutDimension(Part):
    """Puts a hierarchy on an axis, or moves it there, from `level` down (from its top without)."""

    dimension: str
    hierarchy: str
    level: str | None = None
    axis: AxisName
    at: int | None = None
    kind: Literal["put_dimension"] = "put_dimension"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeDimension(Part):
    """Takes a hierarchy off its axis. What was open in it waits."""

    dimension: str
    hierarchy: str
    kind: Literal["take_dimension"] = "take_dimension"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenMember(Part):
    dimension: str
    hierarchy: str
    path: MemberPath
    kind: Literal["open_member"] = "open_member"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseMember(Part):
    dimension: str
    hierarchy: str
    path: MemberPath
    kind: Literal["close_member"] = "close_member"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenLevel(Part):
    """Opens every member of a level."""

    dimension: str
    hierarchy: str
    level: str
    kind: Literal["open_level"] = "open_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseLevel(Part):
    """Closes every member of a level."""

    dimension: str
    hierarchy: str
    level: str
    kind: Literal["close_level"] = "close_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class FilterMembers(Part):
    """Keeps the members, or leaves them out, in place of the hierarchy's filter of that kind.

    Without members that filter is lifted. `is_alone` lifts the hierarchy's filter of the other kind as well.
    """

    dimension: str
    hierarchy: str
    action: Literal["keep", "leave_out"]
    members: tuple[MemberPath, ...]
    is_alone: bool = False
    kind: Literal["filter_members"] = "filter_members"


@dataclass(frozen=True, slots=True, kw_only=True)
class SwapAxes(Part):
    """Turns the table: rows become columns and columns rows. Nothing else changes."""

    kind: Literal["swap_axes"] = "swap_axes"


@dataclass(frozen=True, slots=True, kw_only=True)
class DropMissing(Part):
    """Takes away whatever the model no longer has, so that the rest can be answered."""

    kind: Literal["drop_missing"] = "drop_missing"


Gesture = (
    PutMeasure
    | TakeMeasure
    | PutDimension
    | TakeDimension
    | OpenMember
    | CloseMember
    | OpenLevel
    | CloseLevel
    | FilterMembers
    | SwapAxes
    | DropMissing
)


def apply_gesture(document: Analysis, gesture: Gesture, model: SemanticModel) -> Analysis:
    """The document after one gesture.

    Raises: NotFoundError for a name that the model or document does not have; InputError where the result
    could not be answered.
    """
    after = _apply(document, gesture, model)
    check_document(after, model)
    return after


def _apply(document: Analysis, gesture: Gesture, model: SemanticModel) -> Analysis:
    match gesture:
        case PutMeasure():
            return _put_measure(document, gesture, model)
        case TakeMeasure():
            taken = _with_question(document, measures=_without_measure(document.question, gesture.measure))
            return _with_defaults(taken, grains_of_question(document, model), model)
        case PutDimension():
            return _put_dimension(document, gesture, model)
        case TakeDimension():
            return replace(
                document, question=_without_dimension(document.question, gesture.dimension, gesture.hierarchy)
            )
        case OpenMember() | CloseMember():
            change = open_member if isinstance(gesture, OpenMember) else close_member
            hierarchy = _hierarchy(model, gesture.dimension, gesture.hierarchy)
            if not 0 < len(gesture.path) < len(hierarchy.levels):
                raise InputError("There is nothing below this member.", "Open a member of a level above the last.")
            opening = document.opening(gesture.dimension, gesture.hierarchy)
            return with_opening(document, change(opening, hierarchy, gesture.path))
        case OpenLevel() | CloseLevel():
            return _turn_level(document, gesture, model)
        case FilterMembers():
            return _filter_members(document, gesture, model)
        case SwapAxes():
            return _with_question(document, rows=document.question.columns, columns=document.question.rows)
        case DropMissing():
            return drop_missing(document, model)
        case _:
            assert_never(gesture)


def _put_measure(document: Analysis, gesture: PutMeasure, model: SemanticModel) -> Analysis:
    find_measure(model, gesture.measure)
    before = document.question.measures
    at = len(before) if gesture.at is None else gesture.at
    measures = _moved(before, PlacedMeasure(measure=gesture.measure), at, lambda each: each.measure == gesture.measure)
    return _with_defaults(_with_question(document, measures=measures), grains_of_question(document, model), model)


def _with_defaults(document: Analysis, before: tuple[Grain, ...], model: SemanticModel) -> Analysis:
    """New records bring the model's default members in, as visible filters; such as reach nothing are lifted.

    Args: `before` are the records counted so far: a default that reached them is there, or was lifted on purpose.
    """
    after = grains_of_question(document, model)
    filters = list(document.question.filters)
    for dimension in model.dimensions:
        if not dimension.default:
            continue
        own = Filter(
            dimension=dimension.name, hierarchy=dimension.hierarchies[0].name, action="keep", members=dimension.default
        )
        reached, was_reached = (any(reaches(model, grain, dimension) for grain in grains) for grains in (after, before))
        if not reached:
            filters = [each for each in filters if each != own]
        elif not was_reached and all(each.dimension != dimension.name for each in filters):
            filters.append(own)
    return _with_question(document, filters=tuple(filters))


def _put_dimension(document: Analysis, gesture: PutDimension, model: SemanticModel) -> Analysis:
    hierarchy = _hierarchy(model, gesture.dimension, gesture.hierarchy)
    present = _placed(document.question, gesture.dimension, gesture.hierarchy)
    level = gesture.level or (present.level if present else hierarchy.levels[0])
    dimension = find_dimension(model, gesture.dimension)
    check_level(dimension, hierarchy, level)
    if present is None:
        check_reach(document, dimension, model)
    placed = PlacedDimension(dimension=gesture.dimension, hierarchy=gesture.hierarchy, level=level)
    target = document.question.axis(gesture.axis)
    at = len(target) if gesture.at is None else gesture.at
    moved = _moved(target, placed, at, lambda each: _is_same(each, placed))
    question = _without_dimension(document.question, gesture.dimension, gesture.hierarchy)
    return replace(document, question=question.with_axis(gesture.axis, moved))


def _turn_level(document: Analysis, gesture: OpenLevel | CloseLevel, model: SemanticModel) -> Analysis:
    hierarchy = _hierarchy(model, gesture.dimension, gesture.hierarchy)
    check_level(find_dimension(model, gesture.dimension), hierarchy, gesture.level)
    if gesture.level == hierarchy.levels[-1]:
        raise InputError("There is nothing below this level.", "Open a level above it.")
    change = open_level if isinstance(gesture, OpenLevel) else close_level
    opening = document.opening(gesture.dimension, gesture.hierarchy)
    return with_opening(document, change(opening, hierarchy, gesture.level))


def _filter_members(document: Analysis, gesture: FilterMembers, model: SemanticModel) -> Analysis:
    hierarchy = _hierarchy(model, gesture.dimension, gesture.hierarchy)
    if any(not 0 < len(path) <= len(hierarchy.levels) for path in gesture.members):
        raise InputError("A member's path has one key per level, from the top down.", "Pick the member again.")
    own = Filter(
        dimension=gesture.dimension,
        hierarchy=gesture.hierarchy,
        action=gesture.action,
        members=tuple(dict.fromkeys(gesture.members)),
    )
    filters = [
        each
        for each in document.question.filters
        if not (gesture.is_alone and _is_same(each, own) and each.action != own.action)
    ]
    places = [place for place, each in enumerate(filters) if _is_same(each, own) and each.action == own.action]
    at = places[0] if places else len(filters)
    filters[at : at + 1] = [own] if gesture.members else []
    return _with_question(document, filters=tuple(filters))


def drop_missing(document: Analysis, model: SemanticModel) -> Analysis:
    """The document without the parts that the model no longer answers."""

    def stands(question: Question) -> bool:
        try:
            check_document(replace(document, question=question), model)
        except AppError:
            return False
        return True

    kept = Question()
    for measure in document.question.measures:
        wider = replace(kept, measures=(*kept.measures, measure))
        kept = wider if stands(wider) else kept
    for axis in AXES:
        for placed in document.question.axis(axis):
            wider = kept.with_axis(axis, (*kept.axis(axis), placed))
            kept = wider if stands(wider) else kept
    for each in document.question.filters:
        wider = replace(kept, filters=(*kept.filters, each))
        kept = wider if stands(wider) else kept
    return replace(document, question=kept)


def _hierarchy(model: SemanticModel, dimension: str, hierarchy: str) -> Hierarchy:
    return find_hierarchy(find_dimension(model, dimension), hierarchy)


def _with_question(document: Analysis, **changes: object) -> Analysis:
    return replace(document, question=replace(document.question, **changes))  # type: ignore[arg-type]


def _without_measure(question: Question, name: str) -> tuple[PlacedMeasure, ...]:
    return tuple(each for each in question.measures if each.measure != name)


def _without_dimension(question: Question, dimension: str, hierarchy: str) -> Question:
    for axis in AXES:
        kept = tuple(each for each in question.axis(axis) if (each.dimension, each.hierarchy) != (dimension, hierarchy))
        question = question.with_axis(axis, kept)
    return question


def _placed(question: Question, dimension: str, hierarchy: str) -> PlacedDimension | None:
    for each in (*question.rows, *question.columns):
        if (each.dimension, each.hierarchy) == (dimension, hierarchy):
            return each
    return None


def _is_same(one: PlacedDimension | Filter, other: PlacedDimension | Filter) -> bool:
    return (one.dimension, one.hierarchy) == (other.dimension, other.hierarchy)


_Thing = TypeVar("_Thing")


def _moved(things: tuple[_Thing, ...], thing: _Thing, at: int, is_same: Callable[[_Thing], bool]) -> tuple[_Thing, ...]:
    """`thing` put before what now stands at `at`, and gone from where it stood."""
    before = [each for each in things[:at] if not is_same(each)]
    return (*before, thing, *(each for each in things[at:] if not is_same(each)))
