"""Whether everything that a part of a document or a gesture names is in the model: asked once, before anything is done.

Parts name things by fields of the same names everywhere: `dimension`, `hierarchy`, `level`, `attribute`, `measure`. So
one walk over a part finds all that it names, however deep, and whoever works on it afterwards need not expect a name
that leads nowhere.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import fields

from dastan.core.analysis.document import Limit, PlacedDimension
from dastan.core.analysis.resolve import check_level, find_attribute, find_dimension, find_hierarchy, find_measure
from dastan.core.errors import AppError, InputError
from dastan.core.model.document import Hierarchy, SemanticModel
from dastan.core.model.parts import MemberPath, Part

_WAITS = {"openings", "labels", "silenced", "layout"}
"""What a document keeps until it applies again: it may name what is no longer there. A layout names its own rows."""


def check_names(part: Part, model: SemanticModel) -> None:
    """Raises NotFoundError for the first name in a part that the model does not have, InputError for a member's path
    that no member of its hierarchy can have."""
    for each in parts_in(part):
        _check(each, model)


def name_faults(part: Part, model: SemanticModel) -> Iterator[AppError]:
    """What `check_names` would raise, of every part inside: the first of each."""
    for each in parts_in(part):
        try:
            _check(each, model)
        except AppError as error:
            yield error


def parts_in(part: Part) -> Iterator[Part]:
    """A part and all parts inside it, but for those that wait until they apply."""
    yield part
    for field in fields(part):  # type: ignore[arg-type]
        if field.name in _WAITS:
            continue
        value = getattr(part, field.name)
        if isinstance(value, Part):
            yield from parts_in(value)
        elif isinstance(value, tuple):
            for each in value:
                if not isinstance(each, Part):
                    break  # keys, paths and names: the same all through
                yield from parts_in(each)


def _check(part: Part, model: SemanticModel) -> None:
    measure = getattr(part, "measure", None)
    if isinstance(measure, str):
        find_measure(model, measure)
    dimension_name = getattr(part, "dimension", None)
    if dimension_name is None:
        return
    dimension = find_dimension(model, dimension_name)
    attribute = getattr(part, "attribute", None)
    if attribute is not None:
        find_attribute(dimension, attribute)
    hierarchy_name, level = getattr(part, "hierarchy", None), getattr(part, "level", None)
    if hierarchy_name is None and level is None:
        return
    hierarchy_name = hierarchy_name or dimension.hierarchies[0].name
    hierarchy = find_hierarchy(dimension, hierarchy_name)
    instead_of = getattr(part, "instead_of", None)
    if instead_of is not None:
        find_hierarchy(dimension, instead_of)
    if level is not None:
        check_level(dimension, hierarchy, level)
    if isinstance(part, PlacedDimension):
        for each in part.skipped:
            check_level(dimension, hierarchy, each)
        for own in part.limits:
            check_level(dimension, hierarchy, own.level)
    limit = getattr(part, "limit", None)
    if isinstance(limit, Limit):
        check_level(dimension, hierarchy, limit.level)
        if limit.level != level:
            raise InputError(
                f"The limit is of level “{limit.level}”, where level “{level}” is to be limited.",
                "Name the same level.",
            )
    for path in _paths(part):
        _check_path(path, hierarchy)


def _paths(part: Part) -> Iterator[MemberPath]:
    """The members that a part names in its own hierarchy."""
    path = getattr(part, "path", None)
    if path:
        yield path
    members = getattr(part, "members", None)
    if isinstance(members, tuple) and members and isinstance(members[0], tuple):
        yield from members


def _check_path(path: MemberPath, hierarchy: Hierarchy) -> None:
    if not 0 < len(path) <= len(hierarchy.levels):
        raise InputError("A member's path has one key per level, from the top down.", "Pick the member again.")
