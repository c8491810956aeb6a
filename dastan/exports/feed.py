"""What other programs read of an analysis: its numbers flat, or its table as it is seen."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Literal

from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.exports.files import About, FileKind, write_file, written_whole
from dastan.exports.flat import flat_csv
from dastan.exports.seen import SeenTable
from dastan.exports.terminal import set_table

FeedPart = Literal["numbers", "table"]
"""The innermost numbers, a row for each cell; or all that is seen, totals among it."""
FeedKind = Literal["csv", "arrow", "arrows", "parquet", "xlsx", "ods", "pdf", "html", "txt"]
_OF_NUMBERS: tuple[FeedKind, ...] = ("csv", "arrow", "arrows", "parquet")
_OF_TABLE: tuple[FeedKind, ...] = ("csv", "html", "xlsx", "ods", "pdf", "txt")


def write_feed(
    table: SeenTable, dress: Dress, about: About, file: Path, part: FeedPart, kind: FeedKind, watch: Watch
) -> None:
    """Writes one part of an analysis as one kind of file. Raises InputError for a part that has no such kind, and what
    `write_file` raises."""
    kinds = _OF_NUMBERS if part == "numbers" else _OF_TABLE
    if kind not in kinds:
        others = ", ".join(f"{part}.{each}" for each in kinds)
        raise InputError(f"There is no {part}.{kind}.", f"There are {others}.")
    if part == "numbers" and kind == "csv":
        _write_texts(flat_csv(table.flat(), watch), file)
    elif kind == "txt":
        _write_texts((f"{line}\n" for line in set_table(table)), file)
    else:
        own: FileKind = kind
        write_file(table, dress, about, file, own, watch)


def _write_texts(texts: Iterable[str], file: Path) -> None:
    with written_whole(file) as part, part.open("w", encoding="utf-8", newline="") as stream:
        stream.writelines(texts)
