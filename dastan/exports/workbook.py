"""A table as it is seen as a workbook (Office Open XML, ISO/IEC 29500): headers, totals and formats as on screen.

On a sheet of its own stand the same numbers flat, with a column for each level and each measure; where the chart is
shown too, it is on another one.

Rows are written as they are worked out, so that few are held however many there are.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from decimal import Decimal
from pathlib import Path
from tempfile import TemporaryDirectory

import xlsxwriter
from xlsxwriter.exceptions import FileCreateError

from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.core.errors import LimitError
from dastan.exports.cell_format import held_number
from dastan.exports.flat import FlatTable, Label, Value
from dastan.exports.record_sheet import RecordSheet
from dastan.exports.seen import SeenTable
from dastan.exports.workbook_chart import add_chart
from dastan.exports.workbook_marks import mark
from dastan.exports.workbook_records import MOST_ROWS, check_records, write_records
from dastan.exports.workbook_table import TABLE_STARTS, TableSheet

MOST_COLUMNS = 16_384
"""Of a sheet."""
_OPTIONS = {
    "constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False,
}  # fmt: skip
_WIDEST = 40
_SAMPLE = 300
"""So many rows say how wide the columns are."""


def check_size(table: SeenTable) -> None:
    """Raises LimitError for a table that is larger than a sheet can be."""
    heads = table.heads()
    rows, columns = TABLE_STARTS + len(heads) + table.row_count, len(heads[0])
    if rows > MOST_ROWS:
        raise LimitError(
            f"The table has {table.row_count:,} rows, and a sheet {MOST_ROWS:,} with what stands above them.",
            "Take it as a CSV file, or narrow it.",
        )
    if columns > MOST_COLUMNS:
        raise LimitError(
            f"The table has {columns:,} columns, and a sheet {MOST_COLUMNS:,}.",
            "Turn it, take it as a CSV file, or narrow it.",
        )


def write_workbook(
    table: SeenTable, dress: Dress, sentence: str, about: Sequence[str], file: Path, watch: Watch,
    records: Sequence[RecordSheet] = (),
) -> None:  # fmt: skip
    """Writes the file; its sentence and what else is said about it stand above the table, and the records behind it on
    sheets of their own. Raises LimitError before anything is written; CancelledError; OSError where the disk does not
    take it."""
    check_size(table)
    check_records(records)
    flat = table.flat()
    with _book(file) as book:
        lines = about if len(flat) < MOST_ROWS else (*about, "too many cells for a sheet of them all")
        book.set_properties({"title": sentence[:255], "comments": "\n".join(lines)})
        sheet = TableSheet(book, table, dress)
        sheet.write(sentence, " · ".join(lines), watch)
        mark(book, sheet)
        if dress.view != "table":
            add_chart(book, table, sentence)
        if len(flat) < MOST_ROWS:
            _write_flat(book, flat, watch)
        write_records(book, records, watch)


@contextmanager
def _book(file: Path) -> Iterator[xlsxwriter.Workbook]:
    """A workbook that is written to the disk at the end, and not at all where something went wrong. What is streamed
    until then goes in either case."""
    with TemporaryDirectory(prefix="dastan-") as streamed:
        book = xlsxwriter.Workbook(str(file), _OPTIONS | {"tmpdir": streamed})
        try:
            yield book
            book.close()
        except FileCreateError as error:  # a full disk, or no such folder
            raise OSError(*error.args) from error
        finally:
            book.fileclosed = True
            for each in book.worksheets():
                each.row_data_fh.close()


def _write_flat(book: xlsxwriter.Workbook, flat: FlatTable, watch: Watch) -> None:
    """The second sheet: values as they are, whatever the table's dress."""
    sheet = book.add_worksheet("Data")
    head = book.add_format({"bold": True, "bottom": 1})
    names = [*flat.labels, *flat.measures]
    sheet.freeze_panes(1, 0)
    if names:
        sheet.autofilter(0, 0, len(flat), len(names) - 1)
    widths = [max(len(name) + 4, 10) for name in names]
    for at, name in enumerate(names):
        sheet.write_string(0, at, name, head)
    for row, (labels, values) in enumerate(flat.rows(watch), start=1):
        if row < _SAMPLE:
            widths = [max(own, len(str(each or "")) + 2) for own, each in zip(widths, (*labels, *values), strict=True)]
        for at, value in enumerate((*labels, *values)):
            held = _held(value)
            if isinstance(held, str):
                sheet.write_string(row, at, held)
            elif held is not None:
                sheet.write_number(row, at, held)
    for at, width in enumerate(widths):
        sheet.set_column(at, at, min(width, _WIDEST))


def _held(value: Label | Value) -> int | float | str | None:
    return held_number(value) if isinstance(value, int | float | Decimal) else value
