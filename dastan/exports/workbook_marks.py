"""Thresholds, bars and shades of a table as a spreadsheet's own, which follow when somebody changes a number there."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import xlsxwriter
from xlsxwriter.format import Format
from xlsxwriter.utility import xl_col_to_name, xl_rowcol_to_cell

from dastan.core.analysis.document import NumberDress, Threshold
from dastan.core.reading.window import ColumnHeader
from dastan.exports.workbook_table import TableSheet

_COLOURS = {"favourable": "#1D6B5A", "unfavourable": "#A3293D", "noted": "#8A6100"}
_BAR, _PAPER = "#D9A441", "#FFFFFF"
MOST_SPANS = 400
"""Of rows that bars stand behind: of more a spreadsheet makes heavy weather."""


def mark(book: xlsxwriter.Workbook, table: TableSheet) -> None:
    """Marks each column as its measure's numbers are dressed, once all rows are written."""
    formats = {each: book.add_format({"font_color": colour, "bold": True}) for each, colour in _COLOURS.items()}
    if not table.table.row_count:
        return
    for at, column in enumerate(table.table.columns):
        place, numbers = table.labels + at, table.table.numbers_of(column)
        if numbers is None:
            continue
        for each in numbers.thresholds:
            rule = _threshold(table, each, numbers, column, place, formats)
            if rule is not None:
                table.sheet.conditional_format(table.first_row, place, table.last_row, place, rule)
        ends = table.table.ground_of(at)
        if numbers.in_cell != "number" and ends is not None and 0 < len(table.innermost) <= MOST_SPANS:
            _ground(table, numbers, place, ends)


def _threshold(
    table: TableSheet,
    own: Threshold,
    numbers: NumberDress,
    column: ColumnHeader,
    place: int,
    formats: dict[str, Format],
) -> dict[str, Any] | None:
    """The rule of one threshold; the first that holds marks a cell. None where it looks at what is not beside it."""
    sign = -1 if numbers.is_turned else 1
    is_above = (own.side == "at_least") == (sign > 0)
    rule: dict[str, Any] = {"format": formats[own.meaning], "stop_if_true": True}
    if own.times is None:
        return rule | {"type": "cell", "criteria": ">=" if is_above else "<=", "value": sign * own.amount}
    other = next(_beside(table, column, own), None)
    if other is None:
        return None
    cell, against = (xl_rowcol_to_cell(table.first_row, each, col_abs=True) for each in (place, table.labels + other))
    turned = -1 if table.table.is_turned(table.table.columns[other]) else 1
    limit = f"{sign * turned * own.amount}*{against}"
    both = f"ISNUMBER({cell}),ISNUMBER({against})"
    return rule | {"type": "formula", "criteria": f"=AND({both},{cell}{'>=' if is_above else '<='}{limit})"}


def _beside(table: TableSheet, column: ColumnHeader, own: Threshold) -> Iterator[int]:
    """The columns of the measure that a threshold compares with, under the same headers."""
    for at, each in enumerate(table.table.columns):
        if each.members == column.members and table.table.placed_in(each) == own.times:
            yield at


def _ground(table: TableSheet, numbers: NumberDress, place: int, ends: tuple[float, float]) -> None:
    """Bars or shades behind what stands innermost, as long in all columns of a measure as its numbers are large."""
    scale = {"min_type": "num", "min_value": ends[0], "max_type": "num", "max_value": ends[1]}
    if numbers.in_cell == "bar":
        rule: dict[str, Any] = {"type": "data_bar", "bar_color": _BAR, "bar_solid": True, **scale}
    else:
        rule = {"type": "2_color_scale", "min_color": _PAPER, "max_color": _BAR, **scale}
    name, (first, last) = xl_col_to_name(place), table.innermost[0]
    if len(table.innermost) > 1:
        rule["multi_range"] = " ".join(f"{name}{start + 1}:{name}{end + 1}" for start, end in table.innermost)
    table.sheet.conditional_format(first, place, last, place, rule)
