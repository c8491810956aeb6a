"""The tables of a model as they lie in a folder, read column by column when first needed."""

from __future__ import annotations

from collections.abc import Callable
from copy import copy
from pathlib import Path
from threading import RLock
from typing import Any, Protocol

import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq

from dastan.core.errors import SourceError, did_you_mean
from dastan.core.formula.columns import ColumnOf
from dastan.core.model.document import Column, Table
from dastan.sources.files.columns import Place, typed
from dastan.sources.files.computed import work_out
from dastan.sources.files.csv_file import CsvTable
from dastan.sources.files.packed import MOST_UNPACKED, TABLES, kind_of
from dastan.sources.files.snapshot import Snapshot
from dastan.sources.files.text_table import Shape, TextTable, other_columns


class Prepared(Protocol):
    """Where what was read of a folder's files is kept beside them."""

    def has(self, key: object) -> bool: ...

    def get(self, key: object) -> Any: ...

    def put(self, key: object, value: Any) -> Any: ...

    def column(self, table: str, column: str, read: Callable[[], pa.ChunkedArray]) -> pa.ChunkedArray: ...


class TableData:
    """One table's columns. Each is read and typed once, then kept."""

    def __init__(
        self,
        name: str,
        declared: Table,
        names: tuple[str, ...],
        row_count: int,
        read: Callable[[str], pa.ChunkedArray],
        locate: Callable[[int], str],
        is_untyped: bool = False,
        notes: tuple[str, ...] = (),
        text: TextTable | None = None,
    ) -> None:
        self.name = name
        self.formulas = {each: own.formula for each, own in declared.columns.items() if own.formula is not None}
        """Of the columns that are worked out, how."""
        self.names = (*names, *(each for each in self.formulas if each not in names))
        self.row_count = row_count
        self.declared = declared
        self._form = declared.numbers
        self._read = read
        self._locate = locate
        self._is_untyped = is_untyped
        self._text = text
        self.prepared: Prepared | None = None
        """Where its columns are kept once they are typed; None for a table that is quickly read."""
        self.leads_to: Callable[[str], tuple[str, TableData, str]] | None = None
        """From a role or a table's name to the column that points there, the table, and the column that it points at;
        raises SourceError where the records lead to none."""
        self.working = RLock()
        """Held while a column is worked out: one for all tables that lead to one another."""
        self._begun: set[str] = set()
        self._columns: dict[str, pa.ChunkedArray] = {}
        self._noticed: dict[str, str] = {}
        """Of columns that were read, what is to be noticed of how."""
        self.notes = notes
        self._lock = RLock()

    def keep_in(self, prepared: Prepared) -> None:
        """Keeps its columns beside the folder once they are typed, and what is known of its files."""
        self.prepared = prepared
        if self._text is not None and not prepared.has(("shape", self.name)):
            prepared.put(("shape", self.name), self._text.shape.plain())

    @property
    def bytes(self) -> int:
        """How much memory its columns take that were read by now; whoever asks waits for none that is being read."""
        return sum(each.nbytes for each in tuple(self._columns.values()))

    def twin(self) -> TableData:
        """The same columns, for another model: what it leads to is that model's to say. Of a table whose columns are
        worked out there is none."""
        found = copy(self)
        found.leads_to, found.working = None, RLock()
        return found

    def is_same(self, other: TableData) -> bool:
        """Whether it is the other's twin, so that all that was seen of one holds for both."""
        return self._columns is other._columns

    def as_written(self, name: str, first: int) -> list[str]:
        """The first values of a column as they stand in its file; of one that is worked out there are none."""
        if name in self.formulas or name not in self.names:
            return []
        return ["" if each is None else str(each) for each in self._read(name)[:first].to_pylist()]

    def column(self, name: str) -> pa.ChunkedArray:
        """`(row_count,)` typed values. Raises SourceError when there is no such column or it does not fit."""
        with self._lock:
            if name not in self._columns and name not in self.formulas:
                if name not in self.names:
                    raise SourceError(f"Column “{name}” is not in table “{self.name}”.", did_you_mean(name, self.names))
                declared = self.declared.columns.get(name)
                self._columns[name] = self._kept(name, lambda: self._typed(name, declared))
            found = self._columns.get(name)
        return found if found is not None else self._computed(name)

    def _typed(self, name: str, declared: Column | None) -> pa.ChunkedArray:
        found = typed(self._read(name), declared, self.place(name), self._is_untyped, self._form)
        if found.noticed:
            self._noticed[name] = found.noticed
            if self.prepared is not None:
                self.prepared.put(("noticed", self.name, name), found.noticed)
        return found.values

    def _kept(self, name: str, read: Callable[[], pa.ChunkedArray]) -> pa.ChunkedArray:
        if self.prepared is None:
            return read()
        found = self.prepared.column(self.name, name, read)
        noticed = self.prepared.get(("noticed", self.name, name))
        if isinstance(noticed, str):
            self._noticed[name] = noticed
        return found

    def _computed(self, name: str) -> pa.ChunkedArray:
        """A column that is worked out, once. No table's own lock is held meanwhile: others may be read for it."""
        with self.working:
            with self._lock:
                if name in self._columns:
                    return self._columns[name]
            if name in self._begun:
                raise SourceError(
                    f"Column “{name}” of table “{self.name}” is worked out from itself, by way of another table.",
                    "Take another column in one of the formulas.",
                )
            self._begun.add(name)
            try:
                found = self._kept(name, lambda: self._of_formula(name))
            finally:
                self._begun.discard(name)
            with self._lock:
                self._columns[name] = found
            return found

    def _of_formula(self, name: str) -> pa.ChunkedArray:
        found = work_out(self.formulas[name], self.place(name), self.row_count, self._for_formula)
        declared = self.declared.columns[name]
        return typed(found, declared, self.place(name), False).values if declared.type is not None else found

    def worked_out(self, text: str) -> pa.ChunkedArray:
        """What a formula comes to for each record. Raises SourceError where it has no meaning here."""
        with self.working:
            return work_out(text, self.place(text), self.row_count, self._for_formula)

    def _for_formula(self, wanted: ColumnOf) -> tuple[pa.ChunkedArray, Place]:
        """A column of the records, or of what they lead to."""
        if wanted.of is None:
            return self.column(wanted.name), self.place(wanted.name)
        if self.leads_to is None:
            raise SourceError(f"Table “{self.name}” leads to no other.", "Name a column of its own.")
        pointer, other, key = self.leads_to(wanted.of)
        rows = pc.index_in(plain_keys(self.column(pointer)), value_set=plain_keys(other.column(key)))
        return other.column(wanted.name).take(rows), other.place(wanted.name)

    def noticed(self) -> tuple[str, ...]:
        """What is to be noticed of its files, and of the columns that were read by now."""
        with self._lock:
            return (*self.notes, *(f"{self.name}: column {name} {words}" for name, words in self._noticed.items()))

    def forget(self) -> None:
        """Reads its columns anew when they are asked for."""
        with self._lock:
            self._columns.clear()
        if self._text is not None and self.prepared is not None:
            self._text.let_go()

    def place(self, column: str) -> Place:
        """Where a column comes from, for messages."""
        return Place(self.name, column, self._locate)


def plain_keys(values: pa.ChunkedArray) -> pa.ChunkedArray:
    """Keys as they are compared: a dictionary's values, and whole numbers of one size."""
    if pa.types.is_dictionary(values.type):
        values = values.cast(values.type.value_type)
    return values.cast(pa.int64()) if pa.types.is_integer(values.type) else values


def open_table(
    folder: Path, name: str, declared: Table, snapshot: Snapshot | None = None, prepared: Prepared | None = None,
    whole: CsvTable | None = None,
) -> TableData:  # fmt: skip
    """The table that a model's `file` names: one file, or all that match a pattern.

    Args: `snapshot` is the state of the files that whatever is read later belongs to; `prepared` is what may be known
        of them already; `whole` is what was read of its one file just now, as it is declared.
    Raises: SourceError when a file is missing, cut short or broken.
    """
    pattern = declared.file or ""
    files = _files(folder, name, pattern)
    if files[0].suffix.lower() == ".parquet":
        return _open_parquet(name, declared, files, pattern, snapshot or Snapshot(files))
    known = prepared.get(("shape", name)) if prepared is not None else None
    shape = Shape.of_plain(known) if isinstance(known, list) else None
    text = TextTable(name, declared, files, snapshot or Snapshot(files), shape, whole)
    shape = text.shape
    return TableData(name, declared, shape.names, sum(shape.counts), text.column, text.locate, True, shape.notes, text)


def table_of_arrow(name: str, declared: Table, table: pa.Table) -> TableData:
    """A table that is already in memory, as a made calendar is."""
    return TableData(
        name, declared, tuple(table.column_names), table.num_rows, table.column, lambda row: f"{name}, record {row + 1}"
    )


def files_of(folder: Path, name: str, declared: Table) -> list[Path]:
    """The files that a table is read from. Raises SourceError where there are none."""
    return _files(folder, name, declared.file or "")


def _files(folder: Path, name: str, pattern: str) -> list[Path]:
    root = folder.resolve()
    if Path(pattern).is_absolute() or ".." in Path(pattern).parts:
        raise SourceError(
            f"Table “{name}”: the file “{pattern}” lies outside the folder.", "Put it into the model's folder."
        )
    files = sorted(each for each in root.glob(pattern) if each.is_file())
    if not files:
        there = [str(each.relative_to(root)) for each in root.iterdir() if kind_of(each) in TABLES]
        raise SourceError(
            f"Table “{name}”: there is no file “{pattern}” in {folder.name or folder}.",
            did_you_mean(pattern, there) or "The folder holds no file that tables are read from.",
        )
    outside = [each for each in files if not each.resolve().is_relative_to(root)]
    if outside:
        raise SourceError(
            f"Table “{name}”: {outside[0].name} is a link that leads out of the folder.",
            "Put the file itself into the model's folder.",
        )
    kinds = {kind_of(each) for each in files}
    if len(kinds) > 1 or not kinds <= set(TABLES):
        raise SourceError(
            f"Table “{name}”: “{pattern}” is no file that tables are read from.",
            "Name .csv, .xlsx, .ods, .jsonl, .sqlite or .parquet files.",
        )
    return files


def _open_parquet(name: str, declared: Table, files: list[Path], pattern: str, snapshot: Snapshot) -> TableData:
    schema: pa.Schema | None = None
    rows = 0
    for file in files:
        try:
            found = pq.ParquetFile(file)
        except (pa.ArrowInvalid, OSError) as exc:
            raise _broken_parquet(file) from exc
        with found:
            _refuse_bomb(file, found.metadata)
            rows += found.metadata.num_rows
            if schema is not None and found.schema_arrow.names != schema.names:
                raise other_columns(file, found.schema_arrow.names, files[0], schema.names)
            schema = schema or found.schema_arrow
    assert schema is not None  # there is at least one file

    def read(column: str) -> pa.ChunkedArray:
        parts = []
        for file in files:
            snapshot.check(file)
            try:
                with pq.ParquetFile(file) as opened:
                    parts.append(opened.read(columns=[column]).column(0))
                snapshot.check(file)  # replaced on the way, it may have been read half and half
            except (pa.ArrowInvalid, OSError) as exc:
                raise _broken_parquet(file) from exc
        try:
            return pa.chunked_array([chunk for part in parts for chunk in part.chunks], parts[0].type)
        except (pa.ArrowInvalid, TypeError) as exc:
            raise SourceError(
                f"Column “{column}” has different types in the files “{pattern}”.", "Write them with one type."
            ) from exc

    return TableData(name, declared, tuple(schema.names), rows, read, lambda row: f"{pattern}, record {row + 1}")


_LARGE_BYTES = 512 * 2**20


def _refuse_bomb(file: Path, found: pq.FileMetaData) -> None:
    """Raises SourceError for a small file whose columns would fill the memory."""
    unpacked = found.num_rows * found.num_columns * 4
    if unpacked > _LARGE_BYTES and unpacked > MOST_UNPACKED * file.stat().st_size:
        raise SourceError(
            f"{file.name} has {file.stat().st_size:,} bytes and says that it holds {found.num_rows:,} records, which "
            f"would unpack to {unpacked / 2**30:,.1f} GiB or more.",
            "Check where the file comes from; written again without so many equal records it can be read.",
        )


def _broken_parquet(file: Path) -> SourceError:
    if not file.exists():
        return SourceError(f"{file.name} has vanished.", "Put the file back, then open the analysis again.")
    return SourceError(
        f"{file.name} is cut short or is not a Parquet file.", "Write the file again; nothing of it was used."
    )
