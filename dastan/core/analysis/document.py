"""The analysis document: a question, the members that are open, and the dress.

Frozen: a gesture makes a new document, so an earlier one is never lost. `dastan.documents` reads and writes
it as JSON, version `analysis/1`.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal

from dastan.core.model.document import MemberPath, Part

AxisName = Literal["rows", "columns"]
AXES: tuple[AxisName, AxisName] = ("rows", "columns")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedMeasure(Part):
    """A measure of the model, shown."""

    measure: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedDimension(Part):
    """A hierarchy on an axis, shown from `level` down as far as its members are open."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Filter(Part):
    """Members kept or left out. A path names everything below it."""

    dimension: str
    hierarchy: str
    action: Literal["keep", "leave_out"]
    members: tuple[MemberPath, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Question(Part):
    """What is asked. The first placement on an axis is the outermost; all filters hold together."""

    measures: tuple[PlacedMeasure, ...] = ()
    rows: tuple[PlacedDimension, ...] = ()
    columns: tuple[PlacedDimension, ...] = ()
    filters: tuple[Filter, ...] = ()

    def axis(self, name: AxisName) -> tuple[PlacedDimension, ...]:
        """The placements on one axis, outermost first."""
        return self.rows if name == "rows" else self.columns

    def with_axis(self, name: AxisName, placed: tuple[PlacedDimension, ...]) -> Question:
        """The question with one axis set anew."""
        return replace(self, rows=placed) if name == "rows" else replace(self, columns=placed)


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening(Part):
    """Which members of one hierarchy are open, wherever it stands.

    Kept by path and not by place in the table: turning or nesting the table keeps every branch as it was,
    and a path that does not apply now waits. `levels` are open as a whole, but for the paths in `closed`;
    a path in `open` is open in any case.
    """

    dimension: str
    hierarchy: str
    levels: tuple[str, ...] = ()
    open: tuple[MemberPath, ...] = ()
    closed: tuple[MemberPath, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Dress(Part):
    """How it looks. Nothing can be dressed yet; the room is kept so that documents need not move."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis(Part):
    """The whole analysis document."""

    dastan: Literal["analysis/1"] = "analysis/1"
    model: str
    question: Question = field(default_factory=Question)
    openings: tuple[Opening, ...] = ()
    dress: Dress = field(default_factory=Dress)

    def opening(self, dimension: str, hierarchy: str) -> Opening:
        """What is open in a hierarchy; nothing when it was never opened."""
        for each in self.openings:
            if (each.dimension, each.hierarchy) == (dimension, hierarchy):
                return each
        return Opening(dimension=dimension, hierarchy=hierarchy)
