"""Reads a CSV file as text, and says by line what is wrong with a broken one.

Arrow parses; only when it fails, or when quotes do not balance, the file is read again by the standard
library's strict reader to find the place.
"""

from __future__ import annotations

import csv
from pathlib import Path

import pyarrow as pa
from pyarrow import csv as arrow_csv

from dastan.core.errors import SourceError


def read_csv(path: Path, delimiter: str = ",", encoding: str = "utf-8") -> pa.Table:
    """All columns as text, blanks as null. A byte order mark is passed over.

    Raises: SourceError that names the file, the line and what to do.
    """
    raw = path.read_bytes()
    if not raw.strip():
        raise SourceError(
            f"{path.name} is empty.", "A table needs at least a line of column names. Export it again, then retry."
        )
    text = _decoded(raw, path, encoding)
    if text.count('"') % 2:
        raise _unclosed_quote(text, path)
    names = _header(text, path, delimiter)
    try:
        table = arrow_csv.read_csv(
            pa.py_buffer(text.encode()),
            parse_options=arrow_csv.ParseOptions(delimiter=delimiter, newlines_in_values=True),
            convert_options=arrow_csv.ConvertOptions(
                column_types={name: pa.string() for name in names}, strings_can_be_null=True, null_values=[""]
            ),
        )
    except (pa.ArrowInvalid, pa.ArrowKeyError) as exc:
        raise _diagnosed(text, path, delimiter, len(names), exc) from exc
    return table


def _decoded(raw: bytes, path: Path, encoding: str) -> str:
    try:
        return raw.decode("utf-8-sig" if encoding.lower().replace("_", "-") == "utf-8" else encoding)
    except (LookupError, TypeError) as exc:
        raise SourceError(f"{path.name}: “{encoding}” is not a known encoding.", 'Try "utf-8" or "cp1252".') from exc
    except UnicodeDecodeError as exc:
        line = raw.count(b"\n", 0, exc.start) + 1
        raise SourceError(
            f"{path.name}, line {line}: the text is not {encoding} (byte 0x{raw[exc.start]:02x}).",
            "Say which encoding it has, for example `encoding: cp1252` at the table in the model.",
            details={"file": path.name, "line": line},
        ) from exc
    except (UnicodeError, ValueError) as exc:
        raise SourceError(
            f"{path.name}: “{encoding}” is no encoding that text can be read by.", 'Try "utf-8" or "cp1252".'
        ) from exc


def _header(text: str, path: Path, delimiter: str) -> list[str]:
    names = next(csv.reader(text.splitlines(keepends=True), delimiter=delimiter))
    twice = sorted({name for name in names if names.count(name) > 1})
    if twice:
        raise SourceError(
            f"{path.name}, line 1: column “{twice[0]}” stands there twice.", "Give every column a name of its own."
        )
    if any(not name.strip() for name in names):
        at = next(place for place, name in enumerate(names, 1) if not name.strip())
        raise SourceError(f"{path.name}, line 1: column {at} has no name.", "Give every column a name.")
    return names


def _unclosed_quote(text: str, path: Path) -> SourceError:
    """Finds the line on which the last quoted value opens."""
    is_open, opened, line = False, 1, 1
    for sign in text:
        if sign == "\n":
            line += 1
        elif sign == '"':
            is_open = not is_open
            if is_open:
                opened = line
    return SourceError(
        f"{path.name}, line {opened}: a quote opens there and never closes.",
        'Close the quote, or double it ("") if it belongs to the text.',
        details={"file": path.name, "line": opened},
    )


def _diagnosed(text: str, path: Path, delimiter: str, width: int, cause: Exception) -> SourceError:
    reader = csv.reader(text.splitlines(keepends=True), delimiter=delimiter, strict=True)
    try:
        for row in reader:
            if row and len(row) != width:
                return SourceError(
                    f"{path.name}, line {reader.line_num}: {len(row)} values where the header has {width} columns.",
                    "Put values that contain the delimiter in quotes, or mend the line.",
                    details={"file": path.name, "line": reader.line_num},
                )
    except csv.Error as exc:
        return SourceError(f"{path.name}, line {reader.line_num}: {exc}.", "Mend the quotes on that line.")
    return SourceError(f"{path.name} cannot be read: {cause}.", "Export the table again, then retry.")


def line_of_row(path: Path, delimiter: str, encoding: str, row: int) -> int:
    """The line of the file on which record `row` (0 for the first after the header) ends."""
    with path.open(encoding=encoding, newline="") as file:
        reader = csv.reader(file, delimiter=delimiter)
        seen = -1
        for values in reader:
            if values:
                seen += 1
            if seen == row + 1:
                return reader.line_num
    return row + 2
