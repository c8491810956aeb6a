"""Which dimensions reach which facts, and by which relationship."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dastan.core.model.document import Dimension, Hierarchy, Measure, Relationship, SemanticModel


@dataclass(frozen=True, slots=True)
class Grain:
    """The records a measure counts and the roles by which dimensions reach them.

    Measures of one grain can stand side by side in one table.
    """

    table: str
    roles: tuple[tuple[str, str], ...] = ()


def grain_of(measure: Measure) -> Grain:
    """The grain of a measure's records."""
    return Grain(measure.table, tuple(sorted(measure.roles.items())))


def relationships_between(model: SemanticModel, table: str, dimension: Dimension) -> tuple[Relationship, ...]:
    """The relationships by which `table` points straight at the dimension's key, in document order."""
    return tuple(
        each
        for each in model.relationships
        if each.from_table == table and each.to_table == dimension.table and each.to_column == dimension.key
    )


def relationship_for(
    model: SemanticModel, table: str, dimension: Dimension, roles: Mapping[str, str]
) -> Relationship | None:
    """The one relationship by which the dimension reaches the table's records; None when it does not.

    Several pointers with no role named are no answer either: the measure must say which it means.
    """
    found = relationships_between(model, table, dimension)
    role = roles.get(dimension.name)
    if role is not None:
        found = tuple(each for each in found if each.role == role)
    return found[0] if len(found) == 1 else None


def reaches(model: SemanticModel, grain: Grain, dimension: Dimension) -> bool:
    """Whether records of this grain can be told apart by the dimension."""
    if dimension.key is None:
        return dimension.table == grain.table
    return relationship_for(model, grain.table, dimension, dict(grain.roles)) is not None


def shown_hierarchies(dimension: Dimension) -> tuple[Hierarchy, ...]:
    """The hierarchies that the engine answers: those with named levels."""
    return tuple(each for each in dimension.hierarchies if each.levels)
