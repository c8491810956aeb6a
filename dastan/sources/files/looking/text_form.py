"""How a file with values is written: its encoding, what parts the values, which of its lines are no records."""

from __future__ import annotations

import codecs
import csv
import re
from collections import Counter
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from textwrap import shorten

from charset_normalizer import from_bytes

from dastan.core.errors import SourceError
from dastan.core.model.document import Assumption, Table
from dastan.sources.files.packed import bytes_of
from dastan.sources.files.sheets import Cells

_LOOKED_AT_BYTES = 4 * 2**20
_LOOKED_AT_ROWS = 1_000
_DELIMITERS = ("\t", ";", "|", ",")
_CALLED = {"\t": "tabs", ";": "semicolons", "|": "upright strokes", ",": "commas"}
_LONGEST_TITLE = 30
_LONGEST_FOOTER = 5
_LONGEST_SAID = 70
_TOTAL = re.compile(
    r"\W*(grand |sub)?(totals?|sum|summ?a|summe|gesamt(summe)?|insgesamt|somme|totaal|totale)( g[eé]n[eé]rale?)?\W*",
    re.I,
)
_NUMBER = re.compile(r"^[\s(+\-−]*[\d.,' \u00a0\u202f]*\d[\d.,' \u00a0\u202f]*[)%\s]*$")
_DAY = re.compile(r"^\s*(\d{4}[-/.]\d{1,2}[-/.]\d{1,2}|\d{1,2}[-/.]\d{1,2}[-/.]\d{2,4})")
_YEAR = re.compile(r"^\s*(19|20)\d\d\s*$")
_WORDS = re.compile(rb"[^\s,;|\"]*[\x80-\xff][^\s,;|\"]*")
_ODD = re.compile(r"[a-zà-ÿ][À-ÞŠŽŸŚŁŻ]|[£¢¥§¹²³¼½¾¿¡¸¨]\w|\w[£¢¥§¿¡¸¨]")
"""A large letter after a small one, a sign within a word."""
_ENCODINGS = [
    "cp1252", "cp1250", "cp1251", "cp1253", "cp1254", "cp1257", "iso8859_2", "iso8859_5", "mac_roman", "cp850",
    "cp852", "shift_jis", "euc_jp", "gb18030", "big5", "euc_kr",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class TextForm:
    """How a file is to be read, and what is assumed by it."""

    table: Table
    assumed: tuple[Assumption, ...]


def look_at_text(path: Path, name: str, file: str) -> TextForm:
    """Looks at a text file.

    Args: `name` is what its table is called, `file` how the model names the file or the files like it.
    Raises: SourceError for one that is empty, or no text.
    """
    raw = bytes_of(path)
    if not raw.strip():
        raise SourceError(f"{path.name} is empty.", "A table needs at least a line of column names.")
    if b"\0" in raw[:_LOOKED_AT_BYTES] and not raw.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        raise SourceError(f"{path.name} is not text.", "Save it as CSV, or leave it out of the folder.")
    encoding, assumed = _encoding(raw, path, name)
    text = _head(raw).decode("utf-8-sig" if encoding == "utf-8" else encoding, "replace")
    rows = {each: _rows(text, each) for each in _DELIMITERS}
    delimiter = max(_DELIMITERS, key=lambda each: _fitness(rows[each]))
    delimiter = delimiter if _width(rows[delimiter]) > 1 else ","
    found = rows[delimiter]
    width = _width(found)
    header, is_named = _header(found, width)
    below = _below(raw, encoding, delimiter, width) if len(found) > 1 else []
    table = Table(
        file=file, delimiter=delimiter, encoding=encoding, header=header if is_named else 0, footer=len(below),
    )  # fmt: skip
    return TextForm(table, (*assumed, *_told(path, name, table, found, width, below)))


def look_at_sheet(cells: Cells, name: str, file: str) -> TextForm | None:
    """Looks at a sheet of a spreadsheet, as `look_at_text` does; None for one that holds no table."""
    held = cells.held(0)
    rows = [(at + 1, _trimmed(cells.text(at))) for at in held[:_LOOKED_AT_ROWS]]
    usual = _width(rows)
    at = next((at for at, (_, row) in enumerate(rows[:_LONGEST_TITLE]) if _may_be_names(row, usual)), None)
    if at is None or len(rows) < 2:
        return None
    line, names = rows[at]
    below = [[*row, *[""] * len(names)] for _, row in rows[at + 1 :]]
    is_named = not any(_is_value(names[place], [each[place] for each in below]) for place in range(len(names)))
    footer: list[list[str]] = []
    for last in reversed(held[at + 1 :][-_LONGEST_FOOTER:]):
        said = [each for each in cells.text(last) if each]
        if not _is_total(said) and (len(said) > 1 or len(names) < 3):
            break
        footer.append(said)
    table = Table(file=file, sheet=cells.sheet, header=line if is_named else 0, footer=len(footer))
    return TextForm(table, tuple(_told(cells.path, name, table, rows, len(names), footer)))


def _trimmed(row: list[str]) -> list[str]:
    """A row without the blank cells at its end."""
    return row[: max((at for at, each in enumerate(row, 1) if each), default=0)]


def _may_be_names(row: list[str], usual: int) -> bool:
    """Whether a row may be the one of the column names, where most have so many cells."""
    return _are_names(row, len(row)) and len(row) * 2 > usual and (len(row) > 1 or usual == 1)


def _told(
    path: Path, name: str, table: Table, rows: list[tuple[int, list[str]]], width: int, below: list[list[str]]
) -> list[Assumption]:
    """What is assumed of a file's lines. `below` are those at its end that are no records, the last one first."""
    found = []

    def say(says: str, because: str, is_unsure: bool = False) -> None:
        found.append(Assumption(about=name, says=says, because=because, is_unsure=is_unsure))

    if table.delimiter != "," and path.suffix.lower() != ".tsv":
        fitting = sum(len(each) == width for _, each in rows)
        because = f"{fitting:,} of {len(rows):,} lines have {width} values by them"
        say(f"values are parted by {_CALLED[table.delimiter]}", because)
    if table.header > 1:
        first = next((cell for _, each in rows for cell in each if cell.strip()), "")
        title = _short(first)
        say(f"the column names stand on line {table.header}", f"above it stands “{title}”")
    if table.header == 0:
        say(
            "it has no line of column names",
            f"its first line is like the others: {_short(', '.join(rows[0][1]))}",
            True,
        )
    if below:
        lines = "the last line is no record" if len(below) == 1 else f"the last {len(below)} lines are no records"
        total = next((each for each in below if _is_total(each)), None)
        said = _short(", ".join(each for each in total or below[0] if each))
        why = "it is a total" if total else f"it has not the {width} values of the others"
        # Without a total above it, a line that is short may be a record that was cut off.
        say(lines, f"“{said}” stands there: {why}", total is None)
    return found


def _short(text: str) -> str:
    """A text as it is said: its beginning."""
    return shorten(text, _LONGEST_SAID, placeholder="…")


def _head(raw: bytes) -> bytes:
    if len(raw) <= _LOOKED_AT_BYTES:
        return raw
    end = raw.rfind(b"\n", 0, _LOOKED_AT_BYTES)
    return raw[: end + 1 if end > 0 else _LOOKED_AT_BYTES]


def _encoding(raw: bytes, path: Path, name: str) -> tuple[str, list[Assumption]]:
    if raw.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16", []
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError as error:
        # What is not ASCII tells: a line of it after the other.
        lines = [each for each in raw.split(b"\n") if not each.isascii()][:500]
        encoding = _likely(b"\n".join(each for line in lines for each in _WORDS.findall(line)))
        if encoding is None:
            line = raw.count(b"\n", 0, error.start) + 1
            raise SourceError(
                f"{path.name}, line {line}: in which encoding its text is cannot be told.",
                "Save it as UTF-8, or describe it in a model.yaml with its `encoding`.",
            ) from error
        example = lines[0].decode(encoding, "replace").strip()
        at = next(at for at, each in enumerate(example) if not each.isascii())
        words = example[max(0, at - 12) : at + 12]
        said = Assumption(
            about=name, says=f"its letters are those of {encoding}", because=f"it is not UTF-8, and “{words}” reads so",
            is_unsure=True,
        )  # fmt: skip
        return encoding, [said]
    return "utf-8", []


def _likely(text: bytes) -> str | None:
    """The encoding that text is likeliest in; None where nothing makes letters of it."""
    found = from_bytes(text, cp_isolation=_ENCODINGS)
    best = min((each.chaos for each in found), default=0.0)
    names = {name for each in found if each.chaos == best for name in (each.encoding, *each.could_be_from_charset)}
    likely = [each for each in _ENCODINGS if each in names]
    # Of those that make letters of it, the one in which the fewest stand where none does.
    if not likely:
        return None
    return min(likely, key=lambda each: len(_ODD.findall(text.decode(each, "replace")))).replace("_", "-")


def _rows(text: str, delimiter: str) -> list[tuple[int, list[str]]]:
    """The first rows that hold anything, each with the line that it begins on."""
    reader = csv.reader(text.splitlines(keepends=True), delimiter=delimiter)
    found, line = [], 1
    try:
        for row in islice(reader, _LOOKED_AT_ROWS):
            if any(each.strip() for each in row):
                found.append((line, row))
            line = reader.line_num + 1
    except csv.Error:
        pass
    return found


def _width(rows: list[tuple[int, list[str]]]) -> int:
    """How many values most rows have; a title's one value counts for little."""
    counts = Counter(len(each) for _, each in rows)
    return max(counts, key=lambda each: (counts[each], each)) if counts else 0


def _fitness(rows: list[tuple[int, list[str]]]) -> tuple[bool, float]:
    """How well the rows speak for what parts them: several values in each, and as many in all."""
    width = _width(rows)
    fitting = sum(len(each) == width for _, each in rows)
    return width > 1, round(fitting / max(len(rows), 1), 2)


def _header(rows: list[tuple[int, list[str]]], width: int) -> tuple[int, bool]:
    """The line of the column names, and whether there is one: the first row of that many names, each another."""
    for at, (line, row) in enumerate(rows[:_LONGEST_TITLE]):
        if not _are_names(row, width):
            if _call(row, rows[at + 1 :], width):
                return line, True
            continue
        names = [each.strip() for each in row]
        if _is_parted(rows, at) and not _is_parted(rows, at + 1) and _are_names(rows[at + 1][1], width):
            continue  # a blank line parts a title from the names
        below = [each for _, each in rows[at + 1 : at + 1 + _LOOKED_AT_ROWS] if len(each) == width]
        return line, not any(_is_value(names[place], [each[place] for each in below]) for place in range(width))
    return rows[0][0], True


def _is_parted(rows: list[tuple[int, list[str]]], at: int) -> bool:
    """Whether a blank line stands behind a row."""
    return at + 1 < len(rows) and rows[at + 1][0] > rows[at][0] + 1


def _call(row: list[str], rows: list[tuple[int, list[str]]], width: int) -> bool:
    """Whether a row calls the columns something, though not each one something of its own: below a word of it stand
    numbers or days alone; or it calls all but the first, which numbers the records."""
    below = [each for _, each in rows if len(each) == width]
    if len(row) != width or not below:
        return False
    if not row[0].strip() and _are_names(row[1:], width - 1):
        numbers = [each[0] for each in below if each[0].strip()]
        return len(set(numbers)) == len(numbers) > len(below) / 2
    values = [[each[place] for each in below if each[place].strip()] for place in range(width)]
    names = [(name, held) for name, held in zip(row, values, strict=True) if name.strip() and held]
    return any(_told_by(name, held) for name, held in names) and not any(_is_value(*each) for each in names)


def _told_by(name: str, held: list[str]) -> bool:
    """Whether values below a name are numbers or days, and it is neither."""
    return any(all(form.match(each) for each in held) and not form.match(name) for form in (_NUMBER, _DAY))


def _are_names(row: list[str], width: int) -> bool:
    """Whether a row may be the one of the column names: as many as there are values, each another."""
    names = {each.strip() for each in row}
    return len(row) == len(names) == width and "" not in names


def _is_value(name: str, below: list[str]) -> bool:
    """Whether a name is no name, but a number or a day above others."""
    held = [each for each in below if each.strip()]
    if _YEAR.match(name) or not held:
        return False
    return any(form.match(name) and all(form.match(each) for each in held) for form in (_NUMBER, _DAY))


def _is_total(row: list[str]) -> bool:
    """Whether a line is a total, by its first word: all of that word, for a total care has its own."""
    return _TOTAL.fullmatch(next((each for each in row if each.strip()), "")) is not None


def _below(raw: bytes, encoding: str, delimiter: str, width: int) -> list[list[str]]:
    """The lines at the end that are no records, the last one first."""
    tail = raw[-64 * 1024 :] if encoding != "utf-16" else raw
    text = tail.decode("utf-8-sig" if encoding == "utf-8" else encoding, "replace")
    lines = [each for each in text.splitlines() if each.strip()][1 if len(tail) < len(raw) else 0 :]
    found: list[list[str]] = []
    for line in reversed(lines[-_LONGEST_FOOTER - 1 :]):
        row = next(csv.reader([line], delimiter=delimiter))
        ends_a_value = line.count('"') % 2 == 1
        if ends_a_value or (len(row) == width and not _is_total(row)):
            return found
        found.append(row)
    return []  # all of them: that is how the file is
