"""An answer as CSV (RFC 4180): one column per row level, then one per column and measure."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import TextIO

from dastan.core.engine.answer import Answer
from dastan.exports.grid import Grid, captions, level_columns, path_text
from dastan.exports.spreadsheet_text import harmless

BLOCK = 1_000
"""So many rows of a stream are written together."""


def csv_texts(rows: Iterable[Sequence[object]]) -> Iterator[str]:
    """Rows as CSV, some at a time: however many there are, few are held."""
    held = io.StringIO()
    writer = csv.writer(held, lineterminator="\r\n")
    for at, row in enumerate(rows, start=1):
        writer.writerow(row)
        if at % BLOCK == 0:
            yield held.getvalue()
            held.seek(0)
            held.truncate()
    yield held.getvalue()


def write_csv(answer: Answer, file: TextIO) -> None:
    """Writes exact numbers with a point; a subtotal's deeper levels and an empty cell are left blank.

    The grand total's row carries its caption in the first column. Headings without figures are left out.

    Raises: LimitError before anything is written.
    """
    grid = Grid(answer)
    writer = csv.writer(file, lineterminator="\r\n")
    levels = level_columns(answer.rows)
    names = [answer.rows.placements[place].members.levels[depth].caption for place, depth in levels] or [""]
    headers = [
        f"{path_text(answer.columns, entry)} | {measure.caption}" if answer.columns.placements else measure.caption
        for entry in grid.columns.tolist()
        for measure in answer.measures
    ]
    writer.writerow([harmless(each) for each in (*names, *headers)])
    for entry, values in grid.values():
        texts = captions(answer.rows, entry)
        labels = [texts.get(each, "") for each in levels] or [answer.rows.all_caption]
        if not texts:
            labels[0] = answer.rows.all_caption
        writer.writerow([*map(harmless, labels), *("" if value is None else str(value) for value in values)])
