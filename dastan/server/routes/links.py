"""Links to views: they carry what was seen, and no right to see it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from secrets import token_urlsafe
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.sentence import sentence_of
from dastan.core.model.parts import Key
from dastan.core.reading.cell_names import lines_of_cell, name_of_cell
from dastan.documents.read import CELL_NAME, read_analysis, write_analysis
from dastan.records import links as records
from dastan.records.analyses import SavedAnalysis, analysis_seen_by
from dastan.records.database import transaction
from dastan.records.drafts import DraftStep, keep_step, put_draft
from dastan.records.links import Link
from dastan.records.veils import keep_veils
from dastan.server.access import DraftDep, OwnAnswerDep, PersonDep, own_answer_of
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, ServerDep
from dastan.server.lanes import LOOKS, in_lane
from dastan.server.readers import Reader, reader_for, reader_for_saved
from dastan.server.veil import unveil, veil

router = APIRouter(prefix="/api", tags=["links"], route_class=BoundedRoute)

Handle = Annotated[str, StringConstraints(max_length=64)]


class LinkIn(BaseModel):
    """What is seen: a document as a draft shows it; and a number of it, by its lines in the answer."""

    document: Analysis
    handle: Handle | None = None
    row: Annotated[int, Field(ge=0)] = 0
    column: Annotated[int, Field(ge=0)] = 0


@dataclass(frozen=True, slots=True)
class MadeLink:
    """A link's own part of its address, after `/see/`."""

    id: str


@router.post("/drafts/{id}/links", status_code=201)
@in_lane(LOOKS)
def make(asked: LinkIn, draft: DraftDep, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> MadeLink:
    """Makes a link to what a draft shows. It names the draft's analysis: only those open it who may see that."""
    reader = draft.reader
    whole = unveil(asked.document, reader, connection)
    check_document(whole, reader.shelved.model)
    cell = None
    if asked.handle is not None:
        own = own_answer_of(asked.handle, person, server, connection)
        name = name_of_cell(server.answers.again(own.asked), own.asked.document.question, asked.row, asked.column)
        cell = CELL_NAME.dump_json(name).decode()
    id = token_urlsafe(12)
    with transaction(connection):
        records.put_link(
            connection, id=id, model=draft.draft.model, item=draft.draft.analysis, person=person.id,
            document=write_analysis(whole).decode(), cell=cell, now=now(),
        )  # fmt: skip
    return MadeLink(id)


@dataclass(frozen=True, slots=True)
class FollowedLink:
    """The draft that a link was opened as."""

    draft: str


@router.post("/links/{id}/drafts", status_code=201)
async def follow(id: Handle, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> FollowedLink:
    """Opens a link as a draft of the person's own: the analysis first, if it is of one, and then the view."""
    link, saved = await run_in_threadpool(_found, id, person.id, connection)
    if saved is not None:
        reader = await reader_for_saved(person, server, connection, saved)
    else:
        reader = await reader_for(person, server, connection, link.model)
    return await run_in_threadpool(_followed, link, saved, reader, connection)


def _found(id: str, person: str, connection: sqlite3.Connection) -> tuple[Link, SavedAnalysis | None]:
    link = records.find_link(connection, id)
    return link, analysis_seen_by(connection, person, link.item) if link.item is not None else None


def _followed(link: Link, saved: SavedAnalysis | None, reader: Reader, connection: sqlite3.Connection) -> FollowedLink:
    draft, person = uuid4().hex, reader.person.id
    view, veils = _step(link.document, f"the view that {link.made_by} linked to", None, reader, connection)
    first, more = view, veils
    if saved is not None:
        first, more = _step(saved.document, f"opened “{saved.name}”", None, reader, connection)
    with transaction(connection):
        keep_veils(connection, veils | more)
        put_draft(
            connection, id=draft, person=person, model=link.model, analysis=saved.id if saved is not None else None,
            analysis_version=saved.version if saved is not None else None, first=first, now=now(),
        )  # fmt: skip
        if saved is not None:
            keep_step(connection, draft, DraftStep(view.id, first.id, view.words, view.sentence, view.document), now())
    return FollowedLink(draft)


def _step(
    text: str, words: str, parent: str | None, reader: Reader, connection: sqlite3.Connection
) -> tuple[DraftStep, dict[str, Key]]:
    document, veils = veil(read_analysis(text), reader, connection)
    fitting, _ = fitted(document, reader.model)
    sentence = sentence_of(fitting, reader.shelved.model, reader.members, reader.seen_as).text
    return DraftStep(uuid4().hex, parent, words, sentence, write_analysis(document).decode()), veils


@dataclass(frozen=True, slots=True)
class LinkedCell:
    """Where the number stands that a link means; nowhere where there is none, or the table does not show it."""

    row: int | None
    column: int | None


@router.get("/answers/{handle}/linked")
@in_lane(LOOKS)
def linked(link: Handle, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep) -> LinkedCell:
    found = records.find_link(connection, link)
    if found.cell is None or found.model != own.asked.shelved.model.name:
        return LinkedCell(None, None)
    name = CELL_NAME.validate_json(found.cell)
    lines = lines_of_cell(server.answers.again(own.asked), own.asked.document.question, name)
    return LinkedCell(*(lines or (None, None)))
