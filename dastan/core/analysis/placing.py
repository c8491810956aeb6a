"""Finding and changing what stands in a document: measures, and hierarchies on an axis or waiting."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TypeVar

from dastan.core.analysis.document import AXES, Analysis, AxisName, PlacedDimension, Question
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError
from dastan.core.model.document import Hierarchy, SemanticModel

_Thing = TypeVar("_Thing")


def hierarchy_of(model: SemanticModel, dimension: str, hierarchy: str) -> Hierarchy:
    """The hierarchy of those names. Raises NotFoundError."""
    return find_hierarchy(find_dimension(model, dimension), hierarchy)


def with_question(document: Analysis, **changes: object) -> Analysis:
    """The document with some parts of its question set anew."""
    return replace(document, question=replace(document.question, **changes))  # type: ignore[arg-type]


def axis_of(question: Question, placed: PlacedDimension) -> AxisName | None:
    """The axis on which a hierarchy stands; None where it is on neither."""
    return next((axis for axis in AXES if any(is_same_hierarchy(each, placed) for each in question.axis(axis))), None)


def is_same_hierarchy(one: PlacedDimension, other: PlacedDimension) -> bool:
    return (one.dimension, one.hierarchy) == (other.dimension, other.hierarchy)


def placed_in(question: Question, dimension: str, hierarchy: str) -> PlacedDimension | None:
    """The placement of a hierarchy on an axis, where it is on one."""
    for each in (*question.rows, *question.columns):
        if (each.dimension, each.hierarchy) == (dimension, hierarchy):
            return each
    return None


def waiting_in(question: Question, dimension: str, hierarchy: str) -> PlacedDimension | None:
    """A hierarchy that waits, as it will stand; None where it does not wait."""
    return next((each for each in question.waiting if (each.dimension, each.hierarchy) == (dimension, hierarchy)), None)


def find_placed(question: Question, dimension: str, hierarchy: str, model: SemanticModel) -> PlacedDimension:
    """The placement on an axis. Raises NotFoundError; InputError where it is not in the table."""
    hierarchy_of(model, dimension, hierarchy)
    found = placed_in(question, dimension, hierarchy)
    if found is None:
        caption = find_dimension(model, dimension).caption
        raise InputError(f"{caption} is not in the table.", "Put it on the rows or columns first.")
    return found


def replace_placed(document: Analysis, placed: PlacedDimension) -> Analysis:
    """The document with a placement on an axis set anew."""
    question = document.question
    for axis in AXES:
        changed = tuple(placed if is_same_hierarchy(each, placed) else each for each in question.axis(axis))
        question = question.with_axis(axis, changed)
    return replace(document, question=question)


def without_dimension(question: Question, dimension: str, hierarchy: str) -> Question:
    """The question with a hierarchy neither on an axis nor waiting. The measures stay among the others."""
    for axis in AXES:
        before = question.axis(axis)
        places = [at for at, each in enumerate(before) if (each.dimension, each.hierarchy) == (dimension, hierarchy)]
        is_outside = axis == question.measures_on and question.measures_at is not None
        if places and is_outside and places[0] < (question.measures_at or 0):
            question = replace(question, measures_at=(question.measures_at or 0) - 1)
        question = question.with_axis(axis, tuple(each for at, each in enumerate(before) if at not in places))
    waiting = tuple(each for each in question.waiting if (each.dimension, each.hierarchy) != (dimension, hierarchy))
    return replace(question, waiting=waiting)


def moved(things: tuple[_Thing, ...], thing: _Thing, at: int, is_same: Callable[[_Thing], bool]) -> tuple[_Thing, ...]:
    """`thing` put before what now stands at `at`, and gone from where it stood."""
    before = [each for each in things[:at] if not is_same(each)]
    return (*before, thing, *(each for each in things[at:] if not is_same(each)))
