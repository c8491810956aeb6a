"""A small part of an answer, of one measure: to look at while it is being made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.layout import Lines
from dastan.core.reading.window import Number, as_numbers, member_header


@dataclass(frozen=True, slots=True)
class PreviewRow:
    """A row's caption and its values, one for each column. `is_here`: the row that was pointed at."""

    caption: str
    values: tuple[Number, ...]
    is_total: bool
    is_here: bool


@dataclass(frozen=True, slots=True)
class Preview:
    """A few rows and columns around a place, and their totals. `here` is the column that was pointed at."""

    columns: tuple[str, ...]
    rows: tuple[PreviewRow, ...]
    here: int | None


def preview_of(answer: Answer, measure: int, row: int, column: int, row_count: int, column_count: int) -> Preview:
    """The values of a measure around a line of rows and one of columns, as many of each, and in the grand total."""
    present = answer.values[measure].present
    rows, own_row = _around(answer.row_lines, answer.rows, row, row_count, answer.cell_rows[present])
    columns, own_column = _around(
        answer.column_lines, answer.columns, column, column_count, answer.cell_columns[present]
    )
    found = []
    for entry in rows:
        low, high = np.searchsorted(answer.cell_rows, [entry, entry + 1])
        places = {int(each): int(low) + place for place, each in enumerate(answer.cell_columns[low:high])}
        there = [each for each in columns if each in places and present[places[each]]]
        found_at = np.array([places[each] for each in there], np.int64)
        own = dict(zip(there, as_numbers(answer.values[measure], found_at), strict=True))
        values = tuple(own.get(each) for each in columns)
        is_total = entry == answer.rows.total
        found.append(PreviewRow(_caption(answer.rows, entry), values, is_total, entry == own_row))
    here = columns.index(own_column) if own_column in columns else None
    return Preview(tuple(_caption(answer.columns, each) for each in columns), tuple(found), here)


def _around(lines: Lines, axis: Axis, line: int, count: int, with_values: np.ndarray) -> tuple[list[int], int | None]:
    """Some entries around the one that was pointed at, or else the first that have a value, the grand total's last; and
    the one that was pointed at."""
    entries = list(dict.fromkeys(lines.entry[np.flatnonzero(lines.has_figures)].tolist()))
    inner = [each for each in entries if each != axis.total]
    own = int(lines.entry[line]) if 0 <= line < len(lines) else None
    if own not in inner:
        has = set(np.unique(with_values).tolist())
        inner = [each for each in inner if each in has] or inner
    first = inner.index(own) if own in inner else 0
    first = max(0, min(first - 1, len(inner) - count))
    return [*inner[first : first + count], *([axis.total] if axis.total in entries else [])], own


def _caption(axis: Axis, entry: int) -> str:
    chain: Sequence[str] = [member_header(axis, each).caption for each in axis.chain(entry)]
    return " › ".join(chain) or axis.all_caption
