"""Reads a sheet of a spreadsheet (Office Open XML, OpenDocument) as text, as if it had been saved as CSV: days and
moments as ISO 8601 writes them, numbers plainly."""

from __future__ import annotations

import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
from python_calamine import CalamineError, CalamineWorkbook, SheetTypeEnum, load_workbook

from dastan.core.errors import SourceError, did_you_mean
from dastan.sources.files.column_names import column_names
from dastan.sources.files.csv_file import CsvForm, CsvTable
from dastan.sources.files.number_forms import WHOLE_UP_TO, float_text
from dastan.sources.files.packed import LARGE_BYTES, MOST_UNPACKED


def sheet_names(path: Path) -> list[str]:
    """The sheets with cells, in their order. Raises SourceError for a file that cannot be opened."""
    found = _opened(path).sheets_metadata
    return [each.name for each in found if each.typ == SheetTypeEnum.WorkSheet]


@dataclass(frozen=True, slots=True, eq=False)
class Cells:
    """All rows of a sheet from its first on, with the cells as they are."""

    path: Path
    sheet: str | None
    rows: list[list[Any]]

    @property
    def called(self) -> str:
        return self.path.name if self.sheet is None else f"{self.path.name}, sheet {self.sheet}"

    def text(self, at: int) -> list[str]:
        """A row as text; 0 is the first."""
        return [_text(each) for each in self.rows[at]]

    def held(self, header: int) -> list[int]:
        """The rows that hold anything, from the one of the column names on."""
        return [at for at in range(max(header - 1, 0), len(self.rows)) if any(map(_is_held, self.rows[at]))]


def cells_of(path: Path, sheet: str | None) -> Cells:
    """Reads a sheet; the first one where none is named.

    Raises: SourceError for a file that cannot be opened, and a sheet that is not there.
    """
    book = _opened(path)
    names = [each.name for each in book.sheets_metadata if each.typ == SheetTypeEnum.WorkSheet]
    wanted = sheet if sheet is not None else next(iter(names), "")
    if wanted not in names:
        raise SourceError(f"{path.name} has no sheet “{wanted}”.", did_you_mean(wanted, names) or "It has none at all.")
    try:
        return Cells(path, sheet, book.get_sheet_by_name(wanted).to_python(skip_empty_area=False))
    except (CalamineError, OSError) as error:
        raise _broken(path) from error


def read_sheet(path: Path, form: CsvForm) -> CsvTable:
    """The records of a sheet, as `read_cells` reads them. Raises SourceError."""
    return read_cells(cells_of(path, form.sheet), form)


def read_cells(cells: Cells, form: CsvForm) -> CsvTable:
    """The records of a sheet: columns of text, blanks as null, without rows that hold nothing; and what is noticed.

    Raises: SourceError that names the file, the sheet, the row and what to do.
    """
    held = cells.held(form.header)
    if not held:
        raise SourceError(f"{cells.called} is empty.", "A table needs at least a row of column names.")
    first, body = cells.text(held[0]), held[1:]
    width = max((at for at, each in enumerate(first, 1) if each), default=0)
    names, made = column_names(first[:width], f"{cells.called}, row {held[0] + 1}")
    if form.header == 0:
        names, made, body = [f"column_{at}" for at in range(1, width + 1)], [], held
    body = body[: len(body) - form.footer] if form.footer else body
    columns = list(zip(*(cells.rows[at] for at in body), strict=True)) or [()] * width
    for place, column in enumerate(columns[width:], width):
        at = next((at for at, each in enumerate(column) if _is_held(each)), None)
        if at is not None:
            raise SourceError(
                f"{cells.called}, row {body[at] + 1}: “{_text(column[at])}” stands in a column without a name.",
                f"Give column {place + 1} a name in row {held[0] + 1}, or clear the cell.",
            )
    blanks = frozenset(form.blanks)
    table = pa.table([_texts(each, blanks) for each in columns[:width]], names=names)
    passed = held[-1] - held[0] + 1 - len(held)
    some = "a row that holds nothing was" if passed == 1 else f"{passed:,} rows that hold nothing were"
    return CsvTable(table, (*made, *((f"{cells.called}: {some} passed over",) if passed else ())))


def place_of_record(path: Path, form: CsvForm, record: int) -> str:
    """Where a record stands, "book.xlsx, sheet Taps, row 17"; 0 is the first."""
    cells = cells_of(path, form.sheet)
    at = cells.held(form.header)[record + (1 if form.header else 0)]
    return f"{cells.called}, row {at + 1}"


def _texts(column: Sequence[Any], blanks: frozenset[str]) -> pa.Array:
    """`(rows,)` the cells of a column as text; those of one kind all at once."""
    kinds = {type(each) for each in column}
    if kinds == {float}:
        numbers = np.array(column)
        if np.all(np.mod(numbers, 1) == 0) and np.all(np.abs(numbers) < WHOLE_UP_TO):
            return pa.array(numbers.astype(np.int64)).cast(pa.string())
    if kinds == {date}:
        return pa.array(column, pa.date32()).cast(pa.string())
    texts = [_text(each) for each in column]
    return pa.array([None if each == "" or each in blanks else each for each in texts], pa.string())


def _is_held(cell: Any) -> bool:
    """Whether anything stands in a cell."""
    return cell is not None and cell != "" and not (isinstance(cell, str) and not cell.strip())


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
    kind = type(cell)
    if kind is str:
        return str(cell).strip()
    if kind is float:
        return float_text(cell)
    if kind is datetime:
        if cell.time() == time():
            return str(cell.date().isoformat())
        return str(cell.isoformat(" ", "microseconds" if cell.microsecond else "seconds"))
    if kind is bool:
        return "true" if cell else "false"
    return str(cell) if kind in (date, time, int, timedelta) else ""
