"""Feeds: saved analyses and models as current data for other programs, at addresses that stay."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, PlainTextResponse
from starlette.responses import Response

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import AnswerPrompt, apply_gesture
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.prompts import prompts_of
from dastan.core.analysis.sentence import sentence_of
from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, NotFoundError, did_you_mean
from dastan.core.model.conditions import Prompt, PromptAnswer
from dastan.core.model.parts import Key, MemberPath
from dastan.core.words.asked import document_of
from dastan.core.words.vocabulary import Vocabulary
from dastan.documents.read import read_analysis
from dastan.exports.flat import FlatTable, digits_of
from dastan.exports.kinds import FeedKind, FeedPart
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import FedAnalysis, FedAnalysisDep, FedModelDep, FeederDep
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.parts import table_of, write_part
from dastan.server.readers import Reader, places_for, reader_for_saved
from dastan.server.routes.session import address_of
from dastan.server.routes.taking import MEDIA
from dastan.server.veil import unveil, veil
from dastan.server.whole_files import whole_file

router = APIRouter(prefix="/feeds", tags=["feeds"], route_class=BoundedRoute)

ADDRESSES = (
    "numbers.csv", "numbers.arrows", "numbers.parquet", "table.csv", "table.html", "table.xlsx", "table.ods",
    "table.pdf", "cell",
)  # fmt: skip
LONGEST_SENTENCE = 2_000
"""A question in words that stands in an address."""
Sentence = Annotated[str, Query(min_length=1, max_length=LONGEST_SENTENCE)]


@dataclass(frozen=True, slots=True)
class FedPrompt:
    """A question that an analysis asks: it is answered in the address, as `?name=answer`."""

    name: str
    caption: str
    type: Literal["text", "number", "date", "members"]


@dataclass(frozen=True, slots=True)
class Feed:
    """What a program can read of an analysis, and where."""

    name: str
    sentence: str
    model: str
    data_to: str | None
    prompts: tuple[FedPrompt, ...]
    columns: tuple[str, ...]
    """The columns of its numbers: levels, then measures; not told before what it asks is answered."""
    addresses: tuple[str, ...]


@router.get("/analyses/{id}")
async def describe(fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request) -> Feed:
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_described, fed, reader, server, connection)


def _described(fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep) -> Feed:
    document = _analysis(fed, reader, connection)
    model = with_made(reader.shelved.model, document)
    start = f"/feeds/analyses/{fed.saved.id}"
    try:
        table = table_of(document, reader, server, Watch())
        flat = table.flat()
        columns, newest = (*flat.labels, *flat.measures), table.newest
    except InputError as error:
        if error.code != "prompt-unanswered":
            raise
        columns, newest = (), None  # it asks first, which is told here
    return Feed(
        fed.saved.name,
        sentence_of(document, model, reader.members_of(document), reader.seen_as).text,
        model.name,
        newest,
        tuple(FedPrompt(each.name, each.caption, each.type) for each in prompts_of(document.question, model)),
        columns,
        tuple(f"{start}/{each}" for each in ADDRESSES),
    )


@router.get("/analyses/{id}/{part}.{kind}", response_class=FileResponse)
async def read(
    part: FeedPart, kind: FeedKind, fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep,
    request: Request,
) -> Response:  # fmt: skip
    """An analysis as it is now, on fresh data, as far as its person may see. The address answers its questions."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_read, part, kind, fed, reader, server, connection, request)


def _read(
    part: FeedPart, kind: FeedKind, fed: FedAnalysis, reader: Reader, server: Server, connection: ConnectionDep,
    request: Request,
) -> Response:  # fmt: skip
    document = fed_document(fed, reader, connection, request)
    with transaction(connection):
        about = f"“{fed.saved.name}”, {part}.{kind}"
        note_event(connection, now(), "fed", fed.person.id, about, address_of(request), item=fed.saved.id)
    return _written(document, part, kind, reader, server)


@router.get("/analyses/{id}/cell", response_class=PlainTextResponse)
async def cell(
    fed: FedAnalysisDep, server: ServerDep, connection: ConnectionDep, request: Request, measure: str | None = None
) -> PlainTextResponse:
    """One number with all its digits, by the members that it stands in: `?Mode=Ferry&Year=2025&measure=Boardings`.
    Blank where there is none."""
    reader = await reader_for_saved(fed.person, server, connection, fed.saved)
    return await QUESTIONS.run(_cell, fed, measure, reader, server, connection, request)


def _cell(
    fed: FedAnalysis, measure: str | None, reader: Reader, server: Server, connection: ConnectionDep, request: Request
) -> PlainTextResponse:
    document = _analysis(fed, reader, connection)
    known = _prompts(document, reader)
    # What is no question of the analysis names a member, by its level.
    wanted = {key.casefold(): value for key, value in request.query_params.items() if key not in known}
    wanted.pop("measure", None)
    document = _answering(document, reader, request, {*known})
    flat = table_of(document, reader, server, Watch()).flat()
    if unknown := [each for each in wanted if each not in {label.casefold() for label in flat.labels}]:
        hint = did_you_mean(unknown[0], (*flat.labels, *known)) or f"It has {', '.join(flat.labels)}."
        raise InputError(f"It has no level and asks nothing that is called “{unknown[0]}”.", hint)
    return PlainTextResponse(digits_of(_value(flat, wanted, measure)))


def _value(flat: FlatTable, wanted: dict[str, str], measure: str | None) -> object:
    """The one number that stands in some members, by their levels' names. Raises NotFoundError, InputError."""
    names = [each.casefold() for each in flat.measures]
    if measure is not None and measure.casefold() not in names:
        raise NotFoundError(f"It shows no measure “{measure}”.", did_you_mean(measure, flat.measures))
    at = names.index(measure.casefold()) if measure is not None else 0
    asked = [wanted.get(each.casefold()) for each in flat.labels]
    found = []
    for labels, values in flat.rows(Watch()):
        pairs = zip(asked, labels, strict=True)
        if all(value is None or str(label or "").casefold() == value.casefold() for value, label in pairs):
            found.append(values[at])
        if len(found) > 1:
            left = [each for each, value in zip(flat.labels, asked, strict=True) if value is None]
            raise InputError("Several numbers stand there.", f"Say which {' and which '.join(left)}.")
    if not found:
        raise NotFoundError("No number stands there.", f"Name members of {', '.join(flat.labels) or 'what it shows'}.")
    return found[0]


@dataclass(frozen=True, slots=True)
class FedModel:
    """A model that can be asked."""

    name: str
    caption: str


@router.get("/models")
def models(feeder: FeederDep, server: ServerDep, connection: ConnectionDep) -> list[FedModel]:
    """The models that can be asked; none of them by a token of one analysis."""
    places = places_for(feeder.person, server, connection) if feeder.item is None else []
    return [FedModel(each.name, each.caption) for each in places]


@router.get("/models/{model}/{part}.{kind}", response_class=FileResponse)
@in_lane(QUESTIONS)
def ask(part: FeedPart, kind: FeedKind, sentence: Sentence, reader: FedModelDep, server: ServerDep) -> Response:
    """A model asked in words: `?sentence=boardings by mode against quarter for 2025`."""
    document = document_of(sentence, Vocabulary(reader.shelved.model, reader.members))
    return _written(document, part, kind, reader, server)


@router.post("/models/{model}/{part}.{kind}", response_class=FileResponse)
@in_lane(QUESTIONS)
def ask_document(
    part: FeedPart, kind: FeedKind, document: Analysis, reader: FedModelDep, server: ServerDep,
    connection: ConnectionDep,
) -> Response:  # fmt: skip
    """A model asked by an analysis document."""
    whole = unveil(document, reader, connection)
    check_document(whole, reader.shelved.model)
    return _written(whole, part, kind, reader, server)


def fed_document(
    fed: FedAnalysis, reader: Reader, connection: ConnectionDep, request: Request, beside: str | None = None
) -> Analysis:
    """The saved analysis with the answers that stand in the address, in which nothing else may stand but what begins
    with `beside`."""
    asked = {each for each in request.query_params if beside is None or not each.startswith(beside)}
    return _answering(_analysis(fed, reader, connection), reader, request, asked)


def _analysis(fed: FedAnalysis, reader: Reader, connection: ConnectionDep) -> Analysis:
    document, _ = fitted(read_analysis(fed.saved.document), reader.model)
    return veil(document, reader, connection)[0]


def _prompts(document: Analysis, reader: Reader) -> dict[str, Prompt]:
    """What a document asks, by name."""
    return {each.name: each for each in prompts_of(document.question, with_made(reader.shelved.model, document))}


def _answering(document: Analysis, reader: Reader, request: Request, names: set[str]) -> Analysis:
    """A document with its questions of these names answered as an address says. Raises InputError for a name that is
    none of them."""
    known = _prompts(document, reader)
    for name in sorted(names & {*request.query_params.keys()}):
        if name not in known:
            hint = did_you_mean(name, known) or "Look at the feed itself for what it asks."
            raise InputError(f"It asks nothing that is called “{name}”.", hint)
        given = _given(known[name], request.query_params.getlist(name), reader)
        document = apply_gesture(document, AnswerPrompt(answer=given), reader.shelved.model)
    return document


def _given(prompt: Prompt, texts: list[str], reader: Reader) -> PromptAnswer:
    if prompt.type == "members":
        own = (prompt.dimension or "", prompt.hierarchy or "")
        return PromptAnswer(prompt=prompt.name, members=tuple(_path(each.split("/"), own, reader) for each in texts))
    if prompt.type == "number":
        return PromptAnswer(prompt=prompt.name, values=tuple(_number(each, prompt) for each in texts))
    return PromptAnswer(prompt=prompt.name, values=tuple(texts))


def _number(text: str, prompt: Prompt) -> Key:
    try:
        value = float(text)
    except ValueError as exc:
        raise InputError(f"“{text}” is no number, which “{prompt.caption}” asks for.", "Write it with digits.") from exc
    return int(value) if value.is_integer() else value


def _path(parts: list[str], own: tuple[str, str], reader: Reader) -> MemberPath:
    """The keys that parts of an address mean: as texts or, where no member has them so, as numbers."""
    members = reader.members(*own)
    path: MemberPath = ()
    for part in parts:
        keys: Iterable[Key] = (part, int(part)) if part.lstrip("-").isdecimal() else (part,)
        key = next((each for each in keys if members.find((*path, each)) is not None), part)
        path = (*path, key)
    return path


def _written(document: Analysis, part: FeedPart, kind: FeedKind, reader: Reader, server: Server) -> Response:
    def write(file: Path) -> None:
        write_part(document, reader, server, file, part, kind, f"a feed of {reader.shelved.model.caption}", Watch())

    return whole_file(f"{part}.{kind}", "text/plain; charset=utf-8" if kind == "txt" else MEDIA[kind], write)
