"""An answer as it leaves the screen: copied, or as a file."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from dastan.core.analysis.document import AxisName, Dress, PlacedMember
from dastan.core.analysis.made import with_made
from dastan.exports.copied import Copied, copied, csv_of
from dastan.exports.seen import SeenTable, Selected
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import OwnAnswer, OwnAnswerDep
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.routes.session import address_of
from dastan.server.settings import now

router = APIRouter(prefix="/api/answers", tags=["answers"], route_class=BoundedRoute)


class Seen(BaseModel):
    """The table as it looks now."""

    dress: Dress


class CopyIn(Seen):
    """What to copy: the lines of an axis that stand in some members, or all of them without any."""

    axis: AxisName = "rows"
    members: Annotated[tuple[PlacedMember, ...], Field(max_length=5_000)] = ()


@router.post("/{handle}/copied")
@in_lane(QUESTIONS)
def copy(asked: CopyIn, own: OwnAnswerDep, server: ServerDep) -> Copied:
    only = Selected(asked.axis, asked.members) if asked.members else None
    return copied(_table(own, server, asked.dress, only))


@router.post("/{handle}/table.csv", response_class=StreamingResponse)
@in_lane(QUESTIONS)
def download(
    asked: Seen, own: OwnAnswerDep, server: ServerDep, connection: ConnectionDep, request: Request
) -> StreamingResponse:
    table = _table(own, server, asked.dress)
    with transaction(connection):
        about = f"a table of {own.asked.shelved.model.caption}"
        note_event(connection, now(), "exported", own.reader.person.id, about, address_of(request))
    return StreamingResponse(csv_of(table), media_type="text/csv; charset=utf-8")


def _table(own: OwnAnswer, server: Server, dress: Dress, only: Selected | None = None) -> SeenTable:
    document = own.asked.document
    model = with_made(own.reader.shelved.model, document)
    answer = server.answers.again(own.asked)
    return SeenTable(answer, document, dress, model, own.reader.members_of(document), only)
