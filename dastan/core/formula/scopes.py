"""Other scopes than a cell's own: what a share divides by, and what a change is a change on."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from typing import Literal

Reach = Literal["here", "parent", "all"] | tuple[str, str, str]
"""How far up an axis a scope goes: the cell's own header, what that stands in, the grand total, or the member that it
lies under at a level, by dimension, hierarchy and level."""


@dataclass(frozen=True, slots=True)
class Above:
    """The records of a header above the cell's own, on either axis, before any limit there."""

    rows: Reach = "here"
    columns: Reach = "here"


ABOVE = {
    "whole": Above("all", "all"), "row": Above("here", "all"), "column": Above("all", "here"),
    "parent": Above("parent", "here"), "parent_column": Above("here", "parent"),
}  # fmt: skip
"""What stands above a cell, by what shares and formulas call it."""


@dataclass(frozen=True, slots=True)
class Earlier:
    """The calendar part of the scope replaced by what lies before it; everything else holds.

    By a period: that before the cell's own, at its own level. By a year: the same place in the year before. So many of
    them before: `count`.
    """

    dimension: str
    by: Literal["period", "year"]
    same_part: bool = False
    """Of a period that is not finished, only as far as the data goes."""
    count: int = 1


@dataclass(frozen=True, slots=True)
class ToDate:
    """The calendar part of the scope replaced by all days from the beginning of the period of a level in which it lies
    to its own end; everything else holds."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True)
class Opening:
    """The calendar part of the scope replaced by the last loaded day before it; everything else holds."""

    dimension: str


@dataclass(frozen=True, slots=True)
class Instead:
    """The part of the scope that a dimension makes replaced by one member of it, such as the plan; everything else
    holds."""

    dimension: str
    hierarchy: str
    path: tuple[Hashable, ...]


@dataclass(frozen=True, slots=True)
class Without:
    """The records whatever their members of some dimensions, before any limit on these. Everything else holds.

    A slice that shows everywhere says `where` they are instead, and whatever the filters on these dimensions alone.
    """

    dimensions: tuple[str, ...]
    where: tuple[Hashable, ...] = ()


@dataclass(frozen=True, slots=True)
class Known:
    """Whether there are any records at all of another scope at the cell's time, wherever else they belong: 1 in each
    cell for which there are."""

    of: Earlier | Opening | Instead


Replacing = Earlier | ToDate | Opening | Instead
"""Scopes that replace a part of the cell's own: each is asked for by itself, and its groups land on the cells."""

Scope = Above | Replacing | Without | Known | None
