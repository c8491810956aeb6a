"""Reads a CSV file as text (RFC 4180), and says by line what is wrong with a broken one.

Arrow parses, and takes more than is well formed; so the quotes are looked at first, and only when it fails the file is
read again by the standard library's strict reader to find the place.
"""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass
from functools import reduce
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv

from dastan.core.errors import SourceError
from dastan.core.model.document import Table
from dastan.sources.files.column_names import column_names
from dastan.sources.files.packed import bytes_of, kind_of, opened_text


@dataclass(frozen=True, slots=True)
class CsvTable:
    """What a file holds: columns of text, blanks as null, without lines that hold nothing; and what is noticed."""

    table: pa.Table
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class CsvForm:
    """How a file is written: `header` is the line of the column names, `blanks` what stands for nothing, and `footer`
    lines at its end are no records."""

    delimiter: str = ","
    encoding: str = "utf-8"
    header: int = 1
    blanks: tuple[str, ...] = ()
    footer: int = 0
    sheet: str | None = None
    """Of a spreadsheet: which of its sheets; the first without."""


def form_of(path: Path, declared: Table) -> CsvForm:
    """How a table's file is written: as declared, and with tabs where its name says so."""
    has_tabs = kind_of(path) == ".tsv" and declared.delimiter == ","
    delimiter = "\t" if has_tabs else declared.delimiter
    return CsvForm(delimiter, declared.encoding, declared.header, declared.blanks, declared.footer, declared.sheet)


def read_csv(path: Path, form: CsvForm) -> CsvTable:
    """Reads the file. A byte order mark is passed over.

    Raises: SourceError that names the file, the line and what to do.
    """
    raw = bytes_of(path)
    if not raw.strip():
        raise SourceError(
            f"{path.name} is empty.", "A table needs at least a line of column names. Export it again, then retry."
        )
    text = _decoded(raw, path, form.encoding)
    above, text = _parted(text, form.header)
    text = _without_last(text, form.footer, path)
    delimiter = form.delimiter
    if form.header == 0:
        above, text = above - 1, _with_names(text, delimiter)
    plain = text.encode()
    notes = _check_quotes(plain, path, delimiter, above) if '"' in text else []
    written = _header(text, path, delimiter, above)
    names, made = column_names(written, f"{path.name}, line {above + 1}")
    # Names of the file's own are left to whoever reads it, who is quickest so.
    named = arrow_csv.ReadOptions(column_names=names, skip_rows_after_names=1) if names != written else None
    try:
        table = arrow_csv.read_csv(
            pa.py_buffer(plain),
            read_options=named,
            parse_options=arrow_csv.ParseOptions(delimiter=delimiter, newlines_in_values=True),
            convert_options=arrow_csv.ConvertOptions(
                column_types={name: pa.string() for name in names},
                strings_can_be_null=True,
                null_values=["", *form.blanks],
            ),
        )
    except (pa.ArrowInvalid, pa.ArrowKeyError) as exc:
        raise _diagnosed(text, path, delimiter, written, above, exc) from exc
    table = _without_edge(table, written)
    notes += [each for each in made if each.rsplit(" ", 1)[-1] in table.column_names]
    is_held = reduce(pc.or_, (each.is_valid() for each in table.columns))
    empty = len(table) - (pc.sum(is_held).as_py() or 0)
    if empty:
        table = table.filter(is_held)
        some = "a line that holds nothing was" if empty == 1 else f"{empty:,} lines that hold nothing were"
        notes.append(f"{path.name}: {some} passed over")
    return CsvTable(table, tuple(notes))


def _without_edge(table: pa.Table, written: Sequence[str]) -> pa.Table:
    """A table without columns at its end that have neither a name nor a value: there each line ends with what parts
    values."""
    last = table.num_columns
    while last > 1 and not written[last - 1].strip() and table.column(last - 1).null_count == len(table):
        last -= 1
    return table.select(range(last))


def _decoded(raw: bytes, path: Path, encoding: str) -> str:
    name = encoding.lower().replace("_", "-")
    if name in _OF_ONE_BYTE and not raw.isascii() and _is_utf8(raw):
        raise SourceError(
            f"{path.name} is UTF-8, and is declared {encoding}: its letters would come out broken.",
            "Leave `encoding` out at the table in the model.",
        )
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


_OF_ONE_BYTE = ("latin-1", "latin1", "iso-8859-1", "iso-8859-15", "cp1252", "windows-1252")
"""Every byte is a letter in these: nothing in them is refused."""


def _is_utf8(raw: bytes) -> bool:
    try:
        raw.decode()
    except UnicodeDecodeError:
        return False
    return True


def _parted(text: str, header: int) -> tuple[int, str]:
    """The text from its header on, and how many lines stand above that: those that are said to, and blank ones."""
    above = start = 0
    while (end := text.find("\n", start)) >= 0 and (above < header - 1 or not text[start:end].strip()):
        above, start = above + 1, end + 1
    return above, text[start:] if start else text


def _with_names(text: str, delimiter: str) -> str:
    """Text without column names, with some of its own above it: column_1, column_2…"""
    first = next(csv.reader(text.splitlines(keepends=True), delimiter=delimiter))
    return delimiter.join(f"column_{at}" for at in range(1, len(first) + 1)) + "\n" + text


_OTHERS = {";": '";"', "\t": '"\\t"', "|": '"|"'}
"""What parts values beside a comma, as a model says it."""


def _without_last(text: str, lines: int, path: Path) -> str:
    """The text without so many lines at its end; blank ones are not counted."""
    for _ in range(lines):
        text = text.rstrip()
        text = text[: text.rfind("\n") + 1]
        if not text:
            raise SourceError(
                f"{path.name}: `footer: {lines}` leaves nothing of it.", "Write how many lines below are no records."
            )
    return text


def _header(text: str, path: Path, delimiter: str, above: int) -> list[str]:
    names = next(csv.reader(text.splitlines(keepends=True), delimiter=delimiter))
    line = above + 1
    others = [each for each in _OTHERS if each != delimiter and each in names[0]]
    if len(names) == 1 and others:
        raise SourceError(
            f"{path.name}, line {line}: the column names are parted by {_OTHERS[others[0]]}, not by “{delimiter}”.",
            f"Say so at the table in the model: `delimiter: {_OTHERS[others[0]]}`.",
        )
    return names


def _check_quotes(raw: bytes, path: Path, delimiter: str, above: int) -> list[str]:
    """Sees to it that quotes stand around whole values alone, and notes a value that goes on over a line's end with
    delimiters in it, as records do that a lost quote has swallowed. Raises SourceError for any other quote.

    Of quotes in order every other one opens: before it, and after the one that closes, stands the edge of a value; or
    another quote, where the two of them are one that belongs to the text.
    """
    signs = np.frombuffer(raw, np.uint8)
    quotes = np.flatnonzero(signs == _QUOTE)
    edge = np.zeros(256, np.bool_)
    edge[[_QUOTE, *b"\r\n", *delimiter.encode()[-1:]]] = True
    opens, closes = quotes[::2], quotes[1::2]
    # At the beginning and at the end there is nothing beside a quote but itself.
    wrong_opening = opens[~edge[signs[np.maximum(opens - 1, 0)]]]
    wrong_closing = closes[~edge[signs[np.minimum(closes + 1, len(signs) - 1)]]]
    if len(wrong_opening) or len(wrong_closing) or len(opens) > len(closes):
        raise _stray_quote(raw, wrong_opening, wrong_closing, opens, path, above)
    ends = np.flatnonzero(signs == ord("\n"))
    within = ends[np.searchsorted(quotes, ends) % 2 == 1][:_LOOKED_AT]
    for at in np.searchsorted(opens, within).tolist():
        first, last = int(opens[at - 1]), int(closes[at - 1])
        if delimiter.encode() in raw[first:last]:
            where = f"{path.name}, line {above + _line(raw, first)}"
            words = "a quoted value goes on over the line’s end and has delimiters in it"
            return [f"{where}: {words}, as where a lost quote has swallowed a record"]
    return []


_QUOTE = ord('"')
_LOOKED_AT = 1_000
"""So many of the values that go on over a line's end."""


def _stray_quote(
    raw: bytes, wrong_opening: np.ndarray, wrong_closing: np.ndarray, opens: np.ndarray, path: Path, above: int
) -> SourceError:
    """For the first quote that stands inside of a value, or after which its value goes on or never ends."""
    inside, after = (int(each[0]) if len(each) else len(raw) for each in (wrong_opening, wrong_closing))
    if inside == after:  # none is wrong but the last
        at, what = int(opens[-1]), "a quote opens there and never closes"
    elif inside < after:
        at, what = inside, "a quote stands inside of a value"
    else:
        at, what = after, "text follows the quote that closes a value; or one before it opened and never closed"
    line = above + _line(raw, at)
    return SourceError(
        f"{path.name}, line {line}: {what}.",
        'Put quotes around whole values, and double ("") each one that belongs to the text.',
        details={"file": path.name, "line": line},
    )


def _line(raw: bytes, at: int) -> int:
    return raw.count(b"\n", 0, at) + 1


def _diagnosed(text: str, path: Path, delimiter: str, names: list[str], above: int, cause: Exception) -> SourceError:
    reader = csv.reader(text.splitlines(keepends=True), delimiter=delimiter, strict=True)
    try:
        for row in reader:
            if row and len(row) != len(names):
                line, hint = (
                    above + reader.line_num,
                    "Put values that contain the delimiter in quotes, or mend the line.",
                )
                if reader.line_num > 1 and len(row) > len(names):
                    hint += f" If the column names are on line {line}, say so at the table: `header: {line}`."
                elif len(row) < len(names) and not any(map(any, reader)):  # nothing comes after it
                    hint += " If it is no record, such as a total, say so at the table: `footer: 1`."
                return SourceError(
                    f"{path.name}, line {line}: {len(row)} values where the header has {len(names)} columns.",
                    hint,
                    details={"file": path.name, "line": line},
                )
    except csv.Error as exc:
        return SourceError(f"{path.name}, line {above + reader.line_num}: {exc}.", "Mend the quotes on that line.")
    return SourceError(f"{path.name} cannot be read: {cause}.", "Export the table again, then retry.")


def line_of_row(path: Path, form: CsvForm, row: int) -> int:
    """The line of the file on which record `row` (0 for the first after the header) ends."""
    with opened_text(path, form.encoding) as file:
        for _ in range(form.header - 1):
            next(file, "")
        reader = csv.reader(file, delimiter=form.delimiter)
        seen = -1 if form.header else 0
        for values in reader:
            if any(each not in ("", *form.blanks) for each in values):
                seen += 1
            if seen == row + 1:
                return max(form.header - 1, 0) + reader.line_num
    return row + 2
