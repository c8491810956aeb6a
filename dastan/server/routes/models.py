"""Models: their catalogue, their members, and where things may land."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

import orjson
from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis, MadeMeasure
from dastan.core.analysis.gestures import Gesture, PutFilter, SetLimit, TakeFilter, apply_gesture
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.names import check_names
from dastan.core.analysis.offer import Offer, Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.resolve import check_level, find_dimension, find_hierarchy
from dastan.core.analysis.taken_joints import joint_words
from dastan.core.engine.seen import Seen
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError
from dastan.core.language.completing import Completions, complete
from dastan.core.model.document import ModelJoint
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import grain_of
from dastan.core.reading.beside import Asking, Beside, beside, count_shown
from dastan.core.reading.everything_made import MadeThing, everything_made
from dastan.core.reading.preview import Preview
from dastan.core.words.first_sentences import FirstSentence, first_sentences
from dastan.core.words.reading import Reading, read_question
from dastan.core.words.tried import tried
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.writing import write_words as words_of
from dastan.records.models import models_of
from dastan.server.access import ReaderDep, may_shape
from dastan.server.asked_model import ShelvedModel
from dastan.server.bodies import BoundedRoute
from dastan.server.catalogue import Catalogue, CatalogueJoint, catalogue_of
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.formulas import ReadFormula, preview_on_trial, read_on_trial, text_of_thing
from dastan.server.lanes import LOOKS, QUESTIONS, in_lane
from dastan.server.member_list import (
    MatchedList,
    MemberPage,
    children_of,
    match_members,
    members_below,
    search_members,
)
from dastan.server.questions import QuestionName
from dastan.server.readers import Reader
from dastan.server.workspace import Shown, show

router = APIRouter(prefix="/api/models", tags=["models"], route_class=BoundedRoute)


class OffersIn(BaseModel):
    document: Analysis
    thing: Thing


@dataclass(frozen=True, slots=True)
class Offers:
    offers: tuple[Offer, ...]


@router.get("/{model}/catalogue")
def catalogue(reader: ReaderDep, connection: ConnectionDep) -> Catalogue:
    opened = reader.shelved.opened if isinstance(reader.shelved, ShelvedModel) else None
    # Whoever does not see all records is told nothing of them all.
    tells_all = opened is not None and reader.sees_all
    model = reader.shelved.model
    notes = opened.notes if opened is not None and tells_all else ()
    is_own = any(each.name == model.name for each in models_of(connection, reader.person.id))
    shapes = opened is not None and may_shape(reader.person, connection, model.name)
    # A joint member is told as this reader may see it.
    joints = tuple(_joint(each, reader) for each in reader.model.joints)
    return catalogue_of(model, notes, joints, model.assumed if tells_all else (), is_own, shapes)


def _joint(joint: ModelJoint, reader: Reader) -> CatalogueJoint:
    dimension = find_dimension(reader.model, joint.dimension)
    return CatalogueJoint(joint.name, joint.caption, dimension.caption, joint_words(joint, reader.members))


class MembersIn(BaseModel):
    """Members of a hierarchy: below a path from number `start` on, all at a level below it, those that a search
    finds. With a document, its first measure stands beside them, under its other filters."""

    dimension: str
    hierarchy: str
    path: MemberPath = ()
    level: str | None = None
    search: str = ""
    start: Annotated[int, Field(ge=0)] = 0
    document: Analysis | None = None


class LinesIn(BaseModel):
    dimension: str
    hierarchy: str
    lines: Annotated[list[str], Field(max_length=50_000)]


class RemainingIn(BaseModel):
    """A gesture that is thought of, and the level whose members are counted."""

    document: Analysis
    gesture: Annotated[Gesture, Field(discriminator="kind")]
    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True)
class Remaining:
    """How many members of a level are shown now, and would be then."""

    before: int | None
    after: int | None


@router.post("/{model}/members")
@in_lane(QUESTIONS)
def members(asked: MembersIn, reader: ReaderDep, server: ServerDep) -> MemberPage:
    found = find_dimension(reader.shelved.model, asked.dimension)
    listed = reader.members_of(asked.document)(asked.dimension, find_hierarchy(found, asked.hierarchy).name)
    if asked.level is not None:
        check_level(found, find_hierarchy(found, asked.hierarchy), asked.level)
        return members_below(listed, asked.path, asked.level)
    asking = _asking(server, reader)

    def beside_level(level: str) -> Beside | None:
        if asked.document is None:
            return None
        try:
            with server.admission.running(reader.person.id, Watch(), reader.shelved.model.caption):
                return beside(asked.document, asked.dimension, asked.hierarchy, level, asking)
        except AppError:
            return None  # the list is there in any case; the question says itself what it lacks

    if asked.search.strip():
        return search_members(listed, asked.search, beside_level)
    return children_of(listed, asked.path, asked.start, beside_level)


@router.post("/{model}/members/match", max_body_size=4 * 2**20)
@in_lane(QUESTIONS)
def match(asked: LinesIn, reader: ReaderDep) -> MatchedList:
    found = find_dimension(reader.shelved.model, asked.dimension)
    return match_members(reader.members(asked.dimension, find_hierarchy(found, asked.hierarchy).name), asked.lines)


@router.post("/{model}/remaining")
@in_lane(QUESTIONS)
def remaining(asked: RemainingIn, reader: ReaderDep, server: ServerDep) -> Remaining:
    asking = _asking(server, reader)
    found = find_dimension(reader.shelved.model, asked.dimension)
    check_level(found, find_hierarchy(found, asked.hierarchy), asked.level)
    after = apply_gesture(asked.document, asked.gesture, reader.shelved.model)
    at = (asked.dimension, asked.hierarchy, asked.level)
    before = (
        apply_gesture(asked.document, lifted, reader.shelved.model)
        if (lifted := _lifted(asked.gesture))
        else asked.document
    )
    with server.admission.running(reader.person.id, Watch(), reader.shelved.model.caption):
        return Remaining(count_shown(before, *at, asking), count_shown(after, *at, asking))


def _lifted(gesture: Gesture) -> Gesture | None:
    """The gesture that lifts what another one changes, so that it is counted without either."""
    if isinstance(gesture, SetLimit):
        return replace(gesture, limit=None)
    return TakeFilter(at=gesture.at) if isinstance(gesture, PutFilter) and gesture.at is not None else None


def _asking(server: Server, reader: Reader) -> Asking:
    shelved = reader.shelved
    return Asking(shelved.model, shelved.source, reader.rights, shelved.today, shelved.group, server.settings.budget)


@router.post("/{model}/offers")
@in_lane(QUESTIONS)
def offers(asked: OffersIn, reader: ReaderDep) -> Offers:
    check_document(asked.document, reader.shelved.model)
    check_names(asked.thing, with_made(reader.shelved.model, asked.document))
    return Offers(offers_for(asked.document, asked.thing, reader.shelved.model, reader.members))


@dataclass(frozen=True, slots=True)
class AllMade:
    """All that is made, in an analysis and in its model."""

    things: tuple[MadeThing, ...]


@router.post("/{model}/made")
@in_lane(QUESTIONS)
def all_made(document: Analysis, reader: ReaderDep) -> AllMade:
    document, _ = fitted(document, reader.model)
    return AllMade(everything_made(document, reader.model, reader.members))


class WordsIn(BaseModel):
    """A question in words. Args: the document's made measures may be named."""

    text: Annotated[str, StringConstraints(max_length=20_000)]
    document: Analysis | None = None


@dataclass(frozen=True, slots=True)
class Written:
    """A question in words that can be read back."""

    text: str


@router.post("/{model}/words/read")
@in_lane(QUESTIONS)
def read_words(asked: WordsIn, reader: ReaderDep) -> Reading:
    model = reader.shelved.model
    if asked.document is None:
        return read_question(asked.text, Vocabulary(model, reader.members))
    extended = Vocabulary(with_made(model, asked.document), reader.members_of(asked.document))
    return tried(read_question(asked.text, extended), asked.document, model)


@router.post("/{model}/words/write")
@in_lane(QUESTIONS)
def write_words(document: Analysis, reader: ReaderDep) -> Written:
    check_document(document, reader.shelved.model)
    model = with_made(reader.shelved.model, document)
    return Written(words_of(document, Vocabulary(model, reader.members_of(document))))


@router.post("/{model}/answers", response_model=Shown)
@in_lane(QUESTIONS)
def answer(document: Analysis, reader: ReaderDep, server: ServerDep, question: QuestionName = None) -> Response:
    """The answer to a document by itself, whose handle serves windows, charts and files as a draft's does."""
    caption = reader.shelved.model.caption
    with (
        server.questions.asked(reader.person.id, question) as watch,
        server.admission.running(reader.person.id, watch, caption),
    ):
        return Response(orjson.dumps(show(document, "", reader, server.answers, watch)), media_type="application/json")


@router.get("/{model}/first-sentences")
@in_lane(QUESTIONS)
def begin_with(reader: ReaderDep, server: ServerDep) -> tuple[FirstSentence, ...]:
    """Sentences that a new analysis can begin with, and what they ask."""
    shelved = reader.shelved
    seen = Seen(shelved.model, shelved.source, reader.rights, shelved.group)
    with server.admission.running(reader.person.id, Watch(), shelved.model.caption):
        return first_sentences(
            Vocabulary(shelved.model, reader.members),
            lambda measure, calendar: seen.newest(grain_of(measure), calendar.name),
        )


class FormulaIn(BaseModel):
    """A formula as it is being written, for the table that a document shows. `name` is the made measure that it
    defines, where it is one already."""

    document: Analysis
    text: Annotated[str, StringConstraints(max_length=20_000)]
    name: Annotated[str, StringConstraints(max_length=200)] = ""


@router.post("/{model}/formula/read")
@in_lane(LOOKS)
def read_made(asked: FormulaIn, reader: ReaderDep) -> ReadFormula:
    return read_on_trial(asked.document, asked.text, asked.name, reader)


class CompleteIn(FormulaIn):
    cursor: Annotated[int, Field(ge=0)]


@router.post("/{model}/formula/complete")
@in_lane(LOOKS)
def complete_made(asked: CompleteIn, reader: ReaderDep) -> Completions:
    model = with_made(reader.shelved.model, asked.document)
    return complete(asked.text, asked.cursor, Vocabulary(model, reader.members_of(asked.document)))


@dataclass(frozen=True, slots=True)
class NameInFormula:
    """What a formula says of a thing."""

    text: str


@router.post("/{model}/formula/name")
@in_lane(LOOKS)
def name_in_formula(asked: OffersIn, reader: ReaderDep) -> NameInFormula:
    check_names(asked.thing, with_made(reader.shelved.model, asked.document))
    return NameInFormula(text_of_thing(asked.document, asked.thing, reader))


class PreviewIn(BaseModel):
    """A measure as it is being made, and the lines of the table around which it is looked at."""

    document: Analysis
    made: MadeMeasure
    row: Annotated[int, Field(ge=-1)] = -1
    column: Annotated[int, Field(ge=-1)] = -1


@router.post("/{model}/formula/preview")
@in_lane(QUESTIONS)
def preview_made(asked: PreviewIn, reader: ReaderDep, server: ServerDep) -> Preview:
    watch = Watch()
    with server.admission.running(reader.person.id, watch, reader.shelved.model.caption):
        return preview_on_trial(asked.document, asked.made, asked.row, asked.column, reader, server.answers, watch)
