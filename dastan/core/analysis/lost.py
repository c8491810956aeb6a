"""What an analysis names and its model no longer has: it opens with the rest, and says what is gone."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, fields, replace
from typing import Any

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import AXES, Analysis, Dress, MadeMeasure, PlacedDimension, Question
from dastan.core.analysis.dress import check_numbers
from dastan.core.analysis.gesture import DropMissing, Gesture, LostKind, UseInstead
from dastan.core.analysis.made import with_made
from dastan.core.analysis.names import name_faults
from dastan.core.analysis.prompts import Answers
from dastan.core.analysis.ways import check_way
from dastan.core.errors import AppError, nearest_name
from dastan.core.model.condition_faults import condition_faults
from dastan.core.model.conditions import MemberFilter, PromptRef, ReadyFilter, leaves_of
from dastan.core.model.document import Attribute, Dimension, Hierarchy, Measure, ReadyMade, SemanticModel
from dastan.core.model.parts import Part


@dataclass(frozen=True, slots=True)
class Lost:
    """Something that an analysis names and that is gone, with the gesture that makes up for it."""

    text: str
    better: str
    gesture: Gesture


def fitted(document: Analysis, model: SemanticModel) -> tuple[Analysis, tuple[Lost, ...]]:
    """The document as far as the model can answer it, and what of it cannot be answered any more."""
    try:
        check_document(document, model)
    except AppError as error:
        found = tuple(lost_in(document, model)) or (Lost(str(error), "Take it out", DropMissing()),)
        return drop_missing(document, model), found
    return document, ()


def lost_in(document: Analysis, model: SemanticModel) -> list[Lost]:
    """Each thing that a document names and the model does not have, once."""
    found: dict[str, Lost] = {}
    model = with_made(model, document)
    for error in name_faults(document, model):
        if error.code == "missing-name":
            details = error.details
            lost = _lost(error.message, details["kind"], details["name"], details["nearest"], model)
            found.setdefault(error.message, lost)
    answers = Answers(document.question, model)
    for condition in document.question.filters:
        for leaf in leaves_of(condition):
            for fault in condition_faults(leaf, model, answers.knows):
                if isinstance(leaf, ReadyFilter) and fault.name is not None:
                    nearest = nearest_name(fault.name, (each.name for each in model.filters))
                    found.setdefault(fault.message, _lost(fault.message, "filter", fault.name, nearest, model))
                elif fault.field == "prompt" or (fault.name is None and _asks(leaf)):
                    found.setdefault(fault.message, Lost(fault.message, "Take it out", DropMissing()))
    return list(found.values())


def _lost(text: str, kind: str, name: str, nearest: str | None, model: SemanticModel) -> Lost:
    if nearest is None:
        return Lost(text, "Take it out", DropMissing())
    own: LostKind = kind if kind in ("dimension", "hierarchy", "level", "attribute", "filter") else "measure"  # type: ignore[assignment]
    better = f"Use “{_caption(own, nearest, model)}” instead"
    return Lost(text, better, UseInstead(thing=own, name=name, instead=nearest))


def _caption(kind: LostKind, name: str, model: SemanticModel) -> str:
    """What people call a thing of the model."""
    dimensions = model.dimensions
    things: dict[LostKind, Iterable[Measure | Dimension | Hierarchy | Attribute | ReadyMade]] = {
        "measure": model.measures, "dimension": dimensions, "filter": model.filters,
        "hierarchy": (each for one in dimensions for each in one.hierarchies),
        "level": (each for one in dimensions for each in one.attributes),
        "attribute": (each for one in dimensions for each in one.attributes),
    }  # fmt: skip
    return next((each.caption for each in things[kind] if each.name == name and each.caption), name)


def _asks(condition: Any) -> bool:
    named = isinstance(condition, MemberFilter) and condition.prompt is not None
    return named or any(isinstance(each, PromptRef) for each in getattr(condition, "values", ()))


_FIELDS: dict[LostKind, tuple[str, ...]] = {
    "measure": ("measure",), "dimension": ("dimension",), "hierarchy": ("hierarchy", "instead_of"),
    "level": ("level", "levels", "skipped"), "attribute": ("attribute",), "filter": ("name",),
}  # fmt: skip
"""Where each kind of thing is named."""


def with_instead(document: Analysis, gesture: UseInstead) -> Analysis:
    """The document with another name wherever a thing of that kind and name was named."""
    changed: Analysis = _renamed(document, gesture)
    return changed


def _renamed(part: Any, gesture: UseInstead) -> Any:
    changes: dict[str, Any] = {}
    is_named = gesture.thing != "filter" or isinstance(part, ReadyFilter)
    for field in fields(part):
        value = getattr(part, field.name)
        if is_named and field.name in _FIELDS[gesture.thing] and isinstance(value, str | tuple):
            new: Any = gesture.instead if value == gesture.name else value
            if isinstance(value, tuple):
                new = tuple(gesture.instead if each == gesture.name else each for each in value)
        elif isinstance(value, Part):
            new = _renamed(value, gesture)
        elif isinstance(value, tuple) and value and isinstance(value[0], Part):
            new = tuple(_renamed(each, gesture) for each in value)
        else:
            continue
        if new != value:
            changes[field.name] = new
    return replace(part, **changes) if changes else part


def _made_that_stand(document: Analysis, model: SemanticModel) -> tuple[MadeMeasure, ...]:
    """The made measures that have a meaning without those that have none."""
    kept: tuple[MadeMeasure, ...] = ()
    waiting = list(document.made)
    while waiting:
        for each in waiting:
            tried = replace(document, made=(*kept, each), question=Question(), ways_down=(), dress=Dress())
            with suppress(AppError):
                check_document(tried, model)
                kept = (*kept, each)
        left = [each for each in waiting if each not in kept]
        if len(left) == len(waiting):
            break
        waiting = left
    return tuple(each for each in document.made if each in kept)


def drop_missing(document: Analysis, model: SemanticModel) -> Analysis:
    """The document without the parts that the model no longer answers."""

    def stands(question: Question) -> bool:
        try:
            check_document(replace(document, question=question), own)
        except AppError:
            return False
        return True

    document = replace(document, made=_made_that_stand(document, model))
    own, model = model, with_made(model, document)
    ways = []
    for way in document.ways_down:
        with suppress(AppError):
            check_way(way, model)
            ways.append(way)
    numbers = []
    for each_dress in document.dress.numbers:
        with suppress(AppError):
            check_numbers(each_dress, model)
            numbers.append(each_dress)
    dress = replace(document.dress, numbers=tuple(numbers))
    document = replace(document, ways_down=tuple(ways), dress=dress)
    kept = replace(document.question, measures=(), rows=(), columns=(), waiting=(), filters=(), prompts=())
    for prompt in document.question.prompts:
        wider = replace(kept, prompts=(*kept.prompts, prompt))
        kept = wider if stands(wider) else kept
    for measure in document.question.measures:
        wider = replace(kept, measures=(*kept.measures, measure))
        kept = wider if stands(wider) else kept
    for axis in AXES:
        for placed in document.question.axis(axis):
            plain = PlacedDimension(dimension=placed.dimension, hierarchy=placed.hierarchy, level=placed.level)
            for candidate in (placed, replace(placed, limits=()), plain):
                wider = kept.with_axis(axis, (*kept.axis(axis), candidate))
                if stands(wider):
                    kept = wider
                    break
    for each in document.question.filters:
        wider = replace(kept, filters=(*kept.filters, each))
        kept = wider if stands(wider) else kept
    for placed in document.question.waiting:
        wider = replace(kept, waiting=(*kept.waiting, placed))
        kept = wider if stands(wider) else kept
    return replace(document, question=kept)
