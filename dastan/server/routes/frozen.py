"""Frozen copies: made from what a draft shows, and held against the numbers of today."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.engine.answer import Answer
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError
from dastan.core.reading.compare import ComparedNumbers, compare_answers
from dastan.records import analyses as records
from dastan.records.database import transaction
from dastan.records.items import note_visit
from dastan.server.access import DraftDep, PersonDep, ReadDraft, require_exploring, require_place
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.freezing import freeze, keep_frozen
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.questions import QuestionName
from dastan.server.readers import Reader, reader_for
from dastan.server.routes.library import FolderId, LibraryEntry, Name, Words, entry_for

router = APIRouter(prefix="/api/drafts", tags=["frozen"], route_class=BoundedRoute)


class FreezeIn(BaseModel):
    """What to freeze: a document as a draft shows it, under a name."""

    document: Analysis
    name: Name
    description: Words = ""
    folder: FolderId | None = None


@router.post("/{id}/frozen", status_code=201)
@in_lane(QUESTIONS)
def freeze_draft(
    asked: FreezeIn, draft: DraftDep, server: ServerDep, connection: ConnectionDep, person: PersonDep,
    question: QuestionName = None,
) -> LibraryEntry:  # fmt: skip
    """Keeps the numbers as they are now. Under the name of a question its progress can be asked, and it can be taken
    back: nothing is kept then."""
    reader, id = draft.reader, uuid4().hex
    if draft.draft.is_frozen:
        raise InputError("This is a frozen copy already.", "Make a copy of it in the library, or freeze the live one.")
    require_exploring(draft.may)
    require_place(asked.folder, person, connection)
    check_document(asked.document, reader.shelved.model)
    words = f"a frozen copy of {reader.shelved.model.caption}"
    with server.questions.asked(person.id, question) as watch, server.admission.running(person.id, watch, words):
        copy = freeze(asked.document, draft.draft.analysis, reader, server, watch)
    with transaction(connection):
        require_place(asked.folder, person, connection)
        keep_frozen(
            copy, asked.document, reader, connection, id=id, name=asked.name, description=asked.description,
            folder=asked.folder,
        )  # fmt: skip
        note_visit(connection, id, person.id, now())
    return entry_for(records.analysis_seen_by(connection, person.id, id), server, connection, person)


class TodayIn(BaseModel):
    document: Analysis


@dataclass(frozen=True, slots=True)
class HeldAgainstToday:
    """What differs between the numbers that were frozen and those of now, as their reader sees them now. No numbers
    where there are too many to compare; `lost` is what the model does not have any more."""

    newest: str | None
    lost: tuple[str, ...]
    numbers: ComparedNumbers | None


@router.post("/{id}/today")
async def hold_against_today(
    asked: TodayIn, draft: DraftDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> HeldAgainstToday:
    if not draft.draft.is_frozen:
        raise InputError("These are the numbers of today.", "Open a frozen copy to hold it against them.")
    live = await reader_for(person, server, connection, draft.draft.model)
    return await QUESTIONS.run(_held_against, asked.document, draft, live, server)


def _held_against(document: Analysis, draft: ReadDraft, live: Reader, server: Server) -> HeldAgainstToday:
    then = _answered(document, draft.reader, server)
    fitting, lost = fitted(document, live.model)
    today = _answered(fitting, live, server)
    return HeldAgainstToday(today.newest, tuple(each.text for each in lost), compare_answers(then, today))


def _answered(document: Analysis, reader: Reader, server: Server) -> Answer:
    return server.answers.ask(document, reader.shelved, reader.rights, Watch())[1]
