"""A table as it is put on the clipboard, as text with tabs and as HTML; and as a CSV file (RFC 4180)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from html import escape
from itertools import chain

from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.exports.csv import csv_texts
from dastan.exports.seen import SeenTable
from dastan.exports.spreadsheet_text import harmless

MOST_CELLS = 200_000
"""A clipboard takes so many cells; a file takes any number."""


@dataclass(frozen=True, slots=True)
class Copied:
    """What goes on the clipboard, and how much it is."""

    text: str
    html: str
    rows: int
    columns: int


def copied(table: SeenTable) -> Copied:
    """The table for the clipboard. Raises InputError for one that is too large for it."""
    heads, lines = table.heads(), []
    for line in table.lines():
        lines.append(line)
        if len(lines) * table.column_count > MOST_CELLS:
            raise InputError(
                f"There are more than {MOST_CELLS:,} cells, which is too many to copy.",
                "Take the table as a CSV file, or select fewer rows or columns.",
            )
    texts = [[_cell(each) for each in head] for head in heads]
    texts += [[*map(_cell, labels), *figures] for labels, figures in lines]
    rows = [f"<tr>{''.join(map(_head, head))}</tr>" for head in heads]
    rows += [
        f"<tr>{''.join(map(_head, labels))}{''.join(f'<td>{each}</td>' for each in figures)}</tr>"
        for labels, figures in lines
    ]
    text = "\n".join("\t".join(line) for line in texts)
    return Copied(text, f"<table>{''.join(rows)}</table>", len(lines), table.column_count)


def csv_of(table: SeenTable, watch: Watch | None = None) -> Iterator[str]:
    """The table as CSV, some rows at a time. Raises CancelledError once its watch was taken back."""
    heads = ([harmless(each) for each in head] for head in table.heads())
    lines = ([*map(harmless, labels), *figures] for labels, figures in table.lines(watch))
    return csv_texts(chain(heads, lines))


def _cell(caption: str) -> str:
    """A caption between tabs: one line, and nothing that a spreadsheet would compute."""
    return harmless(" ".join(caption.splitlines()).replace("\t", " ")) if caption.strip() else caption


def _head(caption: str) -> str:
    steps = (len(caption) - len(caption.lstrip(" "))) // 2
    indent = f' style="padding-left:{steps}em"' if steps else ""
    return f'<th scope="row"{indent}>{escape(harmless(caption.strip()))}</th>'
