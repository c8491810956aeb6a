"""Signing in and out, and one's own sessions."""

from __future__ import annotations

import hmac
import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel, StringConstraints
from starlette.concurrency import run_in_threadpool

from dastan.core.analysis.gestures import DressTable
from dastan.core.errors import ForbiddenError, LimitError, NotFoundError
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.grants import grant_to_person
from dastan.records.people import (
    Person,
    end_session,
    end_session_of,
    forget_expired_sessions,
    password_of,
    put_person,
    put_session,
    sessions_of,
    set_administrator,
    set_password,
)
from dastan.server.access import PersonDep, SessionDep
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import PASSWORDS
from dastan.server.looks import keep_look
from dastan.server.passwords import hash_password, hash_token, is_outdated, is_password, new_token

router = APIRouter(tags=["session"], route_class=BoundedRoute)

_MOST_WAITING = 200
_Line = Annotated[str, StringConstraints(max_length=200)]


class Credentials(BaseModel):
    sign_in: _Line
    password: Annotated[str, StringConstraints(max_length=1000)]


class PersonOut(BaseModel):
    id: str
    name: str
    sign_in: str


class SessionOut(BaseModel):
    person: PersonOut
    csrf: str
    is_administrator: bool
    sees_as: str | None = None
    """The name of the person with whose rights this session looks at models."""


@dataclass(frozen=True, slots=True)
class OwnSession:
    """One of a person's sessions; `is_this` is the one that asks."""

    id: str
    began_at: str
    address: str
    browser: str
    is_this: bool


@router.post("/api/session", max_body_size=4_096)
async def sign_in(
    credentials: Credentials, server: ServerDep, connection: ConnectionDep, request: Request, response: Response
) -> SessionOut:
    name, address = credentials.sign_in.strip().lower(), address_of(request)
    server.doorway.check(name, address)
    found = await run_in_threadpool(password_of, connection, name)
    if PASSWORDS.waiting >= _MOST_WAITING:
        raise LimitError("Very many people are signing in just now.", "Try again in a moment.", code="busy")
    right = await PASSWORDS.run(_is_right, server, credentials.password, found, name, address)
    if right is None:
        await run_in_threadpool(_note_failure, connection, name, address, server.doorway.is_locked(name, address))
        raise ForbiddenError(
            "That name and password do not go together.", "Check both, then try again.", code="wrong-password"
        )
    server.doorway.forgive(name)
    person, password_hash = right
    fresh = None
    if is_outdated(password_hash):
        fresh = await PASSWORDS.run(hash_password, credentials.password)
    return await run_in_threadpool(begin_session, person, server, connection, request, response, fresh)


@router.get("/api/session")
async def show(session: SessionDep) -> SessionOut:
    return _out(session.person, session.csrf, session.sees_as_name)


@router.put("/api/session/look", status_code=204)
def set_look(look: DressTable, session: SessionDep, connection: ConnectionDep) -> None:
    """Keeps how the person's new analyses look to begin with."""
    keep_look(connection, session.person.id, look)


@router.delete("/api/session", status_code=204)
def sign_out(
    request: Request, session: SessionDep, server: ServerDep, connection: ConnectionDep, response: Response
) -> None:
    cookie = server.settings.cookie
    with transaction(connection):
        end_session(connection, hash_token(request.cookies[cookie]))
        note_event(connection, now(), "signed_out", session.person.id, address=address_of(request))
    response.delete_cookie(cookie)


@router.get("/api/sessions")
def own_sessions(session: SessionDep, connection: ConnectionDep) -> list[OwnSession]:
    return [
        OwnSession(each.id, each.began_at, each.address, each.browser, each.id == session.id)
        for each in sessions_of(connection, session.person.id, now())
    ]


@router.delete("/api/sessions/{id}", status_code=204)
def end(id: str, person: PersonDep, connection: ConnectionDep, request: Request) -> None:
    """Ends one of the person's own sessions, here or elsewhere."""
    with transaction(connection):
        if not end_session_of(connection, person.id, id):
            raise NotFoundError("There is no such session any more.", "Look at the list again.")
        note_event(connection, now(), "session_ended", person.id, address=address_of(request))


@router.get("/enter/{entry}", include_in_schema=False)
def enter(entry: str, server: ServerDep, connection: ConnectionDep, request: Request) -> RedirectResponse:
    """The local way in, for a person who started the server on their own folder: once, and soon after the start."""
    wanted = server.settings.entry
    is_right = wanted is not None and hmac.compare_digest(entry.encode(), wanted.encode())
    if not is_right or not server.entry.use():
        raise ForbiddenError(
            "This link does not open anything, or not any more: it signs in once, and soon after the server's start.",
            "Start the server again, and use the link that it prints then.",
        )
    id = server.settings.entry_person
    person = Person(id, id, id.title(), is_administrator=True)
    response = RedirectResponse("/", 303)
    with transaction(connection):
        put_person(connection, person, None)
        set_administrator(connection, id, True)
        for each in server.shelf.places():  # whoever starts a server on a folder of theirs sees all of it
            grant_to_person(connection, id, each.name)
    begin_session(person, server, connection, request, response)
    return response


def address_of(request: Request) -> str:
    """Where a request comes from; behind a trusted proxy, what that says."""
    return request.client.host if request.client is not None else ""


def begin_session(
    person: Person,
    server: Server,
    connection: sqlite3.Connection,
    request: Request,
    response: Response,
    password_hash: str | None = None,
    hours: int | None = None,
) -> SessionOut:
    """Begins a session and ends the one that the browser had. Args: `password_hash` replaces an older one; `hours` are
    how long it lasts, as long as the server's settings say without."""
    token, csrf, settings = new_token(), new_token(), server.settings
    lasts = timedelta(hours=hours or settings.session_hours)
    expires = (datetime.now(UTC) + lasts).isoformat(timespec="microseconds")
    before = request.cookies.get(settings.cookie)
    with transaction(connection):
        forget_expired_sessions(connection, now())
        if before:
            end_session(connection, hash_token(before))
        if password_hash is not None:
            set_password(connection, person.id, password_hash)
        put_session(
            connection, token_hash=hash_token(token), id=new_token()[:12], person=person.id, csrf=csrf, began_at=now(),
            expires_at=expires, address=address_of(request), browser=request.headers.get("user-agent", ""),
        )  # fmt: skip
        note_event(connection, now(), "signed_in", person.id, address=address_of(request))
    response.set_cookie(
        settings.cookie, token, max_age=int(lasts.total_seconds()), httponly=True, samesite="strict",
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return _out(person, csrf)


def _is_right(
    server: Server, password: str, found: tuple[Person, str] | None, name: str, address: str
) -> tuple[Person, str] | None:
    """Whom the password lets in. What failed while this one waited counts too: sending many at once gains nothing."""
    server.doorway.check(name, address)
    if is_password(password, found[1] if found else None):
        return found
    server.doorway.note_failure(name, address)
    return None


def _note_failure(connection: sqlite3.Connection, name: str, address: str, locks: bool) -> None:
    with transaction(connection):
        note_event(connection, now(), "locked_out" if locks else "sign_in_failed", None, name, address)


def _out(person: Person, csrf: str, sees_as: str | None = None) -> SessionOut:
    out = PersonOut(id=person.id, name=person.name, sign_in=person.sign_in)
    return SessionOut(person=out, csrf=csrf, is_administrator=person.is_administrator, sees_as=sees_as)
