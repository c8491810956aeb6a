"""Who may open a model, and in which of its roles: said by whoever shapes it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints, model_validator

from dastan.core.errors import InputError, NotFoundError, did_you_mean
from dastan.records.database import transaction
from dastan.records.events import EventKind, note_event
from dastan.records.grants import Grant, all_grants, put_grant, take_grant
from dastan.records.groups import all_groups
from dastan.server.access import Shaped, ShapedDep, colleagues_of, require_colleagues, require_groups
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep

router = APIRouter(prefix="/api/modelling", tags=["holders"], route_class=BoundedRoute)


@dataclass(frozen=True, slots=True)
class Holder:
    """A person or a group who may open the model: in whole where `role` is "", else as far as that role sees."""

    name: str
    person: str | None
    group: str | None
    role: str
    is_reader: bool
    """Whether it is who asks: what is theirs they do not take from themselves."""


@dataclass(frozen=True, slots=True)
class Askable:
    """A person or a group that the model may be granted to."""

    name: str
    person: str | None
    group: str | None


@dataclass(frozen=True, slots=True)
class Holders:
    """Who may open the model, and who might be let."""

    holders: tuple[Holder, ...]
    others: tuple[Askable, ...]


class HolderIn(BaseModel):
    """A person or a group, and a role; "" for the whole model."""

    person: Annotated[str, StringConstraints(max_length=200)] | None = None
    group: Annotated[str, StringConstraints(max_length=200)] | None = None
    role: Annotated[str, StringConstraints(max_length=200)] = ""

    @model_validator(mode="after")
    def names_one(self) -> HolderIn:
        if (self.person is None) == (self.group is None):
            raise ValueError("name either a person or a group")
        return self


@router.get("/{model}/holders")
def holders(model: str, asked: ShapedDep, connection: ConnectionDep) -> Holders:
    return _holders(model, asked, connection)


@router.post("/{model}/holders")
def let_open(model: str, sent: HolderIn, asked: ShapedDep, connection: ConnectionDep) -> Holders:
    """Lets somebody open the model, from the next request on."""
    roles = {each.name: each.caption for each in asked.written.read().roles}
    if sent.role and sent.role not in roles:
        raise InputError(
            f"The model that is in use has no role “{sent.role}”.",
            did_you_mean(sent.role, list(roles)) or "Publish the role first; until then nobody sees anything by it.",
        )
    with transaction(connection):
        if sent.person is not None:
            require_colleagues([sent.person], asked.person, connection)
        if sent.group is not None:
            require_groups([sent.group], connection)
        put_grant(connection, Grant(model, sent.person, sent.group, sent.role))
        _note(connection, "granted", asked, sent, roles.get(sent.role, ""))
    return _holders(model, asked, connection)


@router.post("/{model}/holders/taken")
def let_no_more(model: str, sent: HolderIn, asked: ShapedDep, connection: ConnectionDep) -> Holders:
    """Takes it back. It holds no longer from the next request on."""
    if sent.person == asked.person.id:
        raise InputError("You would not see the model any more yourself.", "Ask an administrator to take it from you.")
    with transaction(connection):
        if not take_grant(connection, Grant(model, sent.person, sent.group, sent.role)):
            raise NotFoundError("They may not open it any more.", "Look at the list again.")
        _note(connection, "grant_taken", asked, sent, sent.role)
    return _holders(model, asked, connection)


def _holders(model: str, asked: Shaped, connection: sqlite3.Connection) -> Holders:
    people = {each.id: each.name for each in colleagues_of(asked.person, connection)}
    groups = {each.id: each.name for each in all_groups(connection)}
    found = [
        Holder(
            people.get(each.person or "") or groups.get(each.group or "") or "somebody",
            each.person, each.group, each.role, each.person == asked.person.id,
        )
        for each in all_grants(connection)
        if each.model == model
    ]  # fmt: skip
    others = [Askable(name, id, None) for id, name in people.items()]
    others += [Askable(name, None, id) for id, name in groups.items()]
    return Holders(
        tuple(sorted(found, key=lambda each: (each.role, each.name))), tuple(sorted(others, key=lambda each: each.name))
    )


def _note(connection: sqlite3.Connection, kind: EventKind, asked: Shaped, sent: HolderIn, role: str) -> None:
    caption = asked.written.read().caption
    words = f"“{caption}” to {sent.person or 'a group'}" + (f", as far as {role} may see" if role else "")
    note_event(connection, now(), kind, asked.person.id, words)
