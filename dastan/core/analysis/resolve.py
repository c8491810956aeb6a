"""Looks up what a document names, and says plainly what is not there."""

from __future__ import annotations

from collections.abc import Iterable

from dastan.core.errors import NotFoundError, did_you_mean, nearest_name
from dastan.core.model.document import Attribute, Dimension, Hierarchy, Measure, SemanticModel
from dastan.core.model.reach import shown_hierarchies


def find_measure(model: SemanticModel, name: str) -> Measure:
    """The measure of that name. Raises NotFoundError with the nearest names."""
    try:
        return model.measure(name)
    except KeyError:
        raise missing("Measure", name, f"model “{model.caption}”", (each.name for each in model.measures)) from None


def find_dimension(model: SemanticModel, name: str) -> Dimension:
    """The dimension of that name. Raises NotFoundError with the nearest names."""
    try:
        return model.dimension(name)
    except KeyError:
        raise missing("Dimension", name, f"model “{model.caption}”", (each.name for each in model.dimensions)) from None


def find_hierarchy(dimension: Dimension, name: str) -> Hierarchy:
    """The hierarchy of that name, with its levels. Raises NotFoundError with the nearest names."""
    for each in shown_hierarchies(dimension):
        if each.name == name:
            return each
    known = (each.name for each in dimension.hierarchies)
    raise missing("Hierarchy", name, f"dimension “{dimension.caption}”", known)


def check_level(dimension: Dimension, hierarchy: Hierarchy, level: str) -> None:
    """Raises NotFoundError when the hierarchy has no such level."""
    if level not in hierarchy.levels:
        raise missing("Level", level, f"hierarchy “{hierarchy.name}” of “{dimension.caption}”", hierarchy.levels)


def find_attribute(dimension: Dimension, name: str) -> Attribute:
    """The attribute of that name. Raises NotFoundError with the nearest names."""
    for each in dimension.attributes:
        if each.name == name:
            return each
    raise missing("Attribute", name, f"dimension “{dimension.caption}”", (each.name for each in dimension.attributes))


def missing(kind: str, name: str, where: str, known: Iterable[str]) -> NotFoundError:
    """The error for a name that is not there; `details` has its kind and the nearest name that is, if any is near."""
    names = tuple(known)
    details = {"name": name, "kind": kind.lower(), "nearest": nearest_name(name, names)}
    return NotFoundError(
        f"{kind} “{name}” is not in {where}.", did_you_mean(name, names), code="missing-name", details=details
    )
