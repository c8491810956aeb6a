"""An answer as a plain grid with exact values, to be written as text: every header that has figures, and all cells
between them."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis, Header
from dastan.core.errors import LimitError
from dastan.core.reading.window import member_header

Value = int | float | Decimal | None

MOST_VALUES = 50_000_000
"""A grid writes its empty cells too: so many are written, and no more."""
_BLOCK_VALUES = 200_000
"""So many are held at a time, or one row."""


class Grid:
    """Rows and columns are entries of the answer's axes: headings, which have no figures, are left out, for what stands
    below them is called by all that it stands in.

    Raises: LimitError for more than are written.
    """

    def __init__(self, answer: Answer) -> None:
        self._answer = answer
        self.rows, self.columns = (np.flatnonzero(~each.is_heading) for each in (answer.rows, answer.columns))
        count = len(self.rows) * len(self.columns) * len(answer.measures)
        if count > MOST_VALUES:
            raise LimitError(
                f"A crosstab of {len(self.rows):,} rows and {len(self.columns):,} columns would be {count:,} numbers, "
                f"most of them empty, where {MOST_VALUES:,} are the most.",
                "Narrow it, or take it flat (--format numbers): a line for each cell that is not empty.",
            )

    def values(self) -> Iterator[tuple[int, list[Value]]]:
        """Each row's entry and its values: per column, one per measure."""
        answer, measures = self._answer, len(self._answer.measures)
        width = len(self.columns) * measures
        place = np.full(len(answer.columns), -1)
        place[self.columns] = np.arange(len(self.columns)) * measures
        step = max(1, _BLOCK_VALUES // max(width, 1))
        starts, ends = (np.searchsorted(answer.cell_rows, self.rows, side) for side in ("left", "right"))
        for first in range(0, len(self.rows), step):
            rows = range(first, min(first + step, len(self.rows)))
            low, high = int(starts[rows[0]]), int(ends[rows[-1]])
            listed = [each.listed(low, high) for each in answer.values]
            places = place[answer.cell_columns[low:high]].tolist()
            for row in rows:
                values: list[Value] = [None] * width
                for cell in range(int(starts[row]) - low, int(ends[row]) - low):
                    at = places[cell]
                    if at >= 0:
                        for measure, each in enumerate(listed):
                            values[at + measure] = each[cell]
                yield int(self.rows[row]), values


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
