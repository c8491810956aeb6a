"""What is to be written, and where to."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from pathlib import Path

from dastan.core.analysis.captions import day_words
from dastan.core.analysis.document import Dress
from dastan.exports.kinds import FeedKind, FeedPart
from dastan.exports.record_sheet import RecordSheet
from dastan.exports.seen import SeenTable


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


@dataclass(frozen=True, slots=True)
class Order:
    """A part of a table as one kind of file; in a workbook, with records."""

    table: SeenTable
    dress: Dress
    about: About
    file: Path
    part: FeedPart
    kind: FeedKind
    records: tuple[RecordSheet, ...] = ()
