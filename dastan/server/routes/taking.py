"""An answer as it leaves the screen: copied, or as a file."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from sqlite3 import Connection
from typing import Annotated, get_args

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.analysis.document import AxisName, Dress, PlacedMember
from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, NotFoundError
from dastan.exports.copied import Copied, copied
from dastan.exports.kinds import ArrowKind, FeedPart, FileKind
from dastan.exports.order import About, Order
from dastan.exports.seen import Block, SeenTable, Selected
from dastan.records.database import transaction
from dastan.records.drafts import find_draft
from dastan.records.events import note_event
from dastan.server.access import OwnAnswer, OwnAnswerDep
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.questions import QuestionName
from dastan.server.record_columns import record_sheets
from dastan.server.routes.session import address_of
from dastan.server.whole_files import whole_file

MEDIA: dict[FileKind, str] = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "ods": "application/vnd.oasis.opendocument.spreadsheet",
    "pdf": "application/pdf",
    "html": "text/html; charset=utf-8",
    "parquet": "application/vnd.apache.parquet",
    "arrow": "application/vnd.apache.arrow.file",
    "arrows": "application/vnd.apache.arrow.stream",
}
router = APIRouter(prefix="/api/answers", tags=["answers"], route_class=BoundedRoute)


class Seen(BaseModel):
    """The table as it looks now. `draft` is the draft that shows it, by which its analysis tells who took it."""

    dress: Dress
    draft: Annotated[str, StringConstraints(max_length=64)] | None = None


class TakenIn(Seen):
    """The table to take; in a workbook the records behind it go along where that is asked."""

    with_records: bool = False


Span = tuple[Annotated[int, Field(ge=0, le=2**31)], Annotated[int, Field(ge=0, le=2**31)]]
"""The first of some lines, and the one after the last."""


class CopyIn(Seen):
    """What to copy: a block of rows and columns, or the lines of an axis that stand in some members, or all of it."""

    axis: AxisName = "rows"
    members: Annotated[tuple[PlacedMember, ...], Field(max_length=5_000)] = ()
    rows: Span | None = None
    columns: Span | None = None


@router.post("/{handle}/copied")
@in_lane(QUESTIONS)
def copy(asked: CopyIn, own: OwnAnswerDep, server: ServerDep) -> Copied:
    only: Selected | Block | None = Selected(asked.axis, asked.members) if asked.members else None
    if asked.rows is not None and asked.columns is not None:
        only = Block(range(*asked.rows), range(*asked.columns))
    return copied(_table(own, server, asked.dress, only))


@router.post("/{handle}/table.{kind}", response_class=FileResponse)
@in_lane(QUESTIONS)
def whole(
    asked: TakenIn, kind: FileKind, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep, request: Request,
    question: QuestionName = None,
) -> FileResponse:  # fmt: skip
    """A whole file. Under the name of a question its progress can be asked, and it can be taken back."""
    if asked.with_records and kind != "xlsx":
        raise InputError("Records go along in a workbook (XLSX) alone.", "Take one, or the table without its records.")
    person, document = own.reader.person, replace(own.asked.document, dress=asked.dress)
    model = with_made(own.reader.shelved.model, document)

    def write(file: Path) -> None:
        with server.questions.asked(person.id, question) as watch:
            with server.admission.running(person.id, watch, model.caption):  # many at once would hold up everybody
                sentence = sentence_of(document, model, own.reader.members_of(document)).text
                table = _table(own, server, asked.dress, watch=watch)
            records = record_sheets(*own.asked.questioner(server.settings.budget)) if asked.with_records else ()
            part: FeedPart = "numbers" if kind in get_args(ArrowKind) else "table"
            order = Order(table, asked.dress, About(sentence, model.caption, person.name), file, part, kind, records)
            server.writing.write(order, person.id, f"a file of {model.caption}", watch)
        _note(own, asked.draft, connection, request)

    return whole_file(f"table.{kind}", MEDIA[kind], write)


def _note(own: OwnAnswer, draft: str | None, connection: Connection, request: Request) -> None:
    """Notes that somebody took a table away; and of which analysis, where it is one's draft."""
    with transaction(connection):
        item = None
        with suppress(NotFoundError):  # it was discarded meanwhile, or is none
            item = find_draft(connection, own.reader.person.id, draft or "").analysis
        about = f"a table of {own.asked.shelved.model.caption}"
        note_event(connection, now(), "exported", own.reader.person.id, about, address_of(request), item=item)


def _table(
    own: OwnAnswer, server: Server, dress: Dress, only: Selected | Block | None = None, watch: Watch | None = None
) -> SeenTable:
    document = own.asked.document
    model = with_made(own.reader.shelved.model, document)
    answer = server.answers.again(own.asked, watch)
    return SeenTable(answer, document, dress, model, own.reader.members_of(document), only)
