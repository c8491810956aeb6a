"""What other programs read of an analysis: its numbers flat, or its table as it is seen."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.exports.files import write_file
from dastan.exports.flat import flat_csv
from dastan.exports.kinds import FeedKind, FeedPart, FileKind
from dastan.exports.order import Order
from dastan.exports.terminal import set_table
from dastan.exports.written_whole import written_whole

_OF_NUMBERS: tuple[FeedKind, ...] = ("csv", "arrow", "arrows", "parquet")
_OF_TABLE: tuple[FeedKind, ...] = ("csv", "html", "xlsx", "ods", "pdf", "txt")


def _check_kind(part: FeedPart, kind: FeedKind) -> None:
    """Raises InputError for a part that has no such kind."""
    kinds = _OF_NUMBERS if part == "numbers" else _OF_TABLE
    if kind not in kinds:
        others = ", ".join(f"{part}.{each}" for each in kinds)
        raise InputError(f"There is no {part}.{kind}.", f"There are {others}.")


def carry_out(order: Order, watch: Watch) -> None:
    """Writes what is ordered. Raises InputError for a part that has no such kind, and what `write_file` raises."""
    _check_kind(order.part, order.kind)
    table = order.table
    if order.part == "numbers" and order.kind == "csv":
        _write_texts(flat_csv(table.flat(), watch), order.file)
    elif order.kind == "txt":
        _write_texts((f"{line}\n" for line in set_table(table)), order.file)
    else:
        own: FileKind = order.kind
        write_file(table, order.dress, order.about, order.file, own, watch, order.records)


def _write_texts(texts: Iterable[str], file: Path) -> None:
    with written_whole(file) as part, part.open("w", encoding="utf-8", newline="") as stream:
        stream.writelines(texts)
