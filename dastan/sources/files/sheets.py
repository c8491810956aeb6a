"""Reads a sheet of a spreadsheet (Office Open XML, OpenDocument) as text, as if it had been saved as CSV: days and
moments as ISO 8601 writes them, numbers plainly."""

from __future__ import annotations

import zipfile
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

import pyarrow as pa
from python_calamine import CalamineError, CalamineWorkbook, SheetTypeEnum, load_workbook

from dastan.core.errors import SourceError, did_you_mean
from dastan.sources.files.csv_file import CsvForm, CsvTable
from dastan.sources.files.packed import LARGE_BYTES, MOST_UNPACKED

_WHOLE_UP_TO = 2**53
"""Beyond it a cell's number, which is a float, does not tell whole numbers apart."""


def sheet_names(path: Path) -> list[str]:
    """The sheets with cells, in their order. Raises SourceError for a file that cannot be opened."""
    found = _opened(path).sheets_metadata
    return [each.name for each in found if each.typ == SheetTypeEnum.WorkSheet]


def rows_of(path: Path, sheet: str | None) -> list[list[str]]:
    """All rows of a sheet from its first on, each cell as text; of the first sheet where none is named.

    Raises: SourceError for a file that cannot be opened, and a sheet that is not there.
    """
    book = _opened(path)
    names = [each.name for each in book.sheets_metadata if each.typ == SheetTypeEnum.WorkSheet]
    wanted = sheet if sheet is not None else next(iter(names), "")
    if wanted not in names:
        raise SourceError(f"{path.name} has no sheet “{wanted}”.", did_you_mean(wanted, names) or "It has none at all.")
    try:
        cells = book.get_sheet_by_name(wanted).to_python(skip_empty_area=False)
    except (CalamineError, OSError) as error:
        raise _broken(path) from error
    return [[_text(each) for each in row] for row in cells]


def read_sheet(path: Path, form: CsvForm) -> CsvTable:
    """The records of a sheet: columns of text, blanks as null, without rows that hold nothing; and what is noticed.

    Raises: SourceError that names the file, the sheet, the row and what to do.
    """
    rows = rows_of(path, form.sheet)
    top = max(form.header - 1, 0)
    held = [at for at, row in enumerate(rows) if at >= top and any(row)]
    if not held:
        raise SourceError(f"{_called(path, form)} is empty.", "A table needs at least a row of column names.")
    first, body = rows[held[0]], held[1:]
    width = max((at + 1 for at, each in enumerate(first) if each), default=0)
    names = first[:width]
    if form.header == 0:
        names, body = [f"column_{at}" for at in range(1, width + 1)], held
    _check_names(names, f"{_called(path, form)}, row {held[0] + 1}")
    body = body[: len(body) - form.footer] if form.footer else body
    for at in body:
        beyond = next((place for place, each in enumerate(rows[at]) if each and place >= width), None)
        if beyond is not None:
            raise SourceError(
                f"{_called(path, form)}, row {at + 1}: “{rows[at][beyond]}” stands in a column without a name.",
                f"Give column {beyond + 1} a name in row {held[0] + 1}, or clear the cell.",
            )
    blanks = {"", *form.blanks}
    columns = [
        pa.array([None if rows[at][place] in blanks else rows[at][place] for at in body], pa.string())
        for place in range(width)
    ]
    passed = len([at for at in range(held[0], held[-1]) if not any(rows[at])])
    some = "a row that holds nothing was" if passed == 1 else f"{passed:,} rows that hold nothing were"
    notes = (f"{_called(path, form)}: {some} passed over",) if passed else ()
    return CsvTable(pa.table(columns, names=names), notes)


def place_of_record(path: Path, form: CsvForm, record: int) -> str:
    """Where a record stands, "book.xlsx, sheet Taps, row 17"; 0 is the first."""
    rows = rows_of(path, form.sheet)
    held = [at for at, row in enumerate(rows) if at >= max(form.header - 1, 0) and any(row)]
    at = held[record + (1 if form.header else 0)]
    return f"{_called(path, form)}, row {at + 1}"


def _called(path: Path, form: CsvForm) -> str:
    return path.name if form.sheet is None else f"{path.name}, sheet {form.sheet}"


def _check_names(names: Sequence[str], where: str) -> None:
    blank = next((at for at, each in enumerate(names, 1) if not each), None)
    if blank is not None:
        raise SourceError(f"{where}: column {blank} has no name.", "Give every column a name.")
    twice = next((each for each in names if names.count(each) > 1), None)
    if twice is not None:
        raise SourceError(f"{where}: column “{twice}” stands there twice.", "Give every column a name of its own.")


def _opened(path: Path) -> CalamineWorkbook:
    _refuse_bomb(path)
    try:
        return load_workbook(str(path))
    except (CalamineError, OSError) as error:
        raise _broken(path) from error


def _refuse_bomb(path: Path) -> None:
    """Raises SourceError for a small file that would fill the memory."""
    if not zipfile.is_zipfile(path):
        return  # as old ones are, which are not packed
    with zipfile.ZipFile(path) as packed:
        unpacked = sum(each.file_size for each in packed.infolist())
    if unpacked > LARGE_BYTES and unpacked > MOST_UNPACKED * path.stat().st_size:
        raise SourceError(
            f"{path.name} would unpack to {unpacked / 2**20:,.0f} MiB, which no spreadsheet does.",
            "Check where the file comes from; saved as CSV it can be read.",
        )


def _broken(path: Path) -> SourceError:
    return SourceError(
        f"{path.name} cannot be opened: it is damaged, protected by a password, or no spreadsheet.",
        "Open it in a spreadsheet program and save it again, without a password.",
    )


def _text(cell: Any) -> str:
    """What a cell says, as CSV would."""
    if isinstance(cell, str):
        return cell.strip()
    if isinstance(cell, bool):
        return "true" if cell else "false"
    if isinstance(cell, float):
        return str(int(cell)) if cell.is_integer() and abs(cell) < _WHOLE_UP_TO else repr(cell)
    if isinstance(cell, datetime):
        if cell.time() == time():
            return cell.date().isoformat()
        return cell.isoformat(" ", "microseconds" if cell.microsecond else "seconds")
    if isinstance(cell, date | time):
        return cell.isoformat()
    return str(cell) if isinstance(cell, int | timedelta) else ""
