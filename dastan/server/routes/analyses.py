"""Saved analyses: saving, and every version that was saved before."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.differences import Difference, differences
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import AppError, ConflictError, NotFoundError
from dastan.documents.read import read_analysis, write_analysis
from dastan.records import analyses as records
from dastan.records.analyses import SavedAnalysis, SavedVersion
from dastan.records.database import transaction
from dastan.records.drafts import find_draft, has_step, note_saved
from dastan.records.events import note_event
from dastan.records.item_rights import may_with
from dastan.records.items import move_item, note_visit
from dastan.server.access import PersonDep, SeenAnalysisDep, require_exploring, require_may, require_place
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.readers import Reader, reader_for, reader_for_saved
from dastan.server.reused import tables_behind
from dastan.server.routes.library import FolderId, LibraryEntry, Name, Words, entry_for
from dastan.server.veil import unveil, veil

router = APIRouter(prefix="/api", tags=["analyses"], route_class=BoundedRoute)

VERSIONS_LISTED = 50


class SaveIn(BaseModel):
    """What to save: a draft's document at one of its steps, under a name.

    With `analysis` and `version` it is saved over that one, if nobody else has since.
    """

    draft: str
    step: Annotated[str, StringConstraints(min_length=1, max_length=64)]
    document: Analysis
    name: Name
    description: Words = ""
    folder: FolderId | None = None
    """Where a new one lies. One that is saved over is moved only by those who manage it."""
    analysis: str | None = None
    version: int | None = None


@router.post("/analyses", status_code=201)
async def save(asked: SaveIn, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> LibraryEntry:
    reader = await reader_for(person, server, connection, asked.document.model)
    return await run_in_threadpool(_saved, asked, reader, server, connection)


def _saved(asked: SaveIn, reader: Reader, server: Server, connection: sqlite3.Connection) -> LibraryEntry:
    person, model = reader.person, reader.shelved.model
    whole = unveil(asked.document, reader, connection)
    check_document(whole, model)
    # The sentence is for everybody who may see all that it names; for others it is put into words anew.
    text = sentence_of(whole, model, reader.shelved.source.members).text
    id = asked.analysis or uuid4().hex
    own = sentence_of(asked.document, model, reader.members, reader.seen_as).text
    # The sentence stands for a description that nobody wrote. It is not kept as one, for that is told to all alike.
    description = "" if asked.description in (text, own) else asked.description
    words = {"name": asked.name, "description": description, "sentence": text}
    document = write_analysis(whole).decode()
    server.keeper.settle()
    with transaction(connection):
        draft = find_draft(connection, person.id, asked.draft)
        if draft.is_frozen:
            raise ConflictError("Frozen numbers are not saved again.", "Go on in the live analysis, then save that.")
        if not has_step(connection, asked.draft, asked.step):
            raise server.keeper.failure(asked.draft, asked.step) or NotFoundError(
                "The step that you save is not kept yet.", "Wait a moment, then save again.", code="not-kept"
            )
        if asked.analysis is None:
            if draft.analysis is not None:
                require_exploring(may_with(connection, person.id, draft.analysis))
            require_place(asked.folder, person, connection)
            records.put_analysis(
                connection, id=id, model=asked.document.model, owner=person.id, folder=asked.folder,
                document=document, now=now(), **words,
            )  # fmt: skip
        else:
            _save_over(asked, id, document, words, reader, connection)
        note_visit(connection, id, person.id, now())
        note_event(connection, now(), "saved", person.id, f"“{asked.name}”", item=id)
        saved = records.analysis_seen_by(connection, person.id, id)
        note_saved(connection, asked.draft, id, saved.version, asked.step)
    return entry_for(saved, server, connection, person)


def _save_over(
    asked: SaveIn, id: str, document: str, words: dict[str, str], reader: Reader, connection: sqlite3.Connection
) -> None:
    person = reader.person
    before = records.analysis_seen_by(connection, person.id, id)
    require_may(before, "change")
    if before.frozen is not None:
        raise ConflictError(
            f"“{before.name}” is a frozen copy, which nothing changes.", "Save under a name of its own."
        )
    if id in tables_behind(connection, asked.document.model):
        raise ConflictError(
            f"“{before.name}” cannot start from its own table.", "Save this one under a name of its own."
        )
    if before.model != asked.document.model:
        raise ConflictError(f"“{before.name}” is of another model.", "Save this one under a name of its own.")
    records.change_analysis(
        connection, id=id, version=asked.version or 0, person=person.id, document=document, now=now(), **words
    )
    if asked.folder != before.folder and before.may == "manage":
        require_place(asked.folder, person, connection)
        move_item(connection, id, asked.folder)


@dataclass(frozen=True, slots=True)
class Version:
    """One save of an analysis as its reader may see it, and what it changed of the one before."""

    number: int
    saved_at: str
    saved_by: str | None
    sentence: str
    changes: tuple[Difference, ...]


@router.get("/analyses/{id}/versions")
async def versions(
    analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> list[Version]:
    """The latest versions, newest first."""
    reader = await reader_for_saved(person, server, connection, analysis)
    return await run_in_threadpool(_versions, analysis, reader, connection)


def _versions(analysis: SavedAnalysis, reader: Reader, connection: sqlite3.Connection) -> list[Version]:
    found = records.versions_of(connection, analysis.id, VERSIONS_LISTED + 1)
    seen = [_as_seen(each, reader, connection) for each in found]
    listed = zip(found, seen, [*seen[1:], None], strict=True)  # each with what was before it
    return [_version(*each, reader) for each in listed][:VERSIONS_LISTED]


def _as_seen(version: SavedVersion, reader: Reader, connection: sqlite3.Connection) -> Analysis | None:
    """A version's document as its reader may see it; none where the model has too little of it left."""
    try:
        document, _ = fitted(read_analysis(version.document), reader.model)
    except AppError:
        return None
    return veil(document, reader, connection)[0]


def _version(version: SavedVersion, document: Analysis | None, before: Analysis | None, reader: Reader) -> Version:
    model, members = reader.shelved.model, reader.members
    sentence = ""
    changes: tuple[Difference, ...] = ()
    if document is not None:
        sentence = sentence_of(document, model, members, reader.seen_as).text
        if before is not None:
            changes = differences(before, document, model, members)
    return Version(version.number, version.saved_at, version.saved_by, sentence, changes)


@router.post("/analyses/{id}/versions/{number}/restore")
def restore(
    number: int, analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> LibraryEntry:
    """Saves a version once more, as the newest: nothing that came after it is lost."""
    require_may(analysis, "change")
    if analysis.frozen is not None:
        raise ConflictError(f"“{analysis.name}” is a frozen copy, which nothing changes.")
    with transaction(connection):
        version = records.version_of(connection, analysis.id, number)
        records.change_analysis(
            connection, id=analysis.id, version=analysis.version, person=person.id, name=analysis.name,
            description=analysis.description, document=version.document, sentence=version.sentence, now=now(),
        )  # fmt: skip
        note_event(connection, now(), "saved", person.id, f"“{analysis.name}”, as version {number}", item=analysis.id)
        saved = records.analysis_seen_by(connection, person.id, analysis.id)
    return entry_for(saved, server, connection, person)
