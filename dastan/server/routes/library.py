"""The library: what a person may open, in folders, with a way back for what was removed."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.analysis.brief import Brief, brief_of
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import AppError, NotFoundError
from dastan.documents.read import read_analysis
from dastan.records import analyses as records
from dastan.records import folders, items
from dastan.records.comments import Mention, unread_mentions
from dastan.records.database import transaction
from dastan.records.drafts import DraftSummary, unsaved_drafts
from dastan.records.events import note_event
from dastan.records.folders import Folder, NamePart
from dastan.records.frozen import copy_frozen
from dastan.records.grants import roles_granted
from dastan.records.item_rights import May
from dastan.records.jobs import unread_failures
from dastan.records.models import models_of
from dastan.records.people import Person
from dastan.server.access import (
    PersonDep,
    SeenAnalysisDep,
    SeenFolderDep,
    may_bring,
    may_shape,
    require_may,
    require_place,
)
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import days_ago, now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.place import Place
from dastan.server.readers import model_behind, places_for, reader_of
from dastan.server.reused import analysis_of
from dastan.server.veil import veil

router = APIRouter(prefix="/api", tags=["library"], route_class=BoundedRoute)

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)]
FolderId = Annotated[str, StringConstraints(min_length=1, max_length=64)]

REMOVED_DAYS = 30
"""What was removed can be brought back for this long."""


FAILURES_LISTED = 5
MENTIONS_LISTED = 20


@dataclass(frozen=True, slots=True)
class LibraryEntry:
    """A saved analysis as the library lists it. `folder` is none where it lies outermost, or in a folder that is not
    the person's to see. `brief` is none where its model is not open."""

    id: str
    model: str
    name: str
    description: str
    folder: str | None
    sentence: str
    brief: Brief | None
    owner: str
    owner_name: str
    version: int
    may: May
    is_shared: bool
    is_favourite: bool
    updated_at: str
    opened_at: str | None
    frozen: records.Frozen | None
    starts_from: str | None
    """What the analysis is called whose table it starts from."""


@dataclass(frozen=True, slots=True)
class LibraryModel:
    """A model that was granted. `trouble` says why it cannot be opened, and what to do."""

    name: str
    caption: str
    description: str
    state: Literal["open", "opening", "failed"]
    opened_percent: int
    """How far its opening is, as far as that is known."""
    trouble: str = ""
    is_own: bool = False
    """Whether the person brought it."""
    may_shape: bool = False
    """Whether the person may change it."""
    behind: str = ""
    """Why its changed files could not be read, so that it answers from what they were; for whoever may change it."""


@dataclass(frozen=True, slots=True)
class DeletedModel:
    """A model that the person brought and deleted, and can bring back."""

    name: str
    caption: str


@dataclass(frozen=True, slots=True)
class Failure:
    """Something that could not be made at a set time, and that its owner has not read of yet."""

    id: str
    item: str
    item_name: str
    makes: str
    at: str
    trouble: str
    hint: str


@dataclass(frozen=True, slots=True)
class Library:
    """Everything that a person may open."""

    models: tuple[LibraryModel, ...]
    folders: tuple[Folder, ...]
    entries: tuple[LibraryEntry, ...]
    removed: tuple[LibraryEntry, ...]
    """What the person removed and can bring back."""
    removed_folders: tuple[Folder, ...]
    removed_models: tuple[DeletedModel, ...]
    drafts: tuple[DraftSummary, ...]
    failures: tuple[Failure, ...]
    mentions: tuple[Mention, ...]
    """What was said to the person and not read yet."""
    may_bring: bool
    """Whether the person may bring files of their own."""


@router.get("/library")
def library(server: ServerDep, connection: ConnectionDep, person: PersonDep) -> Library:
    server.keeper.settle()
    since = days_ago(REMOVED_DAYS)
    own = {each.name: each.caption for each in models_of(connection, person.id)}
    deleted = server.bringing.deleted() if own else frozenset()
    return Library(
        tuple(
            _listed(each, each.name in own, may_shape(person, connection, each.name))
            for each in places_for(person, server, connection)
        ),
        tuple(folders.folders_seen_by(connection, person.id)),
        tuple(entry_for(each, server, connection, person) for each in records.analyses_seen_by(connection, person.id)),
        tuple(_entry(each) for each in records.analyses_removed_by(connection, person.id, since)),
        tuple(folders.folders_removed_by(connection, person.id, since)),
        tuple(DeletedModel(name, caption) for name, caption in own.items() if name in deleted),
        tuple(unsaved_drafts(connection, person.id)),
        tuple(
            Failure(each.id, each.item, each.item_name, each.makes, each.ended_at or "", each.trouble, each.hint)
            for each in unread_failures(connection, person.id, FAILURES_LISTED)
        ),
        tuple(unread_mentions(connection, person.id, MENTIONS_LISTED)),
        may_bring(person, server),
    )


def _listed(place: Place, is_own: bool, shapes: bool) -> LibraryModel:
    state: Literal["open", "opening", "failed"]
    state = "failed" if place.trouble else "open" if place.is_open else "opening"
    told = str(place.trouble or "")
    behind = str(place.behind or "") if shapes else ""
    return LibraryModel(
        place.name, place.caption, place.description, state, place.opened_percent, told, is_own, shapes, behind
    )


@lru_cache(maxsize=1_000)
def _read(document: str) -> Analysis:
    """The same text is read once: a library lists hundreds of them."""
    return read_analysis(document)


def entry_for(
    saved: records.SavedAnalysis, server: Server, connection: sqlite3.Connection, person: Person
) -> LibraryEntry:
    """An analysis as it is listed for a person: with the saved sentence or, for a reader whose roles hide members, one
    that names none of them. Nobody waits here for a model to be opened."""
    try:
        behind = model_behind(person, connection, saved.model)
    except NotFoundError:
        return _entry(saved)
    roles = roles_granted(connection, person.rights_of, behind)
    place = server.shelf.find(behind)
    if roles is None or place is None or not place.is_open:
        return _entry(saved, sentence=saved.sentence if roles == () else "")  # opening it says why
    table = analysis_of(saved.model)
    if table is not None:
        told = saved.sentence if roles == () or saved.frozen is not None else ""
        starts_from = records.analysis_seen_by(connection, person.id, table).name
        return _entry(saved, told, brief_of(_read(saved.document), place.wait().model), starts_from)
    try:
        document, _ = fitted(_read(saved.document), place.wait().model)
        brief = brief_of(document, place.wait().model)
        if roles == () or saved.frozen is not None:  # whoever may see a frozen copy sees what its author saw
            return _entry(saved, saved.sentence, brief)
        reader = reader_of(person, place.wait(), connection)
        document, _ = veil(document, reader, connection)
        text = sentence_of(document, reader.shelved.model, reader.members, reader.seen_as).text
        return _entry(saved, text, brief)
    except AppError:
        # Its model no longer fits: opening it says why.
        return _entry(saved, sentence=saved.sentence if roles == () else "")


def _entry(
    saved: records.SavedAnalysis, sentence: str = "", brief: Brief | None = None, starts_from: str | None = None
) -> LibraryEntry:
    return LibraryEntry(
        saved.id, saved.model, saved.name, saved.description, saved.folder, sentence, brief, saved.owner,
        saved.owner_name, saved.version, saved.may, saved.is_shared, saved.is_favourite, saved.updated_at,
        saved.opened_at, saved.frozen, starts_from,
    )  # fmt: skip


class WordsOfAnalysis(BaseModel):
    """What an analysis is called, and where it lies."""

    name: Name
    description: Words = ""
    folder: FolderId | None = None


@router.put("/analyses/{id}/words", status_code=204)
def rename(asked: WordsOfAnalysis, analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    require_may(analysis, "manage")
    with transaction(connection):
        items.name_item(connection, analysis.id, name=asked.name, description=asked.description)
        # Where its folder is not theirs to see, none is named, and it stays there.
        if asked.folder != analysis.folder:
            require_place(asked.folder, person, connection)
            items.move_item(connection, analysis.id, asked.folder)
            note_event(connection, now(), "moved", person.id, f"“{analysis.name}”", item=analysis.id)


@router.post("/analyses/{id}/copy", status_code=201)
def copy(
    asked: WordsOfAnalysis, analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> LibraryEntry:
    """A copy of the person's own. It holds what its reader may not see as the first does: veiled from them."""
    require_may(analysis, "explore")
    id = uuid4().hex
    with transaction(connection):
        require_place(asked.folder, person, connection)
        records.put_analysis(
            connection, id=id, model=analysis.model, owner=person.id, name=asked.name, description=asked.description,
            folder=asked.folder, document=analysis.document, sentence=analysis.sentence, now=now(),
        )  # fmt: skip
        copy_frozen(connection, analysis.id, id)
    return entry_for(records.analysis_seen_by(connection, person.id, id), server, connection, person)


@router.put("/analyses/{id}/favourite", status_code=204)
def make_favourite(analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    with transaction(connection):
        items.set_favourite(connection, analysis.id, person.id, True)


@router.delete("/analyses/{id}/favourite", status_code=204)
def no_favourite(analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    with transaction(connection):
        items.set_favourite(connection, analysis.id, person.id, False)


@router.delete("/analyses/{id}", status_code=204)
def remove(analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    require_may(analysis, "manage")
    with transaction(connection):
        items.forget_removed(connection, days_ago(REMOVED_DAYS))
        items.remove_item(connection, analysis.id, now())
        note_event(connection, now(), "removed", person.id, f"“{analysis.name}”", item=analysis.id)


@router.post("/analyses/{id}/back", status_code=204)
def bring_back(id: str, connection: ConnectionDep, person: PersonDep) -> None:
    """Brings back what the person removed."""
    with transaction(connection):
        items.bring_back_item(connection, person.id, id, days_ago(REMOVED_DAYS))


class FolderIn(BaseModel):
    """A folder's name, the one that it lies in, and what the names of new analyses in it are made of, in order."""

    name: Name
    parent: FolderId | None = None
    name_parts: Annotated[tuple[NamePart, ...], Field(max_length=5)] = ()


@router.post("/folders", status_code=201)
def make_folder(asked: FolderIn, connection: ConnectionDep, person: PersonDep) -> Folder:
    id = uuid4().hex
    with transaction(connection):
        require_place(asked.parent, person, connection)
        folders.put_folder(
            connection, id=id, owner=person.id, parent=asked.parent, name=asked.name, name_parts=asked.name_parts
        )
    return folders.folder_seen_by(connection, person.id, id)


@router.put("/folders/{id}")
def change_folder(asked: FolderIn, folder: SeenFolderDep, connection: ConnectionDep, person: PersonDep) -> Folder:
    require_may(folder, "manage")
    with transaction(connection):
        if asked.parent != folder.parent:
            require_place(asked.parent, person, connection)
        folders.change_folder(connection, folder, parent=asked.parent, name=asked.name, name_parts=asked.name_parts)
    return folders.folder_seen_by(connection, person.id, folder.id)


@router.delete("/folders/{id}", status_code=204)
def remove_folder(folder: SeenFolderDep, connection: ConnectionDep, person: PersonDep) -> None:
    """Takes a folder away with all that lies in it."""
    require_may(folder, "manage")
    with transaction(connection):
        items.forget_removed(connection, days_ago(REMOVED_DAYS))
        folders.remove_folder(connection, folder.id, now())
        note_event(connection, now(), "removed", person.id, f"the folder “{folder.name}”")


@router.post("/folders/{id}/back", status_code=204)
def bring_back_folder(id: str, connection: ConnectionDep, person: PersonDep) -> None:
    """Brings back a folder with all that went with it."""
    with transaction(connection):
        folders.bring_back_folder(connection, person.id, id, days_ago(REMOVED_DAYS))
