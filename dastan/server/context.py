"""What every request has: the server's parts, a connection, and who is asking."""

from __future__ import annotations

import hmac
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from dastan.core.engine.waist import Rights
from dastan.core.errors import ForbiddenError
from dastan.records.database import connect
from dastan.records.people import Person, Session, find_session
from dastan.server.answers import Answers
from dastan.server.keeper import Keeper
from dastan.server.passwords import hash_token
from dastan.server.settings import Settings, now
from dastan.server.shelf import Shelf

COOKIE = "dastan_session"
CSRF_HEADER = "x-dastan-csrf"
_READING = ("GET", "HEAD", "OPTIONS")


class SignedOutError(ForbiddenError):
    """Nobody is signed in."""

    code = "signed-out"


@dataclass(frozen=True, slots=True)
class Server:
    """The parts that live as long as the server."""

    settings: Settings
    shelf: Shelf
    answers: Answers
    keeper: Keeper


def server_of(request: Request) -> Server:
    server: Server = request.app.state.server
    return server


def connection_of(request: Request) -> Iterator[sqlite3.Connection]:
    """A connection of this request's own."""
    connection = connect(server_of(request).settings.records)
    try:
        yield connection
    finally:
        connection.close()


ServerDep = Annotated[Server, Depends(server_of)]
ConnectionDep = Annotated[sqlite3.Connection, Depends(connection_of)]


def session_of(request: Request, connection: ConnectionDep) -> Session:
    """The session of the cookie. A request that changes something must also carry the session's own token,
    which no other site can read. Raises SignedOutError, ForbiddenError."""
    token = request.cookies.get(COOKIE)
    session = find_session(connection, hash_token(token), now()) if token else None
    if session is None:
        raise SignedOutError("You are not signed in.", "Sign in to go on; your draft is kept.")
    if request.method not in _READING and not hmac.compare_digest(request.headers.get(CSRF_HEADER, ""), session.csrf):
        raise ForbiddenError("This request did not come from the open page.", "Reload the page, then try again.")
    return session


SessionDep = Annotated[Session, Depends(session_of)]


def person_of(session: SessionDep) -> Person:
    return session.person


PersonDep = Annotated[Person, Depends(person_of)]


def rights_of(person: Person) -> Rights:
    """The records a person may see. Every request to the engine is built with this."""
    return Rights(person.id)
