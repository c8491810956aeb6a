"""Gestures on tables: how their files are read, and what their columns are."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError
from dastan.core.model.document import Aggregate, Column, ColumnType, Measure, NumberForm, SemanticModel
from dastan.core.model.gestures.pruning import also_words, pruned
from dastan.core.model.gestures.step import (
    ModelStep,
    settled,
    table_of,
    with_column,
    with_table,
)
from dastan.core.model.proposing.naming import table_caption

_TYPES: dict[ColumnType, str] = {
    "text": "text", "integer": "whole numbers", "decimal": "decimals", "float": "numbers", "date": "dates",
    "boolean": "yes or no",
}  # fmt: skip
_SIGNS = {"\t": "tab", " ": "blank"}


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadTable(ModelStep):
    """Reads a table's files in another way; what is not said stays as it is."""

    table: str
    delimiter: str | None = None
    encoding: str | None = None
    header: int | None = None
    footer: int | None = None
    blanks: tuple[str, ...] | None = None
    numbers: NumberForm | None = None
    kind: Literal["read_table"] = "read_table"

    def applied(self, model: SemanticModel) -> SemanticModel:
        table = table_of(model, self.table)
        if table.calendar is not None:
            raise InputError(f"“{self.table}” is made, and read from no file.", "Change the calendar instead.")
        said = {name: getattr(self, name) for name in _FORM if getattr(self, name) is not None}
        return settled(with_table(model, self.table, replace(table, **said)), self.table)

    def words(self, before: SemanticModel) -> str:
        said = []
        if self.delimiter is not None:
            said.append(f"values parted by {_SIGNS.get(self.delimiter, self.delimiter)}")
        if self.encoding is not None:
            said.append(f"letters as {self.encoding}")
        if self.header is not None:
            said.append(f"names in line {self.header}" if self.header else "no line of names")
        if self.footer is not None:
            said.append(f"{self.footer} lines at the end left out")
        if self.blanks is not None:
            said.append(f"blank where it says {' or '.join(self.blanks)}" if self.blanks else "no words for blank")
        if self.numbers is not None:
            said.append(f"numbers with {'a comma' if self.numbers.decimal == ',' else 'a point'}")
        return f"read {table_caption(self.table)} with {', '.join(said)}"


_FORM = ("delimiter", "encoding", "header", "footer", "blanks", "numbers")


@dataclass(frozen=True, slots=True, kw_only=True)
class TypeColumn(ModelStep):
    """Says of which type a column's values are, and how its dates are written; without a type its values tell."""

    table: str
    column: str
    type: ColumnType | None = None
    scale: int | None = None
    date_format: str | tuple[str, ...] | None = None
    kind: Literal["type_column"] = "type_column"

    def applied(self, model: SemanticModel) -> SemanticModel:
        known = table_of(model, self.table).columns.get(self.column, Column())
        changed = replace(known, type=self.type, scale=self.scale, date_format=self.date_format)
        return settled(with_column(model, self.table, self.column, changed), f"{self.table}.{self.column}")

    def words(self, before: SemanticModel) -> str:
        return f"{self.column} holds {_TYPES[self.type] if self.type else 'what its values tell'}"


@dataclass(frozen=True, slots=True, kw_only=True)
class NameSomething(ModelStep):
    """Says that a column's numbers name something, a card for example, so that they are counted and never added up; or
    that they are amounts. Measures of the column follow."""

    table: str
    column: str
    is_key: bool
    kind: Literal["name_something"] = "name_something"

    def applied(self, model: SemanticModel) -> SemanticModel:
        known = table_of(model, self.table).columns.get(self.column, Column())
        if not self.is_key and known.type == "integer":
            known = replace(known, type=None)
        changed = with_column(model, self.table, self.column, replace(known, is_key=self.is_key))
        measures = tuple(self._following(each) for each in changed.measures)
        return settled(replace(changed, measures=measures), f"{self.table}.{self.column}")

    def _following(self, measure: Measure) -> Measure:
        is_of_it = measure.table == self.table and measure.expression in (self.column, f'"{self.column}"')
        wanted: Aggregate = "distinct" if self.is_key else "sum"
        follows = measure.aggregate in (_ADDED if self.is_key else ("distinct",))
        return replace(measure, aggregate=wanted, time=None) if is_of_it and follows else measure

    def words(self, before: SemanticModel) -> str:
        return f"{self.column} names something" if self.is_key else f"{self.column} is an amount"


_ADDED = ("sum", "average", "median", "percentile", "variance", "deviation", "balance")


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkOutColumn(ModelStep):
    """Works a column out from others of its record."""

    table: str
    column: str
    formula: str
    type: ColumnType | None = None
    kind: Literal["work_out_column"] = "work_out_column"

    def applied(self, model: SemanticModel) -> SemanticModel:
        if not self.column.strip():
            raise InputError("The column has no name.", "Give it one.")
        column = Column(formula=self.formula, type=self.type)
        return settled(with_column(model, self.table, self.column, column), f"{self.table}.{self.column}")

    def words(self, before: SemanticModel) -> str:
        known = before.tables[self.table].columns.get(self.column) if self.table in before.tables else None
        return f"{'changed how' if known else 'worked out'} {self.column}{' is worked out' if known else ''}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutColumn(ModelStep):
    """Takes away a column that is worked out, and what is made of it."""

    table: str
    column: str
    kind: Literal["leave_out_column"] = "leave_out_column"

    def applied(self, model: SemanticModel) -> SemanticModel:
        known = table_of(model, self.table).columns.get(self.column)
        if known is None or known.formula is None:
            raise InputError(f"“{self.column}” is a column of the files.", "A column that nothing names is not read.")
        return settled(with_column(model, self.table, self.column, Column()), f"{self.table}.{self.column}")

    def words(self, before: SemanticModel) -> str:
        return f"left out {self.column}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutTable(ModelStep):
    """Leaves a table out of the model, with its measures, its dimensions and what ties it; its files stay."""

    table: str
    kind: Literal["leave_out_table"] = "leave_out_table"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        return f"left out {table_caption(self.table)}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        table_of(model, self.table)
        tables = {name: each for name, each in model.tables.items() if name != self.table}
        about = tuple(each for each in model.assumed if each.about.partition(".")[0] != self.table)
        return pruned(replace(model, tables=tables, assumed=about))
