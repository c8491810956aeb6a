"""A table as a file of one of several kinds, written whole or not at all. What writes a kind is imported once one is
wanted: together they take seconds."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.exports.copied import csv_of
from dastan.exports.kinds import FileKind
from dastan.exports.order import About
from dastan.exports.record_sheet import RecordSheet
from dastan.exports.seen import SeenTable
from dastan.exports.written_whole import written_whole


def write_file(
    table: SeenTable, dress: Dress, about: About, file: Path, kind: FileKind, watch: Watch,
    records: Sequence[RecordSheet] = (),
) -> None:  # fmt: skip
    """Writes the table as it is seen, or as Arrow and Parquet its innermost numbers; in a workbook, with the records.

    Raises: LimitError before anything is written; CancelledError; SourceError where the disk does not take it. No file
        is left then.
    """
    with written_whole(file) as part:
        match kind:
            case "csv":
                with part.open("w", encoding="utf-8", newline="") as text:
                    text.writelines(csv_of(table, watch))
            case "xlsx":
                from dastan.exports.workbook import write_workbook

                write_workbook(table, dress, about.sentence, about.lines(table), part, watch, records)
            case "ods":
                from dastan.exports.ods import write_ods

                write_ods(table, dress, about.sentence, " · ".join(about.lines(table)), part, watch)
            case "pdf":
                from dastan.exports.pdf import write_pdf

                write_pdf(table, about.sentence, " · ".join(about.lines(table)), part, watch)
            case "html":
                from dastan.exports.page import page_of

                with part.open("w", encoding="utf-8") as text:
                    text.writelines(page_of(table, about.sentence, " · ".join(about.lines(table)), watch))
            case "parquet" | "arrow" | "arrows":
                from dastan.exports.arrow import arrow_table, write_arrow

                told = {"sentence": about.sentence, "about": " · ".join(about.lines(table))}
                write_arrow(arrow_table(table.flat(), told, watch), part, kind)
