"""What every gesture on a model is made of."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import replace
from typing import TypeVar

from dastan.core.errors import InputError, did_you_mean
from dastan.core.model.document import (
    Attribute,
    Column,
    Dimension,
    Measure,
    MemberList,
    ModelJoint,
    ReadyMade,
    Relationship,
    Role,
    SemanticModel,
    Table,
)
from dastan.core.model.parts import Part

_Named = TypeVar("_Named", Attribute, Dimension, Measure, MemberList, ModelJoint, ReadyMade, Role)


class ModelStep(Part, ABC):
    """A step of a model's draft: a pure function from model to model, with its words."""

    __slots__ = ()

    @abstractmethod
    def applied(self, model: SemanticModel) -> SemanticModel:
        """The model after it. Raises InputError for what is not there."""

    @abstractmethod
    def words(self, before: SemanticModel) -> str:
        """What it does, as the trail says it."""


def table_of(model: SemanticModel, name: str) -> Table:
    """The table of that name. Raises InputError."""
    if name not in model.tables:
        raise InputError(f"There is no table “{name}”.", did_you_mean(name, list(model.tables)))
    return model.tables[name]


def dimension_of(model: SemanticModel, name: str) -> Dimension:
    """The dimension of that name. Raises InputError."""
    for each in model.dimensions:
        if each.name == name:
            return each
    raise InputError(f"There is no dimension “{name}”.", did_you_mean(name, [each.name for each in model.dimensions]))


def measure_of(model: SemanticModel, name: str) -> Measure:
    """The measure of that name. Raises InputError."""
    for each in model.measures:
        if each.name == name:
            return each
    raise InputError(f"There is no measure “{name}”.", did_you_mean(name, [each.name for each in model.measures]))


def relationship_of(model: SemanticModel, table: str, role: str) -> Relationship:
    """The relationship of a table in that role. Raises InputError."""
    own = [each for each in model.relationships if each.from_table == table]
    for each in own:
        if each.role == role:
            return each
    raise InputError(f"Table “{table}” is tied to nothing as “{role}”.", did_you_mean(role, [one.role for one in own]))


def with_table(model: SemanticModel, name: str, table: Table) -> SemanticModel:
    """The model with another table of that name, or a further one."""
    return replace(model, tables={**model.tables, name: table})


def with_column(model: SemanticModel, table: str, name: str, column: Column) -> SemanticModel:
    """The model with what is said of a column; nothing where that is nothing."""
    declared = table_of(model, table)
    columns = {**declared.columns, name: column}
    if column == Column():
        del columns[name]
    return with_table(model, table, replace(declared, columns=columns))


def put_named(parts: tuple[_Named, ...], part: _Named) -> tuple[_Named, ...]:
    """The parts with one in place of the one of its name; behind the others where that is none."""
    found = [part if each.name == part.name else each for each in parts]
    if not has_named(parts, part.name):
        found.append(part)
    return tuple(found)


def has_named(parts: tuple[_Named, ...], name: str) -> bool:
    """Whether one of the parts has that name."""
    return any(each.name == name for each in parts)


def with_dimension(model: SemanticModel, dimension: Dimension) -> SemanticModel:
    """The model with a dimension in place of the one of its name; behind the others where that is none."""
    return replace(model, dimensions=put_named(model.dimensions, dimension))


def with_measure(model: SemanticModel, measure: Measure) -> SemanticModel:
    """The model with a measure in place of the one of its name; behind the others where that is none."""
    return replace(model, measures=put_named(model.measures, measure))


def settled(model: SemanticModel, about: str) -> SemanticModel:
    """The model without what was taken to be so of a table or a column: somebody has said how it is."""
    return replace(model, assumed=tuple(each for each in model.assumed if each.about != about))


def check_caption(caption: str, what: str) -> None:
    """Raises InputError where people would have nothing to call something by. Args: `what` is it, "A measure"."""
    if not caption.strip():
        raise InputError(f"{what} has a caption.", "Write what people call it.")
