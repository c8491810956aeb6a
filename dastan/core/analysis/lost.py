"""What an analysis names and its model no longer has: it opens with the rest, and says what is gone."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import DropMissing, Gesture, UseInstead
from dastan.core.analysis.made import with_made
from dastan.core.analysis.missing import LostKind, without_missing
from dastan.core.analysis.moving import without_shared
from dastan.core.analysis.names import name_faults
from dastan.core.analysis.prompts import Answers
from dastan.core.errors import AppError, nearest_name
from dastan.core.model.condition_faults import condition_faults
from dastan.core.model.conditions import MemberFilter, PromptRef, ReadyFilter, leaves_of
from dastan.core.model.document import Attribute, Dimension, Hierarchy, Measure, MemberList, ReadyMade, SemanticModel


@dataclass(frozen=True, slots=True)
class Lost:
    """Something that an analysis names and that is gone, with the gesture that makes up for it."""

    text: str
    better: str
    gesture: Gesture


def fitted(document: Analysis, model: SemanticModel) -> tuple[Analysis, tuple[Lost, ...]]:
    """The document as far as the model can answer it, and what of it cannot be answered any more."""
    document = without_shared(document, model)
    try:
        check_document(document, model)
    except AppError as error:
        found = tuple(lost_in(document, model)) or (Lost(str(error), "Take it out", DropMissing()),)
        return without_missing(document, model), found
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
                elif fault.field == "list" and fault.name is not None:
                    nearest = nearest_name(fault.name, (each.name for each in model.lists))
                    found.setdefault(fault.message, _lost(fault.message, "list", fault.name, nearest, model))
                elif fault.field == "prompt" or (fault.name is None and _asks(leaf)):
                    found.setdefault(fault.message, Lost(fault.message, "Take it out", DropMissing()))
    return list(found.values())


def _lost(text: str, kind: str, name: str, nearest: str | None, model: SemanticModel) -> Lost:
    if nearest is None:
        return Lost(text, "Take it out", DropMissing())
    own: LostKind = kind if kind in ("dimension", "hierarchy", "level", "attribute", "filter", "list") else "measure"  # type: ignore[assignment]
    better = f"Use “{_caption(own, nearest, model)}” instead"
    return Lost(text, better, UseInstead(thing=own, name=name, instead=nearest))


def _caption(kind: LostKind, name: str, model: SemanticModel) -> str:
    """What people call a thing of the model."""
    dimensions = model.dimensions
    things: dict[LostKind, Iterable[Measure | Dimension | Hierarchy | Attribute | ReadyMade | MemberList]] = {
        "measure": model.measures, "dimension": dimensions, "filter": model.filters,
        "list": model.lists,
        "hierarchy": (each for one in dimensions for each in one.hierarchies),
        "level": (each for one in dimensions for each in one.attributes),
        "attribute": (each for one in dimensions for each in one.attributes),
    }  # fmt: skip
    return next((each.caption for each in things[kind] if each.name == name and each.caption), name)


def _asks(condition: Any) -> bool:
    named = isinstance(condition, MemberFilter) and condition.prompt is not None
    return named or any(isinstance(each, PromptRef) for each in getattr(condition, "values", ()))
