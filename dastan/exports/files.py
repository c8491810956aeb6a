"""A table as a file of one of several kinds, written whole or not at all."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Literal

from dastan.core.analysis.captions import day_words
from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.core.errors import SourceError
from dastan.exports.arrow import ArrowKind, arrow_table, write_arrow
from dastan.exports.copied import csv_of
from dastan.exports.ods import write_ods
from dastan.exports.page import page_of
from dastan.exports.pdf import write_pdf
from dastan.exports.seen import SeenTable
from dastan.exports.workbook import write_workbook
from dastan.exports.workbook_records import RecordSheet

WholeKind = Literal["xlsx", "ods", "pdf", "html", ArrowKind]
"""Such as can be read only once all of it is written."""
FileKind = Literal["csv", WholeKind]


@dataclass(frozen=True, slots=True)
class About:
    """What is said of a table where it is read: its sentence; of what data it is, when it was taken, and by whom."""

    sentence: str
    model: str
    by: str = ""

    def lines(self, table: SeenTable) -> tuple[str, ...]:
        """What is not the sentence, part by part."""
        data = [f"data to {day_words(table.newest)}"] if table.newest is not None else []
        return self.model, *data, f"taken on {day_words(date.today().isoformat())}{f' by {self.by}' if self.by else ''}"


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
                    text.writelines(csv_of(table))
            case "xlsx":
                write_workbook(table, dress, about.sentence, about.lines(table), part, watch, records)
            case "ods":
                write_ods(table, dress, about.sentence, " · ".join(about.lines(table)), part, watch)
            case "pdf":
                write_pdf(table, about.sentence, " · ".join(about.lines(table)), part, watch)
            case "html":
                with part.open("w", encoding="utf-8") as text:
                    text.writelines(page_of(table, about.sentence, " · ".join(about.lines(table)), watch))
            case "parquet" | "arrow" | "arrows":
                told = {"sentence": about.sentence, "about": " · ".join(about.lines(table))}
                write_arrow(arrow_table(table.flat(), told, watch), part, kind)


@contextmanager
def written_whole(file: Path) -> Iterator[Path]:
    """A file beside it to write to, which takes its name once all is there."""
    part = file.with_name(f".{file.name}.part")
    try:
        yield part
        part.replace(file)
    except OSError as error:
        hint = "Make room there, or write it to another place."
        raise SourceError(f"{file.name} cannot be written: {error.strerror or error}.", hint) from error
    finally:
        part.unlink(missing_ok=True)
