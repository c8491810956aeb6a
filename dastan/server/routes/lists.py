"""Lists of members, as they are being made."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.made import with_made
from dastan.core.analysis.names import check_names
from dastan.core.analysis.offer import Thing
from dastan.core.engine.watch import Watch
from dastan.core.model.document import MemberList
from dastan.server.access import ReaderDep
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.lists import DraftedList, begun_list, read_list

router = APIRouter(prefix="/api/models", tags=["lists"], route_class=BoundedRoute)


class ListOfIn(BaseModel):
    """What a list is to be of: members, a hierarchy, or a list to go on from."""

    document: Analysis
    thing: Thing


class ListIn(BaseModel):
    """A list as it is being made."""

    document: Analysis
    made: MemberList


@router.post("/{model}/lists/begin")
@in_lane(QUESTIONS)
def begin_list(asked: ListOfIn, reader: ReaderDep, server: ServerDep) -> DraftedList:
    check_names(asked.thing, with_made(reader.shelved.model, asked.document))
    watch = Watch()
    with server.admission.running(reader.person.id, watch, reader.shelved.model.caption):
        return begun_list(asked.document, asked.thing, reader, server.settings.budget, watch)


@router.post("/{model}/lists/read")
@in_lane(QUESTIONS)
def read(asked: ListIn, reader: ReaderDep, server: ServerDep) -> DraftedList:
    watch = Watch()
    with server.admission.running(reader.person.id, watch, reader.shelved.model.caption):
        return read_list(asked.document, asked.made, reader, server.settings.budget, watch)
