"""Reads the tables of an SQLite file as text, as if they had been saved as CSV. Its views would run, and are left."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pyarrow as pa

from dastan.core.errors import SourceError, did_you_mean
from dastan.sources.files.csv_file import CsvForm, CsvTable
from dastan.sources.files.number_forms import float_text


def table_names(path: Path) -> list[str]:
    """The tables of a file, by name. Raises SourceError for one that cannot be opened."""
    with _opened(path) as connection:
        found = connection.execute(
            "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' "
            "AND sql NOT LIKE 'CREATE VIRTUAL%' ORDER BY name"
        )
        return [str(name) for (name,) in found]


def read_database(path: Path, form: CsvForm) -> CsvTable:
    """The rows of a table, in the order in which they lie there; of the first table where none is named.

    Raises: SourceError for a file that cannot be opened, and a table that is not there.
    """
    names = table_names(path)
    wanted = form.sheet if form.sheet is not None else next(iter(names), "")
    if wanted not in names:
        raise SourceError(f"{path.name} has no table “{wanted}”.", did_you_mean(wanted, names) or "It has none at all.")
    quoted = '"' + wanted.replace('"', '""') + '"'
    with _opened(path) as connection:
        rows = connection.execute(f"SELECT * FROM {quoted}")  # the name is one of those that are there
        columns = [str(each[0]) for each in rows.description]
        values = list(zip(*rows, strict=True)) or [()] * len(columns)
    blanks = {"", *form.blanks}
    held = [(name, each) for name, each in zip(columns, values, strict=True) if not _has_bytes(each)]
    left = [name for name in columns if name not in dict(held)]
    arrays = [pa.array([_text(cell, blanks) for cell in each], pa.string()) for _, each in held]
    notes = (f"{path.name}: {', '.join(left)} of {wanted} hold bytes, and were left out",) if left else ()
    return CsvTable(pa.table(arrays, names=[name for name, _ in held]), notes)


def place_of_row(path: Path, form: CsvForm, record: int) -> str:
    """Where a record stands, "bay.sqlite, table taps, row 17"; 0 is the first."""
    table = f", table {form.sheet}" if form.sheet is not None else ""
    return f"{path.name}{table}, row {record + 1}"


def _has_bytes(column: tuple[Any, ...]) -> bool:
    return any(isinstance(each, bytes) for each in column)


def _text(cell: Any, blanks: set[str]) -> str | None:
    text = float_text(cell) if isinstance(cell, float) else "" if cell is None else str(cell).strip()
    return None if text in blanks else text


@contextmanager
def _opened(path: Path) -> Iterator[sqlite3.Connection]:
    """A file to be read, as it lies there. Raises SourceError for what is none."""
    try:
        # Nothing is written beside it; and what its own definitions would run is not run.
        connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)
        try:
            connection.execute("PRAGMA trusted_schema = OFF")
            connection.execute("PRAGMA cell_size_check = ON")
            yield connection
        finally:
            connection.close()
    except sqlite3.Error as error:
        raise SourceError(
            f"{path.name} cannot be read as an SQLite file: {error}.", "Copy it again while no program writes to it."
        ) from error
