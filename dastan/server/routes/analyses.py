"""Saved analyses: the library, saving, sharing."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace
from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter, Request
from pydantic import BaseModel, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import AppError, NotFoundError
from dastan.documents.read import read_analysis, write_analysis
from dastan.records import analyses as records
from dastan.records.database import transaction
from dastan.records.drafts import DraftSummary, find_draft, has_step, note_saved, unsaved_drafts
from dastan.records.events import note_event
from dastan.records.grants import roles_granted
from dastan.records.people import Person
from dastan.server.access import (
    PersonDep,
    Reader,
    SeenAnalysisDep,
    colleagues_of,
    places_for,
    reader_for,
    reader_of,
    require_change,
    require_colleagues,
    require_owner,
)
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.routes.session import PersonOut, address_of
from dastan.server.settings import days_ago, now
from dastan.server.shelf import Place
from dastan.server.veil import unveil, veil

router = APIRouter(prefix="/api", tags=["analyses"], route_class=BoundedRoute)

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)]


@dataclass(frozen=True, slots=True)
class LibraryEntry:
    """A saved analysis as the library lists it."""

    id: str
    model: str
    name: str
    description: str
    folder: str
    sentence: str
    owner: str
    owner_name: str
    version: int
    may_change: bool
    updated_at: str
    opened_at: str | None


@dataclass(frozen=True, slots=True)
class LibraryModel:
    """A model that was granted. `trouble` says why it cannot be opened, and what to do."""

    name: str
    caption: str
    description: str
    state: Literal["open", "opening", "failed"]
    trouble: str = ""


@dataclass(frozen=True, slots=True)
class Library:
    """Everything that a person may open."""

    models: tuple[LibraryModel, ...]
    mine: tuple[LibraryEntry, ...]
    shared: tuple[LibraryEntry, ...]
    recent: tuple[LibraryEntry, ...]
    removed: tuple[LibraryEntry, ...]
    """What the person removed and can bring back."""
    drafts: tuple[DraftSummary, ...]


class SaveIn(BaseModel):
    """What to save: a draft's document at one of its steps, under a name.

    With `analysis` and `version` it is saved over that one, if nobody else has since.
    """

    draft: str
    step: Annotated[str, StringConstraints(min_length=1, max_length=64)]
    document: Analysis
    name: Name
    description: Words = ""
    folder: Words = ""
    analysis: str | None = None
    version: int | None = None


class ShareIn(BaseModel):
    person: str
    may_change: bool = False


class SharesIn(BaseModel):
    shares: list[ShareIn]


class ShareOut(BaseModel):
    person: str
    name: str
    may_change: bool


RECENT_LENGTH = 8
REMOVED_DAYS = 30
"""What was removed can be brought back for this long."""


@router.get("/library")
def library(server: ServerDep, connection: ConnectionDep, person: PersonDep) -> Library:
    server.keeper.settle()
    seen = [
        replace(_entry(each), sentence=_sentence_for(each, server, connection, person))
        for each in records.analyses_seen_by(connection, person.id)
    ]
    recent = sorted((each for each in seen if each.opened_at), key=lambda each: each.opened_at or "", reverse=True)
    return Library(
        tuple(_listed(each) for each in places_for(person, server, connection)),
        tuple(each for each in seen if each.owner == person.id),
        tuple(each for each in seen if each.owner != person.id),
        tuple(recent[:RECENT_LENGTH]),
        tuple(_entry(each) for each in records.analyses_removed_by(connection, person.id, days_ago(REMOVED_DAYS))),
        tuple(unsaved_drafts(connection, person.id)),
    )


def _listed(place: Place) -> LibraryModel:
    state: Literal["open", "opening", "failed"]
    state = "failed" if place.trouble else "open" if place.is_open else "opening"
    return LibraryModel(place.name, place.caption, place.description, state, str(place.trouble or ""))


def _sentence_for(saved: records.SavedAnalysis, server: Server, connection: sqlite3.Connection, person: Person) -> str:
    """The saved sentence; for a reader whose roles hide members, one that names none of them. Nobody waits here for a
    model to be opened."""
    roles = roles_granted(connection, person.rights_of, saved.model)
    place = server.shelf.find(saved.model)
    if roles == ():
        return saved.sentence
    if roles is None or place is None or not place.is_open:
        return ""  # opening it says why
    try:
        reader = reader_of(person, place.wait(), connection)
        document, _ = fitted(read_analysis(saved.document), reader.shelved.model)
        document, _ = veil(document, reader, connection)
        return sentence_of(document, reader.shelved.model, reader.members, reader.seen_as).text
    except AppError:
        return ""  # its model no longer fits: opening it says why


@router.get("/people")
def people(connection: ConnectionDep, person: PersonDep) -> list[PersonOut]:
    return [PersonOut(id=each.id, name=each.name, sign_in=each.sign_in) for each in colleagues_of(person, connection)]


@router.post("/analyses", status_code=201)
async def save(asked: SaveIn, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> LibraryEntry:
    reader = await reader_for(person, server, connection, asked.document.model)
    return await run_in_threadpool(_saved, asked, reader, server, connection)


def _saved(asked: SaveIn, reader: Reader, server: Server, connection: sqlite3.Connection) -> LibraryEntry:
    person, model = reader.person, reader.shelved.model
    whole = unveil(asked.document, reader, connection)
    check_document(whole, model)
    # The sentence is for everybody who may see all that it names; for others it is put into words anew.
    text = sentence_of(whole, model, reader.shelved.opened.source.members).text
    id = asked.analysis or uuid4().hex
    words = {"name": asked.name, "description": asked.description, "folder": asked.folder, "sentence": text}
    document = write_analysis(whole).decode()
    server.keeper.settle()
    with transaction(connection):
        find_draft(connection, person.id, asked.draft)
        if not has_step(connection, asked.draft, asked.step):
            raise server.keeper.failure(asked.draft, asked.step) or NotFoundError(
                "The step that you save is not kept yet.", "Wait a moment, then save again.", code="not-kept"
            )
        if asked.analysis is None:
            records.put_analysis(
                connection, id=id, model=asked.document.model, owner=person.id, document=document, now=now(), **words
            )
        else:
            require_change(records.analysis_seen_by(connection, person.id, id))
            records.change_analysis(
                connection, id=id, version=asked.version or 0, document=document, now=now(), **words
            )
        records.note_visit(connection, id, person.id, now())
        saved = records.analysis_seen_by(connection, person.id, id)
        note_saved(connection, asked.draft, id, saved.version, asked.step)
    return replace(_entry(saved), sentence=_sentence_for(saved, server, connection, person))


class WordsOfAnalysis(BaseModel):
    """What an analysis is called, and where it lies."""

    name: Name
    description: Words = ""
    folder: Words = ""


@router.put("/analyses/{id}/words", status_code=204)
def rename(asked: WordsOfAnalysis, analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    require_owner(analysis, person)
    with transaction(connection):
        records.rename_analysis(
            connection, analysis.id, name=asked.name, description=asked.description, folder=asked.folder
        )


@router.delete("/analyses/{id}", status_code=204)
def remove(analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    require_owner(analysis, person)
    with transaction(connection):
        records.forget_removed(connection, days_ago(REMOVED_DAYS))
        records.remove_analysis(connection, analysis.id, now())


@router.post("/analyses/{id}/back", status_code=204)
def bring_back(id: str, connection: ConnectionDep, person: PersonDep) -> None:
    """Brings back what the person removed."""
    with transaction(connection):
        records.bring_back_analysis(connection, person.id, id, days_ago(REMOVED_DAYS))


@router.get("/analyses/{id}/shares")
def shares(analysis: SeenAnalysisDep, connection: ConnectionDep) -> list[ShareOut]:
    return _shares(connection, analysis.id)


@router.put("/analyses/{id}/shares")
def share(
    asked: SharesIn, analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep, request: Request
) -> list[ShareOut]:
    require_owner(analysis, person)
    require_colleagues([each.person for each in asked.shares], person, connection)
    wanted = {each.person: each.may_change for each in asked.shares if each.person != person.id}
    with transaction(connection):
        records.set_shares(connection, analysis.id, list(wanted.items()))
        about = f"“{analysis.name}” with {', '.join(wanted) or 'nobody'}"
        note_event(connection, now(), "shared", person.id, about, address_of(request))
    return _shares(connection, analysis.id)


def _shares(connection: sqlite3.Connection, id: str) -> list[ShareOut]:
    found = records.shares_of(connection, id)
    return [ShareOut(person=each.person, name=each.name, may_change=each.may_change) for each in found]


def _entry(saved: records.SavedAnalysis) -> LibraryEntry:
    return LibraryEntry(
        saved.id, saved.model, saved.name, saved.description, saved.folder, saved.sentence, saved.owner,
        saved.owner_name, saved.version, saved.may_change, saved.updated_at, saved.opened_at,
    )  # fmt: skip
