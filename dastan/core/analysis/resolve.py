"""Looks up what a document names, and says plainly what is not there."""

from __future__ import annotations

from collections.abc import Iterable

from dastan.core.analysis.document import AXES, Analysis
from dastan.core.errors import InputError, NotFoundError, did_you_mean
from dastan.core.model.document import Dimension, Hierarchy, Measure, SemanticModel
from dastan.core.model.reach import Grain, grain_of, reaches, shown_hierarchies


def find_measure(model: SemanticModel, name: str) -> Measure:
    """The measure of that name. Raises NotFoundError with the nearest names."""
    try:
        return model.measure(name)
    except KeyError:
        raise _missing("Measure", name, f'model "{model.caption}"', (each.name for each in model.measures)) from None


def find_dimension(model: SemanticModel, name: str) -> Dimension:
    """The dimension of that name. Raises NotFoundError with the nearest names."""
    try:
        return model.dimension(name)
    except KeyError:
        raise _missing(
            "Dimension", name, f'model "{model.caption}"', (each.name for each in model.dimensions)
        ) from None


def find_hierarchy(dimension: Dimension, name: str) -> Hierarchy:
    """The level hierarchy of that name. Raises NotFoundError, InputError for one that has no levels."""
    try:
        found = dimension.hierarchy(name)
    except KeyError:
        known = (each.name for each in dimension.hierarchies)
        raise _missing("Hierarchy", name, f'dimension "{dimension.caption}"', known) from None
    if found not in shown_hierarchies(dimension):
        raise InputError(
            f'Hierarchy "{name}" of dimension "{dimension.caption}" has parents and children instead of levels, '
            "and cannot be shown yet.",
            "Use another hierarchy of the dimension.",
        )
    return found


def check_level(dimension: Dimension, hierarchy: Hierarchy, level: str) -> None:
    """Raises NotFoundError when the hierarchy has no such level."""
    if level not in hierarchy.levels:
        raise _missing("Level", level, f'hierarchy "{hierarchy.name}" of "{dimension.caption}"', hierarchy.levels)


def grains_of_question(document: Analysis, model: SemanticModel) -> tuple[Grain, ...]:
    """The different records that the placed measures count, in the order of the measures. Raises NotFoundError."""
    found = (grain_of(find_measure(model, each.measure)) for each in document.question.measures)
    return tuple(dict.fromkeys(found))


def check_document(document: Analysis, model: SemanticModel) -> None:
    """Raises NotFoundError or InputError for the first thing in the document that the model cannot answer."""
    for measure in document.question.measures:
        find_measure(model, measure.measure)
    places = [(axis, each) for axis in AXES for each in document.question.axis(axis)]
    if len({(each.dimension, each.hierarchy) for _, each in places}) < len(places):
        raise InputError("A hierarchy stands twice in the table.", "Keep one of the two.")
    for _, placed in places:
        dimension = find_dimension(model, placed.dimension)
        check_level(dimension, find_hierarchy(dimension, placed.hierarchy), placed.level)
    for each in document.question.filters:
        find_hierarchy(find_dimension(model, each.dimension), each.hierarchy)


def check_reach(document: Analysis, dimension: Dimension, model: SemanticModel) -> None:
    """Raises InputError where a dimension reaches none of the records that the placed measures count."""
    grains = grains_of_question(document, model)
    if grains and not any(reaches(model, grain, dimension) for grain in grains):
        names = " or ".join(f'"{find_measure(model, each.measure).caption}"' for each in document.question.measures)
        raise InputError(
            f'Dimension "{dimension.caption}" does not reach the records of {names}.',
            "Put in a measure that it reaches first.",
        )


def _missing(kind: str, name: str, where: str, known: Iterable[str]) -> NotFoundError:
    return NotFoundError(
        f'{kind} "{name}" is not in {where}.', did_you_mean(name, known), code="missing-name", details={"name": name}
    )
