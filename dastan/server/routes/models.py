"""Models: their catalogue, their members, and where things may land."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

import orjson
from fastapi import APIRouter, Query
from pydantic import BaseModel

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.offer import Offer, Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError
from dastan.core.model.parts import MemberPath
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


def _path(text: str) -> MemberPath:
    try:
        keys = orjson.loads(text)
    except orjson.JSONDecodeError as exc:
        raise InputError("A member's path is a JSON array of keys.", "Reload the list of members.") from exc
    if not isinstance(keys, list) or any(isinstance(key, list | dict) for key in keys):
        raise InputError("A member's path is a JSON array of keys.", "Reload the list of members.")
    return tuple(keys)
