"""Changing a model: its draft step by step, what is seen of its tables meanwhile, and its publication."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.analysis.condition_words import list_words, told_of_records
from dastan.core.analysis.document import Analysis, PlacedMeasure, Question
from dastan.core.analysis.moving import MovedKind
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.analysis.taken_joints import joint_words
from dastan.core.engine.seen import Seen
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, InputError, SourceError
from dastan.core.language.of_models import written_formulas
from dastan.core.model.conditions import Condition
from dastan.core.model.document import SemanticModel
from dastan.core.model.gestures import ModelGesture, PutMeasure, Tie
from dastan.core.model.offers import ModelOffer, offers
from dastan.core.model.parts import MemberPath
from dastan.core.reading.beside import Asking, Beside, beside, whole
from dastan.core.reading.window import Number
from dastan.documents.read import read_model
from dastan.exports.number_format import NumberFormat, number_format
from dastan.records.database import transaction
from dastan.records.modelling import (
    ModelVersion,
    PlanPlace,
    analyses_of_model,
    discard_model_draft,
    model_version,
    model_versions,
    offer_again,
    plan_places,
    put_plan_places,
    refuse_offer,
    refused_offers,
)
from dastan.records.readings import KeptReading, readings_of
from dastan.server.access import Shaped, ShapedDep
from dastan.server.asked_model import files_since
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.member_list import ListedMember, children_of, search_members
from dastan.server.modelling import drafts
from dastan.server.modelling.drafts import OpenDraft, open_draft
from dastan.server.modelling.publishing import Changes, changes_of, publish
from dastan.server.questions import QuestionName
from dastan.server.readers import rights_in_roles
from dastan.sources.folders.tables_looked_at import CommonValue, TableLook, TieLook

router = APIRouter(prefix="/api/modelling", tags=["modelling"], route_class=BoundedRoute)

_LONGEST_DOCUMENT = 500_000
_LARGEST_STEP = 2**20


@dataclass(frozen=True, slots=True)
class ShownModelStep:
    """A step of the draft. `parent` is the one that it was taken from; none for what was in use."""

    id: str
    parent: str | None
    words: str
    person: str | None
    at: str


@dataclass(frozen=True, slots=True)
class ShapedModel:
    """A model that is being changed, as its draft is shown."""

    model: SemanticModel
    steps: tuple[ShownModelStep, ...]
    shown: str | None
    """The step that is shown; none for what is in use."""
    is_stale: bool
    """Whether another document is in use than the draft was begun from."""
    version: int
    """The number of the version that is in use; 0 before anything was published."""
    analyses: int
    """How many saved analyses ask the model."""
    places: tuple[PlanPlace, ...]
    """Where somebody has put tables on the plan."""
    formulas: dict[str, str]
    """The formulas of measures as text, by measure; of one that names members there is none."""


def _shaped(draft: OpenDraft, connection: sqlite3.Connection) -> ShapedModel:
    model = draft.model()
    versions = model_versions(connection, model.name)
    steps = tuple(ShownModelStep(each.id, each.parent, each.words, each.person_name, each.at) for each in draft.steps)
    return ShapedModel(
        model, steps, draft.shown, draft.is_stale, versions[0].number if versions else 0,
        len(analyses_of_model(connection, model.name)), tuple(plan_places(connection, model.name)),
        written_formulas(model),
    )  # fmt: skip


@router.get("/{model}")
def shaped(asked: ShapedDep, connection: ConnectionDep) -> ShapedModel:
    return _shaped(open_draft(connection, asked.written), connection)


class GestureIn(BaseModel):
    """A gesture, and the step that it was made on."""

    gesture: Annotated[ModelGesture, Field(discriminator="kind")]
    shown: str | None = None
    formula: Annotated[str, StringConstraints(max_length=20_000)] | None = None
    """Of a gesture that puts a measure: its formula as text, read by the model that it is put into."""


@router.post("/{model}/steps", max_body_size=_LARGEST_STEP)
@in_lane(QUESTIONS)
def take_step(sent: GestureIn, asked: ShapedDep, server: ServerDep, connection: ConnectionDep) -> ShapedModel:
    """Takes a step, which is kept. A tie to a table that nothing describes yet makes its dimension."""
    gesture = sent.gesture
    if isinstance(gesture, Tie) and gesture.dimension is None:
        gesture = _with_dimension(gesture, asked, server, connection)
    asked.written.read()  # what takes long is done before anybody else's writing waits for it
    with transaction(connection):
        draft = open_draft(connection, asked.written)
        if sent.formula is not None and isinstance(gesture, PutMeasure):
            gesture = drafts.with_formula_text(draft, gesture, sent.formula)
        drafts.take_step(connection, draft, gesture, sent.shown, asked.person.id)
    return _shaped(open_draft(connection, asked.written), connection)


def _with_dimension(tie: Tie, asked: Shaped, server: Server, connection: sqlite3.Connection) -> Tie:
    """A tie with the dimension that its table speaks for, where it has none by a key."""
    draft = open_draft(connection, asked.written).model()
    is_described = any(each.table == tie.to_table and each.key is not None for each in draft.dimensions)
    if tie.to_table not in draft.tables or is_described:
        return tie
    with server.admission.running(asked.person.id, watch := Watch(), "a look at tables"):
        made = server.workbench.bench(asked.written.folder).described(draft, tie.to_table, tie.to_column, watch)
    return replace(tie, dimension=made)


class MovedIn(BaseModel):
    """An analysis, and what of it goes into its model."""

    document: Analysis
    kind: MovedKind
    name: Annotated[str, StringConstraints(max_length=200)]


@router.post("/{model}/moved", status_code=204, max_body_size=_LARGEST_STEP)
@in_lane(QUESTIONS)
def move(sent: MovedIn, asked: ShapedDep, connection: ConnectionDep) -> None:
    """Puts what an analysis makes into the model's draft: every analysis has it once that is published."""
    with transaction(connection):
        draft = open_draft(connection, asked.written)
        drafts.take_moved(connection, draft, sent.document, sent.kind, sent.name, asked.person.id)


class ShownIn(BaseModel):
    """The step to be shown; none for what is in use."""

    step: str | None = None


@router.put("/{model}/shown")
def show_step(sent: ShownIn, asked: ShapedDep, connection: ConnectionDep) -> ShapedModel:
    """Shows another step: one before undoes, one behind does again."""
    with transaction(connection):
        drafts.show(connection, open_draft(connection, asked.written), sent.step)
    return _shaped(open_draft(connection, asked.written), connection)


@router.delete("/{model}/draft")
def discard(asked: ShapedDep, connection: ConnectionDep) -> ShapedModel:
    """Forgets the draft: the model is as it is in use."""
    with transaction(connection):
        discard_model_draft(connection, drafts.name_in(asked.written))
    return _shaped(open_draft(connection, asked.written), connection)


@dataclass(frozen=True, slots=True)
class ModelAsText:
    """The draft as YAML."""

    text: str


@router.get("/{model}/text")
@in_lane(QUESTIONS)
def text(asked: ShapedDep, connection: ConnectionDep) -> ModelAsText:
    return ModelAsText(open_draft(connection, asked.written).text())


class TextIn(BaseModel):
    """What somebody wrote, and the step that they began from."""

    text: Annotated[str, StringConstraints(max_length=_LONGEST_DOCUMENT)]
    shown: str | None = None


@router.put("/{model}/text", max_body_size=4 * _LONGEST_DOCUMENT)
@in_lane(QUESTIONS)
def change_text(sent: TextIn, asked: ShapedDep, connection: ConnectionDep) -> ShapedModel:
    """Takes a step in the text, once it has no fault."""
    read_model(sent.text, asked.written.file.name)  # read once; before anybody else's writing waits for it
    with transaction(connection):
        drafts.take_text(connection, open_draft(connection, asked.written), sent.text, sent.shown, asked.person.id)
    return _shaped(open_draft(connection, asked.written), connection)


@dataclass(frozen=True, slots=True)
class BenchLook:
    """What is seen of the tables as the draft reads them, and what they speak for that it does not have."""

    tables: tuple[TableLook, ...]
    ties: tuple[TieLook, ...]
    offers: tuple[ModelOffer, ...]
    refused: int
    """So many offers are not wanted."""


@router.get("/{model}/tables")
@in_lane(QUESTIONS)
def tables(asked: ShapedDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None) -> BenchLook:
    """Looks at every table: its columns over all records, its ties, what is proposed of them."""
    draft = open_draft(connection, asked.written).model()
    bench = server.workbench.bench(asked.written.folder)
    with (
        server.questions.asked(asked.person.id, question) as watch,
        server.admission.running(asked.person.id, watch, "a look at tables"),
    ):
        looks, ties = bench.looks(draft, watch), bench.ties(draft, watch)
        try:
            found = offers(draft, bench.proposed(draft, watch))
        except AppError:  # a table that cannot be read says so where it stands
            found = ()
    refused = refused_offers(connection, draft.name)
    wanted = tuple(each for each in found if each.key not in refused)
    return BenchLook(looks, ties, wanted, len(found) - len(wanted))


@router.get("/{model}/tables/{table}/columns/{column}")
@in_lane(QUESTIONS)
def common_values(
    table: str, column: str, asked: ShapedDep, server: ServerDep, connection: ConnectionDep
) -> tuple[CommonValue, ...]:
    """The values of a column that most records have; none of one that cannot be read, which the look at it says."""
    draft = open_draft(connection, asked.written).model()
    with server.admission.running(asked.person.id, Watch(), "a look at a column"):
        try:
            return server.workbench.bench(asked.written.folder).common_values(draft, table, column)
        except SourceError:
            return ()


class OfferIn(BaseModel):
    """An offer by its key; none for all that were refused."""

    key: Annotated[str, StringConstraints(max_length=1_000)] | None = None


@router.post("/{model}/offers/refused", status_code=204)
def refuse(sent: OfferIn, asked: ShapedDep, connection: ConnectionDep) -> None:
    """Offers something no more; without a key, all that was refused is offered again."""
    name = drafts.name_in(asked.written)
    with transaction(connection):
        if sent.key is None:
            offer_again(connection, name)
        else:
            refuse_offer(connection, name, sent.key)


class PlacesIn(BaseModel):
    """Where tables stand on the plan; none of them for a plan that is drawn by itself."""

    places: Annotated[list[PlanPlace], Field(max_length=500)]


@router.put("/{model}/places", status_code=204)
def put_places(sent: PlacesIn, asked: ShapedDep, connection: ConnectionDep) -> None:
    name = drafts.name_in(asked.written)
    with transaction(connection):
        put_plan_places(connection, name, {each.table: each for each in sent.places}.values())


class TrialIn(BaseModel):
    """Members of the draft below a path, or those that a search finds, with a measure beside them, as they will open.
    With a role, as its people would see them."""

    dimension: str
    hierarchy: str
    path: MemberPath = ()
    start: Annotated[int, Field(ge=0)] = 0
    search: Annotated[str, StringConstraints(max_length=1_000)] = ""
    measure: str | None = None
    role: str | None = None


@dataclass(frozen=True, slots=True)
class Trial:
    """Members as they will open, and the measure's value over all that is seen."""

    members: tuple[ListedMember, ...]
    count: int
    without_records: int
    """The last of them have none."""
    total: Number
    format: NumberFormat | None
    is_reached: bool
    """Whether the measure can be seen by the dimension."""


@router.post("/{model}/trial")
@in_lane(QUESTIONS)
def trial(
    sent: TrialIn, asked: ShapedDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None
) -> Trial:
    """Asks the draft, before it is published."""
    draft = open_draft(connection, asked.written).model()
    with (
        server.questions.asked(asked.person.id, question) as watch,
        server.admission.running(asked.person.id, watch, "a model on trial"),
    ):
        asking, seen = _asking(draft, asked, server, sent.role, watch)
        members = seen.members(
            sent.dimension, find_hierarchy(find_dimension(asking.model, sent.dimension), sent.hierarchy).name
        )
        document = Analysis(
            dastan="analysis/1", model=draft.name,
            question=Question(measures=(PlacedMeasure(measure=sent.measure),) if sent.measure else ()),
        )  # fmt: skip

        def beside_level(level: str) -> Beside | None:
            return beside(document, sent.dimension, sent.hierarchy, level, asking)

        is_reached = sent.measure is None or (bool(members.levels) and beside_level(members.levels[0].name) is not None)
        if sent.search.strip():
            page = search_members(members, sent.search, beside_level)
        else:
            page = children_of(members, sent.path, sent.start, beside_level)
        total = whole(document, asking) if sent.measure else None
    pattern = draft.measure(sent.measure).format if sent.measure else None
    return Trial(
        page.members, page.count, page.without_records, total, number_format(pattern) if pattern else None, is_reached
    )


def _asking(draft: SemanticModel, asked: Shaped, server: Server, role: str | None, watch: Watch) -> tuple[Asking, Seen]:
    shelved = server.workbench.tried(asked.written.folder, draft, watch)
    if role is not None and all(each.name != role for each in draft.roles):
        raise InputError("There is no such role.", "Choose one of the model's roles.")
    rights = rights_in_roles(asked.person, (role,) if role is not None else (), shelved)
    asking = Asking(shelved.model, shelved.source, rights, date.today(), shelved.group, server.settings.budget)
    return asking, Seen(shelved.model, shelved.source, rights, shelved.group)


@dataclass(frozen=True, slots=True)
class ConditionsInWords:
    """What conditions of the draft keep, by the part that has them: each in words, in their order; and what its lists
    and joint members hold."""

    filters: dict[str, tuple[str, ...]]
    roles: dict[str, tuple[str, ...]]
    measures: dict[str, tuple[str, ...]]
    lists: dict[str, str]
    joints: dict[str, str]


@router.get("/{model}/conditions")
@in_lane(QUESTIONS)
def conditions(asked: ShapedDep, server: ServerDep, connection: ConnectionDep) -> ConditionsInWords:
    """The conditions of ready-made filters, roles and measures in words, with members as they are called."""
    draft = open_draft(connection, asked.written).model()
    with server.admission.running(asked.person.id, Watch(), "a model on trial"):
        asking, seen = _asking(draft, asked, server, None, Watch())

        def told(parts: tuple[Condition, ...]) -> tuple[str, ...]:
            return tuple(told_of_records(each, asking.model, seen.members) for each in parts)

        return ConditionsInWords(
            {each.name: told((each.condition,)) for each in draft.filters},
            {each.name: told(each.conditions) for each in draft.roles},
            {each.name: told(each.where) for each in draft.measures if each.where},
            {each.name: list_words(each, asking.model, seen.members) for each in draft.lists},
            {each.name: joint_words(each, seen.members) for each in draft.joints},
        )


@router.get("/{model}/changes")
@in_lane(QUESTIONS)
def changes(asked: ShapedDep, connection: ConnectionDep) -> Changes:
    """What the publication of the draft would change, in the model and in saved analyses."""
    return changes_of(connection, open_draft(connection, asked.written))


class PublishIn(BaseModel):
    """The step that is published, and the mark of the document in whose place it comes."""

    shown: str | None
    in_use: Annotated[str, StringConstraints(max_length=100)]


@router.post("/{model}/publish")
@in_lane(QUESTIONS)
def publish_draft(
    sent: PublishIn, asked: ShapedDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None
) -> ShapedModel:
    """Puts the draft in place of what is in use."""
    draft = open_draft(connection, asked.written)
    drafts.check_shown(draft, sent.shown)
    with (
        server.questions.asked(asked.person.id, question) as watch,
        server.admission.running(asked.person.id, watch, "a model to be published"),
        server.bringing.holding(drafts.name_in(asked.written)),
    ):
        publish(connection, draft, sent.in_use, asked.person, server.workbench, watch)
    server.shelf.look_again()
    return _shaped(open_draft(connection, drafts.reread(asked.written)), connection)


@dataclass(frozen=True, slots=True)
class Readings:
    """When a model's files were read, the last first, and what came of it. `since` is when the newest of those was
    written from which it answers now; `behind` says why newer ones could not be read, `is_reading` whether they are
    being read."""

    since: str | None
    behind: str
    is_reading: bool
    readings: tuple[KeptReading, ...]
    noticed: tuple[str, ...]
    """What was noticed in the files from which it answers."""


@router.get("/{model}/readings")
def readings(asked: ShapedDep, server: ServerDep, connection: ConnectionDep) -> Readings:
    name = drafts.name_in(asked.written)
    place = server.shelf.find(name)
    read = place.wait() if place is not None and place.is_open else None
    return Readings(
        files_since(read) if read is not None else None,
        str(place.behind or "") if place is not None else "",
        place is not None and not place.opening.done(),
        tuple(readings_of(connection, name)),
        tuple(str(each) for each in read.opened.notes) if read is not None else (),
    )


@router.post("/{model}/readings", status_code=202)
def read_files(asked: ShapedDep, server: ServerDep, connection: ConnectionDep) -> Readings:
    """Reads the model's files anew. What was read before answers until that is done."""
    place = server.shelf.find(drafts.name_in(asked.written))
    if place is not None:
        server.shelf.read_again(place)
    return readings(asked, server, connection)


@router.get("/{model}/versions")
def versions(asked: ShapedDep, connection: ConnectionDep) -> tuple[ModelVersion, ...]:
    """What was published, the newest first."""
    return tuple(model_versions(connection, drafts.name_in(asked.written)))


class VersionIn(BaseModel):
    """The step that is shown, from which an earlier version is gone back to."""

    shown: str | None = None


@router.post("/{model}/versions/{number}/back")
@in_lane(QUESTIONS)
def go_back(number: int, sent: VersionIn, asked: ShapedDep, connection: ConnectionDep) -> ShapedModel:
    """Takes a step to an earlier version: it is in use once it is published."""
    found = model_version(connection, drafts.name_in(asked.written), number)
    read_model(found, asked.written.file.name)
    with transaction(connection):
        draft = open_draft(connection, asked.written)
        drafts.take_text(connection, draft, found, sent.shown, asked.person.id, f"went back to version {number}")
    return _shaped(open_draft(connection, asked.written), connection)
