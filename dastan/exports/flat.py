"""An answer flat: a row for each innermost cell, with a column for each level and each measure, ready to be asked anew
elsewhere. Subtotals are left out, for whoever adds up the rest gets them again."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from itertools import chain

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis, Header
from dastan.core.engine.watch import Watch
from dastan.core.reading.chart import innermost
from dastan.core.reading.window import member_header
from dastan.core.values import Values
from dastan.exports.csv import csv_texts
from dastan.exports.grid import level_columns
from dastan.exports.spreadsheet_text import harmless

Label = str | int | None
"""What a member is called; a number where its key is one and it is called by it."""
Value = int | float | Decimal | None
BLOCK = 20_000
"""So many rows are worked out between two looks at the watch."""


class FlatTable:
    """Args: `measures` are what the answer's measures are called."""

    def __init__(self, answer: Answer, measures: list[str]) -> None:
        self._answer = answer
        self._levels = [(axis, level_columns(axis)) for axis in (answer.rows, answer.columns)]
        rows, columns = innermost(answer.rows), innermost(answer.columns)
        has_any = np.logical_or.reduce([each.present for each in answer.values]) if answer.values else True
        self._cells = np.flatnonzero(rows[answer.cell_rows] & columns[answer.cell_columns] & has_any)
        self.labels = [
            axis.placements[place].members.levels[depth].caption
            for axis, levels in self._levels
            for place, depth in levels
        ]
        self.measures = measures
        self.units = [each.unit for each in answer.measures]

    def __len__(self) -> int:
        return len(self._cells)

    def label_codes(self, at: int) -> tuple[list[Label], np.ndarray]:
        """Of a column of labels what it holds, and `(n,) int64` which of these each row has."""
        side = int(at >= len(self._levels[0][1]))
        entries = (self._answer.cell_rows, self._answer.cell_columns)[side][self._cells]
        different, codes = np.unique(entries, return_inverse=True)
        own = at - side * len(self._levels[0][1])
        return [self._labels(side, each)[own] for each in different.tolist()], codes

    def values_of(self, measure: int) -> Values:
        """A measure's exact values, one for each row."""
        return self._answer.values[measure].take(self._cells)

    def rows(self, watch: Watch) -> Iterator[tuple[list[Label], list[Value]]]:
        """Each cell's labels and the exact values of all measures. Raises CancelledError."""
        answer = self._answer
        known: tuple[dict[int, list[Label]], dict[int, list[Label]]] = ({}, {})
        watch.expect(-(-len(self) // BLOCK))
        for at, cell in enumerate(self._cells.tolist()):
            if at % BLOCK == 0:
                watch.check()
                watch.note_done()
            labels: list[Label] = []
            for side, entry in enumerate((int(answer.cell_rows[cell]), int(answer.cell_columns[cell]))):
                own = known[side].get(entry)
                if own is None:
                    own = known[side][entry] = self._labels(side, entry)
                labels += own
            yield labels, [each.at(cell) for each in answer.values]

    def _labels(self, side: int, entry: int) -> list[Label]:
        axis, levels = self._levels[side]
        found = {(each.place, each.depth): _label(axis, each) for each in axis.chain(entry)}
        return [found.get(each) for each in levels]


def flat_csv(table: FlatTable, watch: Watch) -> Iterator[str]:
    """The table as CSV (RFC 4180), some rows at a time: names first, then every number with all its digits, and nothing
    where there is none."""
    names = [harmless(each) for each in (*table.labels, *table.measures)]
    rows = (
        [*(harmless(each) if isinstance(each, str) else digits_of(each) for each in labels), *map(digits_of, values)]
        for labels, values in table.rows(watch)
    )
    return csv_texts(chain([names], rows))


def digits_of(value: object) -> str:
    """A number as it is, without an exponent."""
    if value is None:
        return ""
    return repr(value) if isinstance(value, float) else format(value, "f") if isinstance(value, Decimal) else str(value)


def _label(axis: Axis, header: Header) -> Label:
    caption = member_header(axis, header).caption
    keys = axis.placements[header.place].members.levels[header.depth].keys
    code = header.code
    key = keys[code] if code < len(keys) else None
    return key if isinstance(key, int) and not isinstance(key, bool) and str(key) == caption else caption
