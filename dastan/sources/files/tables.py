"""The tables of a model as they lie in a folder, read column by column when first needed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from threading import RLock
from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.parquet as pq

from dastan.core.errors import SourceError, did_you_mean
from dastan.core.model.document import Table
from dastan.sources.files.columns import Place, typed
from dastan.sources.files.csv_file import line_of_row, read_csv
from dastan.sources.files.snapshot import Snapshot

if TYPE_CHECKING:
    from dastan.sources.columnar.prepared import Prepared


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
    ) -> None:
        self.name = name
        self.names = names
        self.row_count = row_count
        self._declared = declared
        self._read = read
        self._locate = locate
        self._is_untyped = is_untyped
        self.prepared: Prepared | None = None
        """Where its columns are kept once they are typed; None for a table that is quickly read."""
        self._columns: dict[str, pa.ChunkedArray] = {}
        self._lock = RLock()

    def column(self, name: str) -> pa.ChunkedArray:
        """`(row_count,)` typed values. Raises SourceError when there is no such column or it does not fit."""
        with self._lock:
            if name not in self._columns:
                if name not in self.names:
                    raise SourceError(f'Column "{name}" is not in table "{self.name}".', did_you_mean(name, self.names))
                declared = self._declared.columns.get(name)

                def read() -> pa.ChunkedArray:
                    return typed(self._read(name), declared, self.place(name), self._is_untyped)

                self._columns[name] = self.prepared.column(self.name, name, read) if self.prepared else read()
            return self._columns[name]

    def forget(self) -> None:
        """Reads its columns anew when they are asked for."""
        with self._lock:
            self._columns.clear()

    def place(self, column: str) -> Place:
        """Where a column comes from, for messages."""
        return Place(self.name, column, self._locate)


def open_table(folder: Path, name: str, declared: Table, snapshot: Snapshot | None = None) -> TableData:
    """The table that a model's `file` names: one CSV or Parquet file, or all that match a pattern.

    Args: `snapshot` is the state of the files that whatever is read later belongs to.
    Raises: SourceError when a file is missing, cut short or broken.
    """
    pattern = declared.file or ""
    files = _files(folder, name, pattern)
    if files[0].suffix.lower() == ".parquet":
        return _open_parquet(name, declared, files, pattern, snapshot or Snapshot(files))
    tables = [read_csv(each, declared.delimiter, declared.encoding) for each in files]
    for file, table in zip(files, tables, strict=True):
        if table.column_names != tables[0].column_names:
            raise SourceError(
                f"{file.name} has other columns than {files[0].name}.", "Files of one table need the same columns."
            )
    whole = pa.concat_tables(tables)
    counts = [each.num_rows for each in tables]

    def locate(row: int) -> str:
        for file, count in zip(files, counts, strict=True):
            if row < count:
                return f"{file.name}, line {line_of_row(file, declared.delimiter, declared.encoding, row)}"
            row -= count
        return name

    return TableData(name, declared, tuple(whole.column_names), whole.num_rows, whole.column, locate, True)


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
            f'Table "{name}": the file "{pattern}" lies outside the folder.', "Put it into the model's folder."
        )
    files = sorted(each for each in root.glob(pattern) if each.is_file())
    if not files:
        there = [str(each.relative_to(root)) for each in root.iterdir() if each.suffix.lower() in (".csv", ".parquet")]
        raise SourceError(
            f'Table "{name}": there is no file "{pattern}" in {folder.name or folder}.',
            did_you_mean(pattern, there) or "The folder holds no CSV or Parquet file.",
        )
    outside = [each for each in files if not each.resolve().is_relative_to(root)]
    if outside:
        raise SourceError(
            f'Table "{name}": {outside[0].name} is a link that leads out of the folder.',
            "Put the file itself into the model's folder.",
        )
    kinds = {each.suffix.lower() for each in files}
    if len(kinds) > 1 or not kinds <= {".csv", ".parquet", ".txt", ".tsv"}:
        raise SourceError(f'Table "{name}": "{pattern}" is not CSV or Parquet.', "Name .csv or .parquet files.")
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
                raise SourceError(
                    f"{file.name} has other columns than {files[0].name}.", "Files of one table need the same columns."
                )
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
                f'Column "{column}" has different types in the files "{pattern}".', "Write them with one type."
            ) from exc

    return TableData(name, declared, tuple(schema.names), rows, read, lambda row: f"{pattern}, record {row + 1}")


MOST_UNPACKED = 400
"""So many times its size a large file may unpack to: more is not found in data, but made to fill the memory."""
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
