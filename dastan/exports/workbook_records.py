"""The records behind a table as sheets of its workbook: typed, one kind of records on each."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import date, datetime
from decimal import Decimal

import xlsxwriter

from dastan.core.engine.watch import Watch
from dastan.core.errors import LimitError
from dastan.exports.cell_format import held_number
from dastan.exports.record_sheet import BATCH, RecordSheet

MOST_ROWS = 1_048_576
"""Of a sheet."""
_NAME_LENGTH = 31
_NO_SHEET_NAME = re.compile(r"[\[\]:*?/\\']")
_WIDTH = 16


def check_records(sheets: Iterable[RecordSheet]) -> None:
    """Raises LimitError for more records than a sheet has rows."""
    for each in sheets:
        if each.total >= MOST_ROWS:
            raise LimitError(
                f"{each.total:,} records stand behind this table, and a sheet has {MOST_ROWS:,} rows with its header.",
                "Narrow the table, or take it without its records.",
            )


def write_records(book: xlsxwriter.Workbook, sheets: Iterable[RecordSheet], watch: Watch) -> None:
    """Writes a sheet for each. Raises CancelledError."""
    head = book.add_format({"bold": True, "bottom": 1})
    day = book.add_format({"num_format": "yyyy-mm-dd"})
    moment = book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
    taken = [each.get_name() for each in book.worksheets()]
    for each in sheets:
        taken.append(_sheet_name(each.caption, taken))
        sheet = book.add_worksheet(taken[-1])
        sheet.freeze_panes(1, 0)
        sheet.set_column(0, max(len(each.columns) - 1, 0), _WIDTH)
        if each.columns:
            sheet.autofilter(0, 0, each.total, len(each.columns) - 1)
        for at, name in enumerate(each.columns):
            sheet.write_string(0, at, name, head)
        watch.expect(-(-each.total // BATCH))
        for row, values in enumerate(each.rows(), start=1):
            if row % BATCH == 0:
                watch.check()
                watch.note_done()
            for at, value in enumerate(values):
                _write(sheet, row, at, value, day, moment)


def _write(
    sheet: xlsxwriter.worksheet.Worksheet, row: int, at: int, value: object, day: object, moment: object
) -> None:
    match value:
        case None | "":
            return
        case bool():
            sheet.write_boolean(row, at, value)
        case int() | float() | Decimal():
            held = held_number(value)
            write = sheet.write_string if isinstance(held, str) else sheet.write_number
            write(row, at, held)
        case datetime() if value.year >= _FIRST_YEAR:
            sheet.write_datetime(row, at, value.replace(tzinfo=None), moment)
        case date() if value.year >= _FIRST_YEAR:
            sheet.write_datetime(row, at, value, day)
        case _:
            sheet.write_string(row, at, str(value))


_FIRST_YEAR = 1900
"""A sheet has no days before that."""


def _sheet_name(caption: str, taken: Sequence[str]) -> str:
    """A name that no other sheet has, whatever its case, of what such a name may hold."""
    name = _NO_SHEET_NAME.sub(" ", f"Records of {caption}").strip()[:_NAME_LENGTH]
    folded = {each.casefold() for each in taken}
    number = 2
    found = name
    while found.casefold() in folded:
        found, number = f"{name[: _NAME_LENGTH - 4]} ({number})", number + 1
    return found
