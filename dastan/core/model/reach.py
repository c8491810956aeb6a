"""Which dimensions reach which facts, and by which relationship."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from dastan.core.model.document import Dimension, Hierarchy, Measure, Relationship, SemanticModel


class Grain(NamedTuple):
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


def path_to_table(model: SemanticModel, start: str, end: str) -> tuple[Relationship, ...] | None:
    """The one shortest way from a table over many-to-one relationships to another; None where there is none.

    Two ways of the same length are no answer: the model would not say which is meant.
    """
    ways: list[tuple[Relationship, ...]] = [()]
    visited = {start}
    if start == end:
        return ()
    while ways:
        further = [
            (*way, each)
            for way in ways
            for each in model.relationships
            if each.from_table == (way[-1].to_table if way else start) and each.to_table not in visited
        ]
        arrived = [way for way in further if way[-1].to_table == end]
        if arrived:
            return arrived[0] if len(arrived) == 1 else None
        visited |= {way[-1].to_table for way in further}
        ways = further
    return None


def reaches(model: SemanticModel, grain: Grain, dimension: Dimension) -> bool:
    """Whether records of this grain can be told apart by the dimension."""
    if dimension.key is None:
        return dimension.table == grain.table
    return relationship_for(model, grain.table, dimension, dict(grain.roles)) is not None


def shown_hierarchies(dimension: Dimension) -> tuple[Hierarchy, ...]:
    """The hierarchies that the engine answers: those with named levels."""
    return tuple(each for each in dimension.hierarchies if each.levels)


def is_calendar(model: SemanticModel, dimension: Dimension) -> bool:
    """Whether a dimension is of days: its table was made as a calendar, or a measure names it as its time."""
    return model.tables[dimension.table].calendar is not None or dimension.name in {
        each.time for each in model.measures
    }
