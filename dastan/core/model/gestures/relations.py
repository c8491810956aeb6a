"""Gestures on what ties tables together: many records of one point at one row of another."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError
from dastan.core.model.document import Dimension, Relationship, SemanticModel
from dastan.core.model.gestures.pruning import also_words, pruned
from dastan.core.model.gestures.step import (
    ModelStep,
    relationship_of,
    settled,
    table_of,
    with_dimension,
)
from dastan.core.model.proposing.naming import name_of, table_caption, without_id


@dataclass(frozen=True, slots=True, kw_only=True)
class Tie(ModelStep):
    """Says that a column points at a key of another table. With a dimension, that is made of the table it points at."""

    from_table: str
    from_column: str
    to_table: str
    to_column: str
    role: str = ""
    """Left out, it is made of the column's name."""
    dimension: Dimension | None = None
    kind: Literal["tie"] = "tie"

    def applied(self, model: SemanticModel) -> SemanticModel:
        for each in (self.from_table, self.to_table):
            table_of(model, each)
        if self.from_table == self.to_table:
            raise InputError("A table is not tied to itself.", "Use parents and children in its dimension's hierarchy.")
        if self.from_table in _led_to(model, self.to_table):
            raise InputError(
                f"{table_caption(self.to_table)} leads to {table_caption(self.from_table)} already.",
                "Untie that first: ties go from many to one, and in no circle.",
            )
        own = [each for each in model.relationships if each.from_table == self.from_table]
        rest = [each for each in model.relationships if not self._is_same(each)]
        roles = [each.role for each in own if not self._is_same(each)]
        role = self.role or name_of(without_id(self.from_column), roles)
        made = Relationship(
            from_table=self.from_table, from_column=self.from_column, to_table=self.to_table,
            to_column=self.to_column, role=role,
        )  # fmt: skip
        changed = settled(replace(model, relationships=(*rest, made)), f"{self.from_table}.{self.from_column}")
        if self.dimension is None:
            return changed
        # What its columns told apart by themselves is told apart by the dimension from now on.
        kept = tuple(each for each in changed.dimensions if each.table != self.to_table or each.key is not None)
        whole = with_dimension(replace(changed, dimensions=kept), self.dimension)
        if len(kept) == len(changed.dimensions):
            return whole
        rest_of_it, _ = pruned(whole)
        is_there = any(each.name == self.dimension.name for each in rest_of_it.dimensions)
        return rest_of_it if is_there else whole  # one with a fault of its own is not taken away in silence

    def _is_same(self, other: Relationship) -> bool:
        """Whether it takes the place of another: the same column, or one that pointed at the same table as that."""
        return (other.from_table, other.from_column, other.to_table) == (
            self.from_table,
            self.from_column,
            self.to_table,
        )

    def words(self, before: SemanticModel) -> str:
        also = f", and made {self.dimension.caption}" if self.dimension is not None else ""
        return f"tied {table_caption(self.from_table)} to {table_caption(self.to_table)}{also}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Untie(ModelStep):
    """Takes a tie away, and what is made of it."""

    table: str
    role: str
    kind: Literal["untie"] = "untie"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        found = relationship_of(before, self.table, self.role)
        also = also_words(self._pruned(before)[1])
        return f"untied {table_caption(self.table)} from {table_caption(found.to_table)}{also}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        found = relationship_of(model, self.table, self.role)
        rest = tuple(each for each in model.relationships if each is not found)
        measures = tuple(
            replace(each, roles={name: role for name, role in each.roles.items() if role != self.role})
            if each.table == self.table
            else each
            for each in model.measures
        )
        changed = replace(model, relationships=rest, measures=measures)
        return pruned(settled(changed, f"{self.table}.{found.from_column}"))


@dataclass(frozen=True, slots=True, kw_only=True)
class NameRole(ModelStep):
    """Calls the role of a tie another name; measures that name it follow."""

    table: str
    role: str
    name: str
    kind: Literal["name_role"] = "name_role"

    def applied(self, model: SemanticModel) -> SemanticModel:
        found = relationship_of(model, self.table, self.role)
        relationships = tuple(replace(each, role=self.name) if each is found else each for each in model.relationships)
        measures = tuple(
            replace(each, roles={key: self.name if role == self.role else role for key, role in each.roles.items()})
            if each.table == self.table
            else each
            for each in model.measures
        )
        return replace(model, relationships=relationships, measures=measures)

    def words(self, before: SemanticModel) -> str:
        return f"called the role {self.role} “{self.name}”"


def _led_to(model: SemanticModel, table: str) -> set[str]:
    """A table and all that it leads to."""
    found, waiting = {table}, [table]
    while waiting:
        at = waiting.pop()
        for each in model.relationships:
            if each.from_table == at and each.to_table not in found:
                found.add(each.to_table)
                waiting.append(each.to_table)
    return found
