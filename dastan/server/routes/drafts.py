"""Drafts: every gesture is one request, and every step is kept."""

from __future__ import annotations

import asyncio
import sqlite3
from dataclasses import dataclass
from typing import Annotated
from uuid import uuid4

import orjson
from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.differences import Difference, differences
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import (
    Gesture,
)
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, NotFoundError
from dastan.core.reading.compare import ComparedNumbers, compare_answers
from dastan.documents.read import read_analysis, write_analysis
from dastan.records.analyses import Frozen, SavedAnalysis, analysis_seen_by, version_of
from dastan.records.database import transaction
from dastan.records.drafts import (
    Draft,
    DraftStep,
    find_draft,
    forget_untouched,
    has_step,
    keep_step,
    move_draft,
    name_step,
    put_draft,
    remove_draft,
    steps_of,
)
from dastan.records.events import note_event
from dastan.records.item_rights import May
from dastan.records.items import note_visit
from dastan.records.veils import keep_veils
from dastan.server.access import DraftDep, OwnDraftDep, PersonDep, require_exploring
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import days_ago, now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.looks import begun
from dastan.server.questions import QuestionName
from dastan.server.readers import Reader, reader_for, reader_for_saved
from dastan.server.reused import analysis_of, model_name_of
from dastan.server.veil import unveil, veil
from dastan.server.workspace import Shown, show, take_step

router = APIRouter(tags=["drafts"], route_class=BoundedRoute)

UNTOUCHED_DAYS = 7
"""An opened draft without a step is forgotten after this long."""


class NewDraft(BaseModel):
    """Begins on an empty sheet of a model or of the table that a saved analysis comes to; from a saved analysis; or
    from a document of a page's own with what is said of where it comes from."""

    model: str | None = None
    table: str | None = None
    """The id of the analysis whose table it starts from."""
    analysis: str | None = None
    document: Analysis | None = None
    words: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] | None = None


@dataclass(frozen=True, slots=True)
class TrailStep:
    """A step, the one that it was taken from, and the document after it."""

    id: str
    parent: str | None
    words: str
    name: str
    document: Analysis


@dataclass(frozen=True, slots=True)
class OpenedAnalysis:
    """The saved analysis that a draft is of."""

    id: str
    name: str
    description: str
    folder: str | None
    owner: str
    owner_name: str
    version: int
    may: May
    frozen: Frozen | None


@dataclass(frozen=True, slots=True)
class OpenDraft:
    """A draft with its whole trail. `shown_step` is shown; `saved_step` is the one that its analysis holds."""

    id: str
    model: str
    model_caption: str
    starts_from: str | None
    """The id of the analysis whose table is its model."""
    steps: tuple[TrailStep, ...]
    shown_step: str
    saved_step: str | None
    analysis: OpenedAnalysis | None
    updated_at: str


StepId = Annotated[str, StringConstraints(min_length=1, max_length=64)]


class StepIn(BaseModel):
    """A gesture on a document that stands at step `parent` of the trail; the page names the new step `id`."""

    id: StepId
    parent: StepId
    document: Analysis
    gesture: Annotated[Gesture, Field(discriminator="kind")]
    is_asked: bool = True
    """Whether the document is answered, or only arranged: how it looks is shown in any case."""
    was_answered: bool = True
    """Whether the document has an answer as it stands, so that another look of it asks nothing."""


class PositionIn(BaseModel):
    """The step to show and its document."""

    step: StepId
    document: Analysis
    is_asked: bool = True


class StepName(BaseModel):
    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)]


@router.post("/api/drafts", status_code=201)
async def begin(asked: NewDraft, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> OpenDraft:
    saved = None
    if asked.analysis is not None:
        saved = await run_in_threadpool(analysis_seen_by, connection, person.id, asked.analysis)
    # Opened before anything is written: however long that takes, no other write waits for it.
    if saved is not None:
        reader = await reader_for_saved(person, server, connection, saved)
    else:
        own = model_name_of(asked.table) if asked.table is not None else asked.model or ""
        own = asked.document.model if asked.document is not None else own
        reader = await reader_for(person, server, connection, own)
    return await run_in_threadpool(_begun, asked, saved, reader, connection)


def _begun(asked: NewDraft, saved: SavedAnalysis | None, reader: Reader, connection: sqlite3.Connection) -> OpenDraft:
    id, model, person = uuid4().hex, reader.shelved.model.name, reader.person.id
    if saved is not None:
        document, words = read_analysis(saved.document), f"opened “{saved.name}”"
    elif asked.document is not None:
        # What is veiled in it is veiled once, and not again.
        document, words = unveil(asked.document, reader, connection), asked.words or "went on from elsewhere"
    else:
        document, words = begun(model, connection, person), "an empty sheet"
    document, veils = veil(document, reader, connection)
    first = DraftStep(uuid4().hex, None, words, _text(document, reader), write_analysis(document).decode())
    with transaction(connection):
        keep_veils(connection, veils)
        if saved is not None:
            note_visit(connection, saved.id, person, now())
            note_event(connection, now(), "opened", person, f"“{saved.name}”", item=saved.id)
        forget_untouched(connection, person, days_ago(UNTOUCHED_DAYS))
        put_draft(
            connection, id=id, person=person, model=model, analysis=saved.id if saved is not None else None,
            analysis_version=saved.version if saved is not None else None, first=first, now=now(),
        )  # fmt: skip
    return _opened(connection, find_draft(connection, person, id), reader)


@router.get("/api/drafts/{id}")
def read(draft: DraftDep, server: ServerDep, connection: ConnectionDep) -> OpenDraft:
    server.keeper.settle()
    return _opened(connection, find_draft(connection, draft.reader.person.id, draft.draft.id), draft.reader)


@router.delete("/api/drafts/{id}", status_code=204)
def discard(draft: OwnDraftDep, connection: ConnectionDep, person: PersonDep) -> None:
    with transaction(connection):
        remove_draft(connection, person.id, draft.id)


@router.post("/api/drafts/{id}/steps", response_model=Shown)
@in_lane(QUESTIONS)
def step(asked: StepIn, draft: DraftDep, server: ServerDep, question: QuestionName = None) -> Response:
    reader = draft.reader
    person, caption = reader.person.id, reader.shelved.model.caption
    if not asked.gesture.is_looking:
        require_exploring(draft.may)
    with server.questions.asked(person, question) as watch, server.admission.running(person, watch, caption):
        is_asked = asked.is_asked or (asked.gesture.is_dress and asked.was_answered)
        shown = take_step(asked.document, asked.gesture, reader, server.answers, watch, is_asked)
    kept = DraftStep(asked.id, asked.parent, shown.words, shown.text, write_analysis(shown.document).decode())
    server.keeper.keep(draft.draft.id, kept.id, lambda records: keep_step(records, draft.draft.id, kept, now()))
    return Response(orjson.dumps(shown), media_type="application/json")


@router.post("/api/drafts/{id}/position", response_model=Shown)
@in_lane(QUESTIONS)
def position(asked: PositionIn, draft: DraftDep, server: ServerDep, question: QuestionName = None) -> Response:
    reader = draft.reader
    person, caption = reader.person.id, reader.shelved.model.caption
    with server.questions.asked(person, question) as watch, server.admission.running(person, watch, caption):
        shown = show(asked.document, "", reader, server.answers, watch, asked.is_asked)
    server.keeper.keep(draft.draft.id, "", lambda records: move_draft(records, draft.draft.id, asked.step, now()))
    return Response(orjson.dumps(shown), media_type="application/json")


class VersionIn(BaseModel):
    """The step that shows a saved version, taken from step `parent`."""

    id: StepId
    parent: StepId
    is_asked: bool = True


@router.post("/api/drafts/{id}/versions/{number}", response_model=Shown)
@in_lane(QUESTIONS)
def show_version(
    number: int, asked: VersionIn, draft: DraftDep, server: ServerDep, connection: ConnectionDep,
    question: QuestionName = None,
) -> Response:  # fmt: skip
    """Takes a step to the analysis as it was saved: on the trail it can be compared with the others, and left again."""
    reader = draft.reader
    person, caption = reader.person.id, reader.shelved.model.caption
    analysis = analysis_seen_by(connection, person, draft.draft.analysis or "")
    version = version_of(connection, analysis.id, number)
    document, veils = veil(read_analysis(version.document), reader, connection)
    with server.questions.asked(person, question) as watch, server.admission.running(person, watch, caption):
        words = f"version {number}, as {version.saved_by or 'somebody'} saved it"
        shown = show(document, words, reader, server.answers, watch, asked.is_asked)
    kept = DraftStep(asked.id, asked.parent, words, shown.text, write_analysis(shown.document).decode())

    def keep(records: sqlite3.Connection) -> None:
        keep_veils(records, veils)
        keep_step(records, draft.draft.id, kept, now())

    server.keeper.keep(draft.draft.id, kept.id, keep)
    return Response(orjson.dumps(shown), media_type="application/json")


@router.put("/api/drafts/{id}/steps/{step_id}/name", status_code=204)
def name(step_id: str, asked: StepName, draft: OwnDraftDep, server: ServerDep) -> None:
    server.keeper.keep(draft.id, "", lambda records: name_step(records, draft.id, step_id, asked.name)).result()


@router.get("/api/drafts/{id}/steps/{step_id}/kept", status_code=204)
async def is_kept(step_id: str, draft: OwnDraftDep, server: ServerDep) -> None:
    """Answers once it is known whether a step is on the disk; says why not where it is not."""
    asked = server.keeper.asked(draft.id, step_id)
    if asked is not None:
        await asyncio.wait([asyncio.wrap_future(asked)])
        if asked.exception() is None:
            return
    # What failed may have been sent twice, and is on the disk from before.
    if not await run_in_threadpool(_is_kept, server, draft.id, step_id):
        unkept = NotFoundError(
            "This step is not kept.", "It is sent again from the page that took it.", code="not-kept"
        )
        raise server.keeper.failure(draft.id, step_id) or unkept


def _is_kept(server: Server, draft: str, step: str) -> bool:
    server.keeper.settle()
    with server.connections.using() as connection:
        return has_step(connection, draft, step)


class UnkeptStep(BaseModel):
    """A step that was answered and not kept, as its page has it."""

    id: StepId
    parent: StepId | None
    words: Annotated[str, StringConstraints(max_length=1_000)]
    document: Analysis


class TrailIn(BaseModel):
    """Steps to keep, each after the one that it was taken from, and the step to show."""

    steps: Annotated[list[UnkeptStep], Field(max_length=500)]
    shown: StepId


@router.put("/api/drafts/{id}/trail", status_code=204, max_body_size=16 * 2**20)
def keep_trail(asked: TrailIn, draft: DraftDep, server: ServerDep) -> None:
    """Keeps steps that could not be kept when they were taken, and answers once they are on the disk."""
    id = draft.draft.id
    steps = [
        DraftStep(each.id, each.parent, each.words, _text(each.document, draft.reader),
                  write_analysis(each.document).decode())
        for each in asked.steps
    ]  # fmt: skip

    def keep(records: sqlite3.Connection) -> None:
        for each in steps:
            keep_step(records, id, each, now())
        move_draft(records, id, asked.shown, now())

    server.keeper.keep(id, asked.shown, keep).result()


class CompareIn(BaseModel):
    before: Analysis
    after: Analysis


@dataclass(frozen=True, slots=True)
class Compared:
    """What differs in the documents and in the numbers. No numbers where an answer is too large to compare."""

    differences: tuple[Difference, ...]
    numbers: ComparedNumbers | None


@router.post("/api/drafts/{id}/compare")
@in_lane(QUESTIONS)
def compare(asked: CompareIn, draft: DraftDep, server: ServerDep) -> Compared:
    reader = draft.reader
    for each in (asked.before, asked.after):
        check_document(each, reader.shelved.model)
    found = differences(asked.before, asked.after, reader.shelved.model, reader.members)
    one, other = (
        server.answers.ask(each, reader.shelved, reader.rights, Watch())[1] for each in (asked.before, asked.after)
    )
    return Compared(found, compare_answers(one, other))


def _opened(connection: sqlite3.Connection, draft: Draft, reader: Reader) -> OpenDraft:
    steps = tuple(
        TrailStep(each.id, each.parent, each.words, each.name, read_analysis(each.document))
        for each in steps_of(connection, draft.id)
    )
    opened = None
    if draft.analysis is not None and draft.analysis_version is not None:
        try:
            saved = analysis_seen_by(connection, reader.person.id, draft.analysis)
            opened = OpenedAnalysis(
                saved.id, saved.name, saved.description, saved.folder, saved.owner, saved.owner_name,
                draft.analysis_version, saved.may, saved.frozen,
            )  # fmt: skip
        except AppError:
            opened = None  # no longer shared: the draft stays, as a draft of nothing
    # Never without the step that it shows: the latest stands in for one that was not kept.
    shown = draft.shown_step if any(each.id == draft.shown_step for each in steps) else steps[-1].id
    return OpenDraft(
        draft.id, draft.model, reader.shelved.model.caption, analysis_of(draft.model), steps, shown, draft.saved_step,
        opened, draft.updated_at,
    )  # fmt: skip


def _text(document: Analysis, reader: Reader) -> str:
    """The sentence of what the model can still answer; the workspace says what is gone."""
    try:
        return sentence_of(fitted(document, reader.model)[0], reader.shelved.model, reader.members, reader.seen_as).text
    except AppError:
        return ""
