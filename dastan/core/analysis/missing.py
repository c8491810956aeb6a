"""A document without what its model no longer has, or with something else in its place."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import fields, replace
from typing import Any, Literal

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import AXES, Analysis, Dress, MadeMeasure, PlacedDimension, Question
from dastan.core.analysis.dress import check_numbers
from dastan.core.analysis.joints import check_joints
from dastan.core.analysis.layouts import check_layouts
from dastan.core.analysis.lists import check_lists
from dastan.core.analysis.made import with_made
from dastan.core.analysis.ways import check_way
from dastan.core.errors import AppError
from dastan.core.model.conditions import ReadyFilter
from dastan.core.model.document import LayoutRow, SemanticModel
from dastan.core.model.parts import Part

LostKind = Literal["measure", "dimension", "hierarchy", "level", "attribute", "filter", "list"]

_FIELDS: dict[LostKind, tuple[str, ...]] = {
    "measure": ("measure",), "dimension": ("dimension",), "hierarchy": ("hierarchy", "instead_of"),
    "level": ("level", "levels", "skipped"), "attribute": ("attribute",), "filter": ("name",),
    "list": ("list",),
}  # fmt: skip
"""Where each kind of thing is named."""


def with_instead(document: Analysis, thing: LostKind, name: str, instead: str) -> Analysis:
    """The document with another name wherever a thing of that kind and name was named."""
    changed: Analysis = _renamed(document, thing, name, instead)
    return changed


def _renamed(part: Any, thing: LostKind, name: str, instead: str) -> Any:
    """A part with the name changed; but in the rows of a layout, which name one another."""
    changes: dict[str, Any] = {}
    is_named = thing != "filter" or isinstance(part, ReadyFilter)
    for field in fields(part):
        value = getattr(part, field.name)
        if is_named and field.name in _FIELDS[thing] and isinstance(value, str | tuple):
            new: Any = instead if value == name else value
            if isinstance(value, tuple):
                new = tuple(instead if each == name else each for each in value)
        elif isinstance(value, Part):
            new = _renamed(value, thing, name, instead)
        elif isinstance(value, tuple) and value and isinstance(value[0], Part) and not isinstance(value[0], LayoutRow):
            new = tuple(_renamed(each, thing, name, instead) for each in value)
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


def _that_stand(
    documents: Sequence[Analysis], model: SemanticModel, check: Callable[[Analysis, SemanticModel], None]
) -> Iterator[Analysis]:
    """Of documents, each of which makes one thing, those whose thing makes sense."""
    for each in documents:
        with suppress(AppError):
            check(each, with_made(model, each))
            yield each


def without_missing(document: Analysis, model: SemanticModel) -> Analysis:
    """The document without the parts that the model no longer answers."""

    def stands(question: Question) -> bool:
        try:
            check_document(replace(document, question=question), own)
        except AppError:
            return False
        return True

    document = replace(document, made=_made_that_stand(document, model))
    lists = _that_stand([replace(document, lists=(each,)) for each in document.lists], model, check_lists)
    document = replace(document, lists=tuple(each for one in lists for each in one.lists))
    joints = _that_stand([replace(document, joints=(each,)) for each in document.joints], model, check_joints)
    layouts = _that_stand([replace(document, layouts=(each,)) for each in document.layouts], model, check_layouts)
    document = replace(
        document,
        joints=tuple(each for one in joints for each in one.joints),
        layouts=tuple(each for one in layouts for each in one.layouts),
    )
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
