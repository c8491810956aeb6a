"""Coming in by a link: to choose a first password, or another one."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.errors import ForbiddenError, InputError
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.invites import invited, put_invite, use_invite
from dastan.records.people import Person, end_sessions_of, set_password
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import PASSWORDS
from dastan.server.passwords import hash_password, hash_token, new_token
from dastan.server.routes.session import SessionOut, address_of, begin_session

router = APIRouter(prefix="/api/welcome", tags=["welcome"], route_class=BoundedRoute)

SHORTEST_PASSWORD = 10
LINK_DAYS = 7


@dataclass(frozen=True, slots=True)
class Welcome:
    """Whom a link is for."""

    name: str
    sign_in: str


class PasswordIn(BaseModel):
    password: Annotated[str, StringConstraints(max_length=1000)]


def make_link(connection: sqlite3.Connection, person: str) -> str:
    """The path of a link by which a person chooses a password: it opens once, within some days."""
    token = new_token()
    expires = (datetime.now(UTC) + timedelta(LINK_DAYS)).isoformat(timespec="microseconds")
    put_invite(connection, hash_token(token), person, expires)
    return f"/welcome/{token}"


@router.get("/{token}")
def look(token: str, connection: ConnectionDep) -> Welcome:
    person = _invited(connection, token)
    return Welcome(person.name, person.sign_in)


@router.post("/{token}", max_body_size=4_096)
async def choose(
    token: str, chosen: PasswordIn, server: ServerDep, connection: ConnectionDep, request: Request, response: Response
) -> SessionOut:
    """Sets the password and signs in; whoever was signed in as this person is signed out."""
    person = await run_in_threadpool(_invited, connection, token)
    if len(chosen.password) < SHORTEST_PASSWORD:
        raise InputError(
            f"A password has {SHORTEST_PASSWORD} characters at least.",
            "Take some words that belong together for you alone.",
        )
    password_hash = await PASSWORDS.run(hash_password, chosen.password)
    return await run_in_threadpool(_chosen, token, person, password_hash, server, connection, request, response)


def _chosen(
    token: str, person: Person, password_hash: str, server: Server, connection: sqlite3.Connection, request: Request,
    response: Response,
) -> SessionOut:  # fmt: skip
    with transaction(connection):
        if not use_invite(connection, hash_token(token)):
            raise _used()
        end_sessions_of(connection, person.id)
        set_password(connection, person.id, password_hash)
        note_event(connection, now(), "password_set", person.id, address=address_of(request))
    server.doorway.forgive(person.sign_in)
    return begin_session(person, server, connection, request, response)


def _invited(connection: sqlite3.Connection, token: str) -> Person:
    person = invited(connection, hash_token(token), now())
    if person is None:
        raise _used()
    return person


def _used() -> ForbiddenError:
    return ForbiddenError(
        "This link does not open anything any more: it opens once, and for some days.",
        "Ask an administrator for another one.",
        code="link-used",
    )
