"""An answer as a plain grid with exact values, for every export to write."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis, Header
from dastan.core.reading.window import member_header

Value = int | float | Decimal | None


@dataclass(frozen=True, slots=True)
class GridRow:
    """A row's entry on the axis, and its values: per column, one per measure."""

    entry: int
    values: tuple[Value, ...]


def grid_rows(answer: Answer) -> Iterator[GridRow]:
    """The rows in order; each has one value per column and measure, column by column."""
    width, count = len(answer.columns), len(answer.measures)
    ends = np.searchsorted(answer.cell_rows, np.arange(len(answer.rows) + 1))
    for entry in range(len(answer.rows)):
        values: list[Value] = [None] * (width * count)
        for cell in range(int(ends[entry]), int(ends[entry + 1])):
            at = int(answer.cell_columns[cell]) * count
            for place, each in enumerate(answer.values):
                values[at + place] = each.at(cell)
        yield GridRow(entry, tuple(values))


def level_columns(axis: Axis) -> list[tuple[int, int]]:
    """Every (placement, depth) that an axis shows, outermost first."""
    return [(place, depth) for place, each in enumerate(axis.placements) for depth in each.seen_depths]


def captions(axis: Axis, entry: int) -> dict[tuple[int, int], str]:
    """An entry's captions by placement and depth; none for the grand total."""
    return {(each.place, each.depth): member_header(axis, each).caption for each in axis.chain(entry)}


def path_text(axis: Axis, entry: int) -> str:
    """An entry in one line, "2025 › Q1 2025", or the grand total's caption."""
    chain: list[Header] = axis.chain(entry)
    return " › ".join(member_header(axis, each).caption for each in chain) if chain else axis.all_caption
