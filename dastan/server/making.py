"""What a job makes of a saved analysis, as its owner may see it then: a file, or a frozen copy."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Literal, get_args

from dastan.core.analysis.captions import day_words
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError
from dastan.core.model.parts import Key
from dastan.documents.read import read_analysis
from dastan.exports.kinds import FeedKind, FeedPart
from dastan.records.analyses import SavedAnalysis, analysis_seen_by
from dastan.records.database import transaction
from dastan.records.items import has_item
from dastan.records.jobs import Job
from dastan.records.people import Person
from dastan.records.veils import keep_veils
from dastan.server.access import require_may, require_place
from dastan.server.context import Server
from dastan.server.freezing import freeze, keep_frozen
from dastan.server.parts import write_part
from dastan.server.readers import Reader, reader_at_once, reader_of_frozen
from dastan.server.veil import veil

Makes = Literal[
    "table.xlsx", "table.ods", "table.pdf", "table.html", "table.csv", "numbers.csv", "numbers.parquet",
    "numbers.arrow", "frozen",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Made:
    """What came of a job: a file of so many bytes, or a frozen copy."""

    file_bytes: int | None = None
    frozen: str | None = None


def file_of(job: Job, folder: Path) -> Path:
    """Where a job's file lies."""
    return folder / f"{job.id}.{job.makes.partition('.')[2]}"


def make(job: Job, person: Person, server: Server, connection: sqlite3.Connection, watch: Watch) -> Made:
    """Makes it, with the rights that its owner has now. Raises what keeps it from being made."""
    saved = analysis_seen_by(connection, person.id, job.item)
    reader = _reader(saved, person, server, connection)
    document, _ = fitted(read_analysis(saved.document), reader.model)
    document, veils = veil(document, reader, connection)
    words = f"“{saved.name}” at a set time"
    if job.makes == "frozen":
        with server.admission.running(person.id, watch, words):
            return Made(frozen=_frozen(job, saved, document, veils, reader, server, connection, watch))
    folder = server.settings.made_folder
    folder.mkdir(mode=0o700, exist_ok=True)
    file = file_of(job, folder)
    name, _, ending = job.makes.partition(".")
    part: FeedPart = "numbers" if name == "numbers" else "table"
    kinds: dict[str, FeedKind] = {each: each for each in get_args(FeedKind)}
    write_part(document, reader, server, file, part, kinds[ending], words, watch)
    return Made(file_bytes=file.stat().st_size)


def _reader(saved: SavedAnalysis, person: Person, server: Server, connection: sqlite3.Connection) -> Reader:
    if saved.frozen is not None:
        return reader_of_frozen(person, server, connection, saved.id)
    return reader_at_once(person, server, connection, saved.model)


def _frozen(
    job: Job, saved: SavedAnalysis, document: Analysis, veils: dict[str, Key], reader: Reader, server: Server,
    connection: sqlite3.Connection, watch: Watch,
) -> str:  # fmt: skip
    """A frozen copy of the owner's own beside the analysis, or outermost where they may put nothing there; under the
    job's id, so that one that is begun again makes no second. What they may not see stays behind its veil: a frozen
    copy shows all that it holds."""
    require_may(saved, "explore")
    if has_item(connection, job.id):
        return job.id
    copy = freeze(document, saved.id, reader, server, watch)
    name = f"{saved.name}, {day_words(date.today().isoformat())}"[:200]
    with transaction(connection):
        keep_veils(connection, veils)
        try:
            folder = saved.folder
            require_place(folder, reader.person, connection)
        except AppError:
            folder = None
        keep_frozen(
            copy, document, reader, connection, id=job.id, name=name, description=saved.description, folder=folder
        )
    return job.id
