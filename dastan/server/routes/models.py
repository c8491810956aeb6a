"""Models: their catalogue, their members, and where things may land."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import orjson
from fastapi import APIRouter, Query
from pydantic import BaseModel, StringConstraints

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.offer import Offer, Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError
from dastan.core.model.parts import MemberPath
from dastan.core.words.reading import Reading, read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.written import write_question
from dastan.server.catalogue import Catalogue, catalogue_of
from dastan.server.context import ConnectionDep, PersonDep, ServerDep, reader_of
from dastan.server.member_list import MemberPage, children_of, search_members

router = APIRouter(prefix="/api/models", tags=["models"])


class OffersIn(BaseModel):
    document: Analysis
    thing: Thing


@dataclass(frozen=True, slots=True)
class Offers:
    offers: tuple[Offer, ...]


@router.get("/{model}/catalogue")
def catalogue(model: str, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> Catalogue:
    shelved = server.shelf.get(model)
    return catalogue_of(shelved, not reader_of(person, shelved, connection).rights.rules)


@router.get("/{model}/members")
def members(
    model: str,
    dimension: str,
    hierarchy: str,
    server: ServerDep,
    connection: ConnectionDep,
    person: PersonDep,
    path: Annotated[str, Query(description="The parent's keys as a JSON array.")] = "[]",
    search: str = "",
    start: Annotated[int, Query(ge=0)] = 0,
) -> MemberPage:
    shelved = server.shelf.get(model)
    found = find_dimension(shelved.model, dimension)
    listed = reader_of(person, shelved, connection).members(dimension, find_hierarchy(found, hierarchy).name)
    return search_members(listed, search) if search.strip() else children_of(listed, _path(path), start)


@router.post("/{model}/offers")
def offers(model: str, asked: OffersIn, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> Offers:
    shelved = server.shelf.get(model)
    return Offers(
        offers_for(asked.document, asked.thing, shelved.model, reader_of(person, shelved, connection).members)
    )


class WordsIn(BaseModel):
    text: Annotated[str, StringConstraints(max_length=20_000)]


@dataclass(frozen=True, slots=True)
class Written:
    """A question in words that can be read back."""

    text: str


@router.post("/{model}/words/read")
def read_words(model: str, asked: WordsIn, server: ServerDep, connection: ConnectionDep, person: PersonDep) -> Reading:
    shelved = server.shelf.get(model)
    reader = reader_of(person, shelved, connection)
    return read_question(asked.text, Vocabulary(shelved.model, reader.members))


@router.post("/{model}/words/write")
def write_words(
    model: str, document: Analysis, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> Written:
    shelved = server.shelf.get(model)
    check_document(document, shelved.model)
    vocabulary = Vocabulary(shelved.model, reader_of(person, shelved, connection).members)
    return Written(write_question(document.question, vocabulary))


def _path(text: str) -> MemberPath:
    try:
        keys = orjson.loads(text)
    except orjson.JSONDecodeError as exc:
        raise InputError("A member's path is a JSON array of keys.", "Reload the list of members.") from exc
    if not isinstance(keys, list) or any(isinstance(key, list | dict) for key in keys):
        raise InputError("A member's path is a JSON array of keys.", "Reload the list of members.")
    return tuple(keys)
