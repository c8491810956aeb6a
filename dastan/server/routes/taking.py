"""An answer as it leaves the screen: copied, or as a file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from sqlite3 import Connection
from tempfile import TemporaryDirectory
from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, StreamingResponse
from pydantic import BaseModel, Field
from starlette.background import BackgroundTask

from dastan.core.analysis.captions import day_words
from dastan.core.analysis.document import AxisName, Dress, PlacedMember
from dastan.core.analysis.made import with_made
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.exports.arrow import ArrowKind, arrow_table, write_arrow
from dastan.exports.copied import Copied, copied, csv_of
from dastan.exports.seen import Block, SeenTable, Selected
from dastan.exports.workbook import About, write_workbook
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import OwnAnswer, OwnAnswerDep
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.questions import QuestionName
from dastan.server.routes.session import address_of
from dastan.server.settings import now

MEDIA = {
    ".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    ".parquet": "application/vnd.apache.parquet",
    ".arrow": "application/vnd.apache.arrow.file",
}
router = APIRouter(prefix="/api/answers", tags=["answers"], route_class=BoundedRoute)


class Seen(BaseModel):
    """The table as it looks now."""

    dress: Dress


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


@router.post("/{handle}/table.csv", response_class=StreamingResponse)
@in_lane(QUESTIONS)
def download(
    asked: Seen, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep, request: Request
) -> StreamingResponse:
    table = _table(own, server, asked.dress)
    _note(own, connection, request)
    return StreamingResponse(csv_of(table), media_type="text/csv; charset=utf-8")


@router.post("/{handle}/table.xlsx", response_class=FileResponse)
@in_lane(QUESTIONS)
def workbook(
    asked: Seen, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep, request: Request,
    question: QuestionName = None,
) -> FileResponse:  # fmt: skip
    """The table as a workbook. Under the name of a question its progress can be asked, and it can be taken back."""

    def write(file: Path, watch: Watch) -> None:
        table = _table(own, server, asked.dress, watch=watch)
        write_workbook(table, table.flat(), asked.dress, _about(own, asked.dress, table), file, watch)

    return _file(write, "table.xlsx", own, server, connection, request, question)


@router.post("/{handle}/table.{kind}", response_class=FileResponse)
@in_lane(QUESTIONS)
def columns(
    asked: Seen, kind: ArrowKind, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep, request: Request,
    question: QuestionName = None,
) -> FileResponse:  # fmt: skip
    """The innermost numbers flat and exact: a column for each level and each measure. Followed as a workbook is."""

    def write(file: Path, watch: Watch) -> None:
        table = _table(own, server, asked.dress, watch=watch)
        about = _about(own, asked.dress, table)
        told = {"sentence": about.sentence, "about": " · ".join(about.lines)}
        write_arrow(arrow_table(table.flat(), told, watch), file, kind)

    return _file(write, f"table.{kind}", own, server, connection, request, question)


def _file(
    write: Callable[[Path, Watch], None], name: str, own: OwnAnswer, server: Server, connection: Connection,
    request: Request, question: str | None,
) -> FileResponse:  # fmt: skip
    """A file that is written whole before it leaves, and is gone once it has left. Raises AppError."""
    person, caption = own.reader.person, own.reader.shelved.model.caption
    folder = TemporaryDirectory(prefix="dastan-")
    try:
        file = Path(folder.name) / name
        with (
            server.questions.asked(person.id, question) as watch,
            server.admission.running(person.id, watch, f"a file of {caption}"),
        ):
            write(file, watch)
        _note(own, connection, request)
    except BaseException:
        folder.cleanup()
        raise
    return FileResponse(file, media_type=MEDIA[file.suffix], background=BackgroundTask(folder.cleanup))


def _about(own: OwnAnswer, dress: Dress, table: SeenTable) -> About:
    """The sentence; and of what data the table is, when it was taken and by whom."""
    document = replace(own.asked.document, dress=dress)
    model = with_made(own.reader.shelved.model, document)
    sentence = sentence_of(document, model, own.reader.members_of(document)).text
    data = [f"data to {day_words(table.newest)}"] if table.newest is not None else []
    taken = f"taken on {day_words(date.today().isoformat())} by {own.reader.person.name}"
    return About(sentence, (model.caption, *data, taken))


def _note(own: OwnAnswer, connection: Connection, request: Request) -> None:
    """Notes that somebody took a table away."""
    with transaction(connection):
        about = f"a table of {own.asked.shelved.model.caption}"
        note_event(connection, now(), "exported", own.reader.person.id, about, address_of(request))


def _table(
    own: OwnAnswer, server: Server, dress: Dress, only: Selected | Block | None = None, watch: Watch | None = None
) -> SeenTable:
    document = own.asked.document
    model = with_made(own.reader.shelved.model, document)
    answer = server.answers.again(own.asked, watch)
    return SeenTable(answer, document, dress, model, own.reader.members_of(document), only)
