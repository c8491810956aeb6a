"""Reads JSON lines (a record on each line) as text, as if they had been saved as CSV. What lies in a record's own parts
gets a column for each, `address_city`."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import orjson
import pyarrow as pa

from dastan.core.errors import SourceError
from dastan.sources.files.csv_file import CsvForm, CsvTable
from dastan.sources.files.number_forms import float_text
from dastan.sources.files.packed import bytes_of

_MOST_COLUMNS = 2_000


def read_json_lines(path: Path, form: CsvForm) -> CsvTable:
    """The records of a file: columns of text in the order in which their names come, blanks as null.

    Raises: SourceError that names the line of what is no record.
    """
    columns: dict[str, list[str | None]] = {}
    lists: set[str] = set()
    blanks = {"", *form.blanks}
    count = 0
    for line, record in _records(path):
        for name, value in _flat(record, ""):
            if isinstance(value, list):
                lists.add(name)
                continue
            column = columns.get(name)
            if column is None:
                if len(columns) >= _MOST_COLUMNS:
                    raise SourceError(
                        f"{path.name}, line {line}: more than {_MOST_COLUMNS:,} columns.",
                        "Leave out what is not needed.",
                    )
                column = columns[name] = [None] * count
            text = _text(value)
            # A name that stands twice in a record has its last value.
            column[count:] = [None if text in blanks else text]
        count += 1
        for column in columns.values():
            if len(column) < count:
                column.append(None)
    if not columns:
        raise SourceError(f"{path.name} holds no records.", "Write a JSON object on each line.")
    notes = (f"{path.name}: {', '.join(sorted(lists))} hold lists, and were left out",) if lists else ()
    arrays = [pa.array(each, pa.string()) for each in columns.values()]
    return CsvTable(pa.table(arrays, names=list(columns)), notes)


def place_of_line(path: Path, record: int) -> str:
    """Where a record stands, "taps.jsonl, line 17"; 0 is the first."""
    for at, (line, _) in enumerate(_records(path)):
        if at == record:
            return f"{path.name}, line {line}"
    return path.name


def _records(path: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    for line, text in enumerate(bytes_of(path).removeprefix(b"\xef\xbb\xbf").split(b"\n"), 1):
        if not text.strip():
            continue
        try:
            found = orjson.loads(text)
        except orjson.JSONDecodeError as error:
            raise SourceError(
                f"{path.name}, line {line}: this is no JSON: {error.msg}.", "Write one JSON object on each line."
            ) from error
        if not isinstance(found, dict):
            raise SourceError(f"{path.name}, line {line}: this is no object.", "Write one JSON object on each line.")
        yield line, found


def _flat(record: dict[str, Any], above: str) -> Iterator[tuple[str, Any]]:
    """The values of a record and of its parts, by name."""
    for name, value in record.items():
        if isinstance(value, dict):
            yield from _flat(value, f"{above}{name}_")
        else:
            yield f"{above}{name}", value


def _text(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return float_text(value)
    return "" if value is None else str(value).strip()
