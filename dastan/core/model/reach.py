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


Way = tuple[Relationship, ...]
"""Many-to-one relationships, each going on from the table that the one before leads to."""


def ways_to(model: SemanticModel, table: str, dimension: Dimension) -> tuple[Way, ...]:
    """The shortest ways from a table's records to the key of a dimension, in document order; of its own table the empty
    one."""
    if table == dimension.table:
        return ((),)
    return tuple(each for each in _shortest(model, table, dimension.table) if each[-1].to_column == dimension.key)


def way_to(model: SemanticModel, table: str, dimension: Dimension, roles: Mapping[str, str]) -> Way | None:
    """The one way by which a dimension with a key reaches the table's records; None when it does not.

    Several with no role named are no answer either: the measure must say which it means, by the last one's role.
    """
    found = ways_to(model, table, dimension)
    role = roles.get(dimension.name)
    if role is not None:
        found = tuple(each for each in found if each and each[-1].role == role)
    return found[0] if len(found) == 1 else None


def path_to_table(model: SemanticModel, start: str, end: str) -> Way | None:
    """The one shortest way from a table over many-to-one relationships to another; None where there is none.

    Two ways of the same length are no answer: the model would not say which is meant.
    """
    if start == end:
        return ()
    found = _shortest(model, start, end)
    return found[0] if len(found) == 1 else None


def _shortest(model: SemanticModel, start: str, end: str) -> list[Way]:
    """All the shortest ways from a table to another."""
    ways: list[Way] = [()]
    visited = {start}
    while ways:
        further = [
            (*way, each)
            for way in ways
            for each in model.relationships
            if each.from_table == (way[-1].to_table if way else start) and each.to_table not in visited
        ]
        arrived = [way for way in further if way[-1].to_table == end]
        if arrived:
            return arrived
        visited |= {way[-1].to_table for way in further}
        ways = further
    return []


def reaches(model: SemanticModel, grain: Grain, dimension: Dimension) -> bool:
    """Whether records of this grain can be told apart by the dimension."""
    if dimension.key is None:
        return dimension.table == grain.table
    return way_to(model, grain.table, dimension, dict(grain.roles)) is not None


def shown_hierarchies(dimension: Dimension) -> tuple[Hierarchy, ...]:
    """The hierarchies that the engine answers: those with named levels."""
    return tuple(each for each in dimension.hierarchies if each.levels)


def is_calendar(model: SemanticModel, dimension: Dimension) -> bool:
    """Whether a dimension is of days: its table was made as a calendar, or a measure names it as its time."""
    return model.tables[dimension.table].calendar is not None or dimension.name in {
        each.time for each in model.measures
    }
