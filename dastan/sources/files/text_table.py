"""A table of CSV files, spreadsheets, JSON lines or databases: read whole when one of its columns is needed, so that
where all that is asked is prepared, its files are not read at all."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Any

import pyarrow as pa

from dastan.core.errors import SourceError
from dastan.core.model.document import Table
from dastan.sources.files.csv_file import CsvForm, CsvTable, form_of, line_of_row, read_csv
from dastan.sources.files.database_file import place_of_row, read_database
from dastan.sources.files.json_lines import place_of_line, read_json_lines
from dastan.sources.files.packed import DATABASES, JSON_LINES, SHEETS, kind_of
from dastan.sources.files.sheets import place_of_record, read_sheet
from dastan.sources.files.snapshot import Snapshot


@dataclass(frozen=True, slots=True)
class Shape:
    """What is known of a table's files without their values: the names of the columns, the records of each file, and
    what was noticed."""

    names: tuple[str, ...]
    counts: tuple[int, ...]
    notes: tuple[str, ...]

    def plain(self) -> list[list[Any]]:
        """As lists, which JSON can say."""
        return [list(self.names), list(self.counts), list(self.notes)]

    @staticmethod
    def of_plain(found: list[list[Any]]) -> Shape:
        """What `plain` made."""
        names, counts, notes = found
        return Shape(tuple(names), tuple(counts), tuple(notes))


class TextTable:
    """The files of one table. Safe for threads: what was read is replaced whole, under a lock."""

    def __init__(
        self, name: str, declared: Table, files: list[Path], snapshot: Snapshot, shape: Shape | None,
        whole: CsvTable | None = None,
    ) -> None:  # fmt: skip
        """Args: `shape` is what is known already, or `whole`, what was read; without, all is read at once.
        Raises: SourceError for a file that is broken, or has other columns than the first.
        """
        self._name = name
        self._files = files
        self._forms = [form_of(each, declared) for each in files]
        self._snapshot = snapshot
        self._lock = Lock()
        self._whole: pa.Table | None = None
        self.shape = self._taken([whole]) if whole is not None else shape if shape is not None else self._read()

    def column(self, name: str) -> pa.ChunkedArray:
        """`(row_count,)` text as it is written. Raises SourceError where a file has changed."""
        with self._lock:
            if self._whole is None:
                self._read()
            assert self._whole is not None
            return self._whole.column(name)

    def let_go(self) -> None:
        """Frees what was read; it is read again where it is needed."""
        with self._lock:
            self._whole = None

    def locate(self, row: int) -> str:
        """Where a record stands, "journeys.csv, line 17"."""
        for file, form, count in zip(self._files, self._forms, self.shape.counts, strict=True):
            if row < count:
                return place_in(file, form, row)
            row -= count
        return self._name

    def _read(self) -> Shape:
        read = []
        for file, form in zip(self._files, self._forms, strict=True):
            self._snapshot.check(file)
            read.append(read_text(file, form))
            self._snapshot.check(file)  # replaced on the way, it may have been read half and half
        names = read[0].table.column_names
        for file, each in zip(self._files, read, strict=True):
            if each.table.column_names != names:
                raise other_columns(file, each.table.column_names, self._files[0], names)
        return self._taken(read)

    def _taken(self, read: list[CsvTable]) -> Shape:
        self._whole = pa.concat_tables([each.table for each in read])
        notes = tuple(note for each in read for note in each.notes)
        return Shape(tuple(self._whole.column_names), tuple(each.table.num_rows for each in read), notes)


def read_text(file: Path, form: CsvForm) -> CsvTable:
    """All values of a file, or of its sheet or table, as text. Raises SourceError."""
    kind = kind_of(file)
    if kind in SHEETS:
        return read_sheet(file, form)
    if kind in JSON_LINES:
        return read_json_lines(file, form)
    return read_database(file, form) if kind in DATABASES else read_csv(file, form)


def place_in(file: Path, form: CsvForm, record: int) -> str:
    """Where a record stands in its file, "journeys.csv, line 17"; 0 is the first."""
    kind = kind_of(file)
    if kind in SHEETS:
        return place_of_record(file, form, record)
    if kind in JSON_LINES:
        return place_of_line(file, record)
    if kind in DATABASES:
        return place_of_row(file, form, record)
    return f"{file.name}, line {line_of_row(file, form, record)}"


def other_columns(file: Path, names: list[str], first: Path, others: list[str]) -> SourceError:
    """For a file that has columns which the first has not, or lacks some, or has them in another order."""
    more, less = ([each for each in one if each not in other] for one, other in ((names, others), (others, names)))
    said = [f"it has “{each}” too" for each in more[:2]] + [f"it lacks “{each}”" for each in less[:2]]
    return SourceError(
        f"{file.name} has other columns than {first.name}: {', '.join(said) or 'the order differs'}.",
        "Files of one table need the same columns, in the same order.",
    )
