"""What people say of an analysis and of its cells, to those who may see them."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import shown_measure
from dastan.core.errors import AppError, InputError
from dastan.core.model.document import SemanticModel
from dastan.core.reading.cell_names import CellName, lines_of_cell, name_of_cell
from dastan.documents.read import CELL_NAME, read_analysis
from dastan.records import comments as records
from dastan.records.analyses import SavedAnalysis
from dastan.records.comments import KeptComment
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.item_rights import is_enough, may_with
from dastan.records.people import find_person
from dastan.server.access import OwnAnswer, PersonDep, SeenAnalysisDep, own_answer_of
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import LOOKS
from dastan.server.readers import Reader, reader_for_saved

router = APIRouter(prefix="/api/analyses/{id}/comments", tags=["comments"], route_class=BoundedRoute)

LISTED = 200
Handle = Annotated[str, StringConstraints(max_length=64)]


@dataclass(frozen=True, slots=True)
class SaidOf:
    """The cell that a comment is on: what it is called, and where it stands in the answer that was named, if there."""

    caption: str
    row: int | None
    column: int | None


@dataclass(frozen=True, slots=True)
class Comment:
    """A comment as its reader may see it. `cell` is none where it is on the whole analysis."""

    id: str
    author: str
    author_name: str
    said_at: str
    text: str
    cell: SaidOf | None
    mentions: tuple[str, ...]
    may_remove: bool


class CommentIn(BaseModel):
    """What to say, whom it means, and of which number: a line of rows and one of columns of an answer."""

    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=4_000)]
    mentions: Annotated[list[str], Field(max_length=50)] = []
    handle: Handle | None = None
    row: Annotated[int, Field(ge=0)] = 0
    column: Annotated[int, Field(ge=0)] = 0


@router.get("")
async def listed(
    analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep,
    handle: Handle | None = None,
) -> list[Comment]:  # fmt: skip
    """What is said of it, as far as its reader may see the cells; with an answer's handle also where they stand."""
    reader = await reader_for_saved(person, server, connection, analysis)
    return await LOOKS.run(_listed, analysis, reader, handle, server, connection)


def _listed(
    analysis: SavedAnalysis, reader: Reader, handle: str | None, server: Server, connection: sqlite3.Connection
) -> list[Comment]:
    own = _answer(handle, reader, server, connection)
    model, found = _model(analysis, reader), []
    for each in records.comments_of(connection, analysis.id, LISTED):
        cell = CELL_NAME.validate_json(each.cell) if each.cell is not None else None
        if cell is None or _is_seen(cell, reader):
            words = _cell_words(cell, reader, model) if cell is not None else ""
            found.append(_comment(each, cell, words, own, reader, analysis, server))
    return found


def _answer(handle: str | None, reader: Reader, server: Server, connection: sqlite3.Connection) -> OwnAnswer | None:
    """The reader's own answer of a handle; None without one, or where it is no longer kept."""
    try:
        return own_answer_of(handle, reader.person, server, connection) if handle else None
    except AppError:
        return None


def _is_seen(cell: CellName, reader: Reader) -> bool:
    """Whether a reader may see all of the members that a cell stands in. One that is not in the data any more is seen
    by those alone who see all of it: to others it could be one that is hidden."""
    return reader.sees_all or all(_caption(each.dimension, each.hierarchy, each.path, reader) for each in cell.members)


def _caption(dimension: str, hierarchy: str, path: tuple[object, ...], reader: Reader) -> str:
    """What a member is called; nothing where it is not there, or not to be seen."""
    try:
        members = reader.members(dimension, hierarchy)
    except (AppError, KeyError):
        return ""
    code = members.find(path)  # type: ignore[arg-type]
    return members.captions_of(len(path) - 1, code)[-1] if code is not None else ""


def _comment(
    kept: KeptComment, cell: CellName | None, words: str, own: OwnAnswer | None, reader: Reader,
    analysis: SavedAnalysis, server: Server,
) -> Comment:  # fmt: skip
    said_of = None
    if cell is not None:
        lines = None
        if own is not None:
            lines = lines_of_cell(server.answers.again(own.asked), own.asked.document.question, cell)
        row, column = lines or (None, None)
        said_of = SaidOf(words, row, column)
    may_remove = kept.author == reader.person.id or is_enough(analysis.may, "manage")
    return Comment(kept.id, kept.author, kept.author_name, kept.said_at, kept.text, said_of, kept.mentions, may_remove)


def _model(analysis: SavedAnalysis, reader: Reader) -> SemanticModel:
    """The model with what is made in an analysis, as far as it has it still."""
    try:
        document, _ = fitted(read_analysis(analysis.document), reader.model)
        return with_made(reader.shelved.model, document)
    except AppError:
        return reader.shelved.model


def _cell_words(cell: CellName, reader: Reader, model: SemanticModel) -> str:
    names = [_caption(each.dimension, each.hierarchy, each.path, reader) or str(each.path[-1]) for each in cell.members]
    try:
        measure = shown_measure(cell.measure, model, reader.members).caption
    except (AppError, KeyError):  # it is gone
        measure = cell.measure.measure.replace("_", " ")
    return " · ".join([*names, measure])


@router.post("", status_code=201)
async def say(
    asked: CommentIn, analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> list[Comment]:
    """Says something of an analysis, or of a number of an answer to it; returns all that is said now."""
    reader = await reader_for_saved(person, server, connection, analysis)
    return await LOOKS.run(_said, asked, analysis, reader, server, connection)


def _said(
    asked: CommentIn, analysis: SavedAnalysis, reader: Reader, server: Server, connection: sqlite3.Connection
) -> list[Comment]:
    cell = None
    if asked.handle is not None:
        own = own_answer_of(asked.handle, reader.person, server, connection)
        name = name_of_cell(server.answers.again(own.asked), own.asked.document.question, asked.row, asked.column)
        cell = CELL_NAME.dump_json(name).decode()
    with transaction(connection):
        for each in asked.mentions:
            _require_sees(each, analysis, connection)
        records.put_comment(
            connection, id=uuid4().hex, item=analysis.id, author=reader.person.id, text=asked.text, cell=cell,
            mentions=asked.mentions, now=now(),
        )  # fmt: skip
        note_event(connection, now(), "commented", reader.person.id, f"“{analysis.name}”", item=analysis.id)
    return _listed(analysis, reader, asked.handle, server, connection)


def _require_sees(person: str, analysis: SavedAnalysis, connection: sqlite3.Connection) -> None:
    found = find_person(connection, person)
    if found is None:
        raise InputError(f"There is no person “{person}” here.", "Choose someone from the list.")
    if may_with(connection, person, analysis.id) is None:
        raise InputError(f"{found.name} may not see “{analysis.name}”.", "Share it with them first.")


@router.delete("/{comment}", status_code=204)
def remove(comment: Handle, analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    """Takes a comment away: one's own, or for those who manage the analysis any."""
    with transaction(connection):
        author = None if is_enough(analysis.may, "manage") else person.id
        records.remove_comment(connection, analysis.id, comment, author)


@router.put("/read", status_code=204)
async def note_read(analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> None:
    """Says that the person has read what is said."""
    await run_in_threadpool(_note_read, analysis.id, person.id, connection)


def _note_read(item: str, person: str, connection: sqlite3.Connection) -> None:
    with transaction(connection):
        records.note_mentions_read(connection, item, person, now())
