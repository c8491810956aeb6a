"""A table as it is put on the clipboard, as text with tabs and as HTML; and as a CSV file (RFC 4180)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape

from dastan.core.errors import InputError
from dastan.exports.seen import BLOCK, SeenTable
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
    if table.cell_count > MOST_CELLS:
        raise InputError(
            f"This table has {table.cell_count:,} cells, which is too many to copy.",
            "Take it as a CSV file, or select some rows first.",
        )
    heads, lines = table.heads(), list(table.lines())
    texts = [*(list(map(_cell, each)) for each in heads)]
    texts += [[*map(_cell, labels), *figures] for labels, figures in lines]
    rows = [f"<tr>{''.join(_head(each) for each in head)}</tr>" for head in heads]
    rows += [
        f"<tr>{''.join(_head(each) for each in labels)}{''.join(f'<td>{each}</td>' for each in figures)}</tr>"
        for labels, figures in lines
    ]
    return Copied(
        "\n".join("\t".join(line) for line in texts),
        f"<table>{''.join(rows)}</table>",
        len(lines),
        table.column_count,
    )


def csv_of(table: SeenTable) -> Iterator[str]:
    """The table as CSV, some rows at a time."""
    held = io.StringIO()
    writer = csv.writer(held, lineterminator="\r\n")
    writer.writerows([harmless(each) for each in head] for head in table.heads())
    for at, (labels, figures) in enumerate(table.lines(), start=1):
        writer.writerow([*map(harmless, labels), *figures])
        if at % BLOCK == 0:
            yield held.getvalue()
            held.seek(0)
            held.truncate()
    yield held.getvalue()


def _cell(caption: str) -> str:
    """A caption between tabs: one line, and nothing that a spreadsheet would compute."""
    return harmless(" ".join(caption.splitlines()).replace("\t", " ")) if caption.strip() else caption


def _head(caption: str) -> str:
    steps = (len(caption) - len(caption.lstrip(" "))) // 2
    indent = f' style="padding-left:{steps}em"' if steps else ""
    return f'<th scope="row"{indent}>{escape(harmless(caption.strip()))}</th>'
