"""Signing in and out."""

from __future__ import annotations

import hmac
from datetime import UTC, datetime, timedelta

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel

from dastan.core.analysis.gesture import DressTable
from dastan.core.errors import ForbiddenError
from dastan.records.database import transaction
from dastan.records.grants import grant_to_person
from dastan.records.people import (
    Person,
    end_session,
    forget_expired_sessions,
    password_of,
    put_person,
    put_session,
)
from dastan.server.access import COOKIE, SessionDep
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.looks import keep_look
from dastan.server.passwords import hash_token, is_password, new_token
from dastan.server.settings import now

router = APIRouter(tags=["session"])


class Credentials(BaseModel):
    sign_in: str
    password: str


class PersonOut(BaseModel):
    id: str
    name: str
    sign_in: str


class SessionOut(BaseModel):
    person: PersonOut
    csrf: str


@router.post("/api/session")
def sign_in(credentials: Credentials, server: ServerDep, connection: ConnectionDep, response: Response) -> SessionOut:
    found = password_of(connection, credentials.sign_in.strip().lower())
    if not is_password(credentials.password, found[1] if found else None) or found is None:
        raise ForbiddenError(
            "That name and password do not go together.", "Check both, then try again.", code="wrong-password"
        )
    return _begin(found[0], server, connection, response)


@router.get("/api/session")
def show(session: SessionDep) -> SessionOut:
    return _out(session.person, session.csrf)


@router.put("/api/session/look", status_code=204)
def set_look(look: DressTable, session: SessionDep, connection: ConnectionDep) -> None:
    """Keeps how the person's new analyses look to begin with."""
    keep_look(connection, session.person.id, look)


@router.delete("/api/session", status_code=204)
def sign_out(request: Request, session: SessionDep, connection: ConnectionDep, response: Response) -> None:
    with transaction(connection):
        end_session(connection, hash_token(request.cookies[COOKIE]))
    response.delete_cookie(COOKIE)


@router.get("/enter/{entry}", include_in_schema=False)
def enter(entry: str, server: ServerDep, connection: ConnectionDep) -> RedirectResponse:
    """The local way in, for a person who started the server on their own folder."""
    wanted = server.settings.entry
    if wanted is None or not hmac.compare_digest(entry, wanted):
        raise ForbiddenError(
            "This link does not open anything.", "Use the link that the server printed when it started."
        )
    person = Person(server.settings.entry_person, server.settings.entry_person, server.settings.entry_person.title())
    with transaction(connection):
        put_person(connection, person, None)
        for each in server.shelf.places():  # whoever starts a server on a folder of theirs sees all of it
            grant_to_person(connection, person.id, each.name)
    response = RedirectResponse("/", 303)
    _begin(person, server, connection, response)
    return response


def _begin(person: Person, server: Server, connection: ConnectionDep, response: Response) -> SessionOut:
    token, csrf = new_token(), new_token()
    hours = server.settings.session_hours
    expires = (datetime.now(UTC) + timedelta(hours=hours)).isoformat(timespec="microseconds")
    with transaction(connection):
        forget_expired_sessions(connection, now())
        put_session(connection, hash_token(token), person.id, csrf, expires)
    response.set_cookie(COOKIE, token, max_age=hours * 3600, httponly=True, samesite="strict")
    return _out(person, csrf)


def _out(person: Person, csrf: str) -> SessionOut:
    return SessionOut(person=PersonOut(id=person.id, name=person.name, sign_in=person.sign_in), csrf=csrf)
