"""What was seen of tables by looking at their values: what a model is proposed from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from dastan.core.model.document import Assumption, Table

Kind = Literal["text", "whole", "decimal", "float", "day", "moment", "boolean", "nothing"]
"""What a column holds; `nothing` where all of it is blank."""


@dataclass(frozen=True, slots=True)
class ColumnProfile:
    """One column over all records of its table."""

    name: str
    kind: Kind
    records: int
    blanks: int
    distinct: int
    """How many different values it has; blanks are none. Of amounts, of the first records alone."""
    least: int | str | None = None
    """Of whole numbers and days (ISO): the first of them; None for other kinds."""
    greatest: int | str | None = None
    scale: int = 0
    """Of a decimal: the digits after its point."""
    shortest: int = 0
    """Of text and whole numbers: how many signs its values have at the least, and at the most."""
    longest: int = 0

    @property
    def is_unique(self) -> bool:
        """Whether each record has one, and another one than all others."""
        return self.records > 1 and self.blanks == 0 and self.distinct == self.records

    @property
    def is_number(self) -> bool:
        return self.kind in ("whole", "decimal", "float")


@dataclass(frozen=True, slots=True)
class TableProfile:
    """One table: how it is to be read, and its columns."""

    name: str
    declared: Table
    records: int
    columns: tuple[ColumnProfile, ...]
    assumed: tuple[Assumption, ...] = ()
    """What was taken to be so in reading it."""

    def column(self, name: str) -> ColumnProfile:
        """The column of that name. Raises StopIteration where there is none."""
        return next(each for each in self.columns if each.name == name)

    def with_kind(self, *kinds: Kind) -> tuple[ColumnProfile, ...]:
        """Its columns of some kinds."""
        return tuple(each for each in self.columns if each.kind in kinds)


@dataclass(frozen=True, slots=True)
class Pointer:
    """A column whose values may be the keys of another table's rows, and how many of them are."""

    table: str
    column: str
    to_table: str
    to_column: str
    distinct: int = 0
    """Different values of the column."""
    found: int = 0
    """How many of these are keys there."""
    blank: int = 0
    """Records without a value."""
    unknown: int = 0
    """Records with a value that is no key there."""

    @property
    def share(self) -> float:
        """How many of its different values are found, between 0 and 1."""
        return self.found / self.distinct if self.distinct else 0.0


@dataclass(frozen=True, slots=True)
class Nesting:
    """Two columns of a table: each value of `inner` goes with one value of `outer` alone."""

    table: str
    inner: str
    outer: str
