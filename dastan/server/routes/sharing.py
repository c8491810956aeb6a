"""Sharing: who may do what with an analysis or a folder, and why; and what was done with it."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field, model_validator

from dastan.records import item_rights
from dastan.records.analyses import SavedAnalysis
from dastan.records.database import transaction
from dastan.records.events import events_of_item, note_event
from dastan.records.folders import Folder
from dastan.records.groups import all_groups
from dastan.records.item_rights import ItemGrant, Kind, May
from dastan.records.people import Person
from dastan.server.access import (
    PersonDep,
    SeenAnalysisDep,
    SeenFolderDep,
    colleagues_of,
    require_colleagues,
    require_groups,
    require_may,
)
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep
from dastan.server.routes.session import PersonOut, address_of

router = APIRouter(prefix="/api", tags=["sharing"], route_class=BoundedRoute)

HAPPENINGS = 40


@dataclass(frozen=True, slots=True)
class GroupName:
    """A group that things can be shared with."""

    id: str
    name: str
    people: int


@dataclass(frozen=True, slots=True)
class Sharing:
    """Who may do what with a thing. Its owner manages it; `granted` stands on the thing itself, and `from_above` comes
    from the folders that it lies in, the most that each has."""

    owner: str
    owner_name: str
    granted: tuple[ItemGrant, ...]
    from_above: tuple[ItemGrant, ...]


@dataclass(frozen=True, slots=True)
class Happening:
    """What somebody did with a thing, and when."""

    at: str
    kind: str
    person_name: str | None
    about: str


class GrantIn(BaseModel):
    """What a person or a group may do: one of the two is named."""

    person: str | None = None
    group: str | None = None
    may: May

    @model_validator(mode="after")
    def names_one(self) -> GrantIn:
        if (self.person is None) == (self.group is None):
            raise ValueError("name either a person or a group")
        return self


class GrantsIn(BaseModel):
    grants: Annotated[list[GrantIn], Field(max_length=1_000)]


@router.get("/people")
def people(connection: ConnectionDep, person: PersonDep) -> list[PersonOut]:
    return [PersonOut(id=each.id, name=each.name, sign_in=each.sign_in) for each in colleagues_of(person, connection)]


@router.get("/groups")
def groups(connection: ConnectionDep, person: PersonDep) -> list[GroupName]:
    return [GroupName(each.id, each.name, len(each.people)) for each in all_groups(connection)]


@router.get("/analyses/{id}/sharing")
def sharing_of_analysis(analysis: SeenAnalysisDep, connection: ConnectionDep) -> Sharing:
    return _sharing("item", analysis, analysis.folder, connection)


@router.put("/analyses/{id}/sharing")
def share_analysis(
    asked: GrantsIn, analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep, request: Request
) -> Sharing:
    """Makes just these the grants on the analysis itself."""
    _share("item", analysis, asked.grants, person, connection, address_of(request))
    return _sharing("item", analysis, analysis.folder, connection)


@router.get("/folders/{id}/sharing")
def sharing_of_folder(folder: SeenFolderDep, connection: ConnectionDep) -> Sharing:
    return _sharing("folder", folder, folder.parent, connection)


@router.put("/folders/{id}/sharing")
def share_folder(
    asked: GrantsIn, folder: SeenFolderDep, connection: ConnectionDep, person: PersonDep, request: Request
) -> Sharing:
    """Makes just these the grants on the folder itself; they hold for all within it."""
    _share("folder", folder, asked.grants, person, connection, address_of(request))
    return _sharing("folder", folder, folder.parent, connection)


@router.get("/analyses/{id}/happenings")
def happenings(analysis: SeenAnalysisDep, connection: ConnectionDep) -> list[Happening]:
    """Who opened, changed, shared and took what of it, for those who manage it; the latest first."""
    require_may(analysis, "manage")
    found = events_of_item(connection, analysis.id, HAPPENINGS)
    return [Happening(each.at, each.kind, each.person_name, each.about) for each in found]


def _sharing(kind: Kind, thing: SavedAnalysis | Folder, above: str | None, connection: sqlite3.Connection) -> Sharing:
    granted = item_rights.grants_on(connection, kind, thing.id)
    best: dict[tuple[str | None, str | None], ItemGrant] = {}
    for each in item_rights.grants_above(connection, above):
        known = best.get((each.person, each.group))
        if each.person != thing.owner and (known is None or not item_rights.is_enough(known.may, each.may)):
            best[each.person, each.group] = each
    return Sharing(thing.owner, thing.owner_name, tuple(granted), tuple(best.values()))


def _share(
    kind: Kind,
    thing: SavedAnalysis | Folder,
    asked: Sequence[GrantIn],
    person: Person,
    connection: sqlite3.Connection,
    address: str,
) -> None:
    require_may(thing, "manage")
    require_colleagues([each.person for each in asked if each.person is not None], person, connection)
    require_groups([each.group for each in asked if each.group is not None], connection)
    wanted = {
        (each.person, each.group): ItemGrant(each.person, each.group, "", each.may)
        for each in asked
        if each.person != thing.owner
    }
    with transaction(connection):
        item_rights.set_grants(connection, kind, thing.id, list(wanted.values()))
        granted = item_rights.grants_on(connection, kind, thing.id)
        names = ", ".join(f"{each.name} ({each.may})" for each in granted)
        what = f"“{thing.name}”" if kind == "item" else f"the folder “{thing.name}”"
        item = thing.id if kind == "item" else None
        note_event(connection, now(), "shared", person.id, f"{what} with {names or 'nobody'}", address, item=item)
