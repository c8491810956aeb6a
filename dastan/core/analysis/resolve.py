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


def grain_of_question(document: Analysis, model: SemanticModel) -> Grain | None:
    """The records that the placed measures count; None without measures.

    Raises: NotFoundError; InputError when two measures count different records.
    """
    grains = [(each.measure, grain_of(find_measure(model, each.measure))) for each in document.question.measures]
    for name, grain in grains:
        if grain != grains[0][1]:
            first, other = find_measure(model, grains[0][0]), find_measure(model, name)
            raise InputError(
                f'"{first.caption}" and "{other.caption}" count different records and cannot stand in one table yet.',
                "Take one of them away, or put it into an analysis of its own.",
            )
    return grains[0][1] if grains else None


def check_document(document: Analysis, model: SemanticModel) -> None:
    """Raises NotFoundError or InputError for the first thing in the document that the model cannot answer."""
    grain = grain_of_question(document, model)
    places: list[tuple[str, str, str | None]] = [
        (each.dimension, each.hierarchy, each.level) for axis in AXES for each in document.question.axis(axis)
    ]
    if len({place[:2] for place in places}) < len(places):
        raise InputError("A hierarchy stands twice in the table.", "Keep one of the two.")
    places += [(each.dimension, each.hierarchy, None) for each in document.question.filters]
    for dimension_name, hierarchy_name, level in places:
        dimension = find_dimension(model, dimension_name)
        hierarchy = find_hierarchy(dimension, hierarchy_name)
        if level is not None:
            check_level(dimension, hierarchy, level)
        if grain is not None and not reaches(model, grain, dimension):
            first = find_measure(model, document.question.measures[0].measure)
            raise InputError(
                f'Dimension "{dimension.caption}" does not reach the records of "{first.caption}".',
                "Take the dimension or the measure away.",
            )


def _missing(kind: str, name: str, where: str, known: Iterable[str]) -> NotFoundError:
    return NotFoundError(
        f'{kind} "{name}" is not in {where}.', did_you_mean(name, known), code="missing-name", details={"name": name}
    )
