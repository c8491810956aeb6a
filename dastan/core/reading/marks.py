"""The marks beside the numbers of an answer: which threshold holds, and how large a number is among the others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dastan.core.analysis.document import NumberDress, PlacedMeasure, Threshold
from dastan.core.engine.answer import Answer
from dastan.core.reading.chart import innermost, innermost_range
from dastan.core.reading.window import places_of

Meaning = Literal["favourable", "unfavourable", "noted"]


@dataclass(frozen=True, slots=True)
class Mark:
    """What marks one cell: what its first threshold that holds means; and `ground`, from -1 to 1, its share of the
    number farthest from zero. A total has no ground, for it is larger than all that is below it."""

    meaning: Meaning | None
    ground: float | None


Marks = tuple[tuple[Mark | None, ...], ...]
"""Of some cells, rows by columns."""


@dataclass(frozen=True, slots=True)
class WindowMarks:
    """The marks of a window's cells, and of the grand total's rows, which are always in view, in its columns."""

    cells: Marks
    totals: Marks


def is_marked(numbers: NumberDress) -> bool:
    """Whether anything stands beside a measure's numbers."""
    return numbers.in_cell != "number" or bool(numbers.thresholds)


def marks_of(
    answer: Answer,
    shown: Sequence[PlacedMeasure],
    dresses: Sequence[NumberDress],
    rows: range,
    columns: range,
) -> WindowMarks | None:
    """The marks of a window's cells, rows by columns; None where no measure is marked.

    Args: `shown` are the measures of the answer as they were placed; `rows` and `columns` lines of it.
    """
    own = [next((each for each in dresses if each.measure == one), NumberDress(measure=one)) for one in shown]
    if not any(is_marked(each) for each in own):
        return None
    marker = _Marker(answer, own)
    totals = range(answer.row_lines.total_start, answer.row_lines.total_end)

    def marked(lines: range) -> Marks:
        places = places_of(answer, np.asarray(lines, np.int64), np.asarray(columns, np.int64))
        return tuple(tuple(None if each is None else marker.mark(*each) for each in line) for line in places)

    return WindowMarks(marked(rows), marked(totals))


class _Marker:
    """Marks one cell after another."""

    def __init__(self, answer: Answer, dresses: Sequence[NumberDress]) -> None:
        self._answer = answer
        self._dresses = dresses
        self._at = {each.measure: place for place, each in enumerate(dresses)}
        self._rows, self._columns = (innermost(each) for each in (answer.rows, answer.columns))
        self._most = [
            max((abs(each) for each in innermost_range(answer, at) if each is not None), default=0.0)
            if dress.in_cell != "number"
            else 0.0
            for at, dress in enumerate(dresses)
        ]

    def mark(self, cell: int, measure: int) -> Mark | None:
        value = self._value(cell, measure)
        if value is None:
            return None
        dress = self._dresses[measure]
        meaning = next((each.meaning for each in dress.thresholds if self._holds(each, cell, value)), None)
        is_innermost = self._rows[self._answer.cell_rows[cell]] and self._columns[self._answer.cell_columns[cell]]
        ground = value / self._most[measure] if self._most[measure] and is_innermost else None
        return Mark(meaning, ground) if meaning or ground is not None else None

    def _holds(self, threshold: Threshold, cell: int, value: float) -> bool:
        edge: float | None = threshold.amount
        if threshold.times is not None:
            place = self._at.get(threshold.times)
            other = None if place is None else self._value(cell, place)
            edge = None if other is None else threshold.amount * other
        if edge is None:
            return False
        return value >= edge if threshold.side == "at_least" else value <= edge

    def _value(self, cell: int, measure: int) -> float | None:
        values = self._answer.values[measure]
        if not values.present[cell]:
            return None
        return float(values.data[cell]) / float(10 ** (values.scale or 0))
