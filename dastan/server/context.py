"""What every request has: the server's parts, a connection, and who is asking."""

from __future__ import annotations

import hmac
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import Depends, Request

from dastan.core.engine.rights import members_seen, rights_of_roles
from dastan.core.engine.waist import Rights
from dastan.core.errors import ForbiddenError
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import grain_of
from dastan.records.database import connect
from dastan.records.people import Person, Session, find_session, roles_of
from dastan.server.answers import Answers
from dastan.server.keeper import Keeper
from dastan.server.passwords import hash_token
from dastan.server.questions import Questions
from dastan.server.settings import Settings, now
from dastan.server.shelf import Shelf, ShelvedModel

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
    questions: Questions
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


@dataclass(frozen=True, slots=True)
class Reader:
    """A person who asks one model: the records they may see, and what their roles are called."""

    shelved: ShelvedModel
    rights: Rights
    seen_as: tuple[str, ...]

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """The members that this person may see."""
        return members_seen(self.shelved.opened.source, self.rights, dimension, hierarchy)


def reader_of(person: Person, shelved: ShelvedModel, connection: sqlite3.Connection) -> Reader:
    """The one place where it is decided which records a person may see; every request to the engine carries it."""
    roles = roles_of(connection, person.id, shelved.model.name)
    source = shelved.opened.source

    def newest(dimension: str) -> str | None:
        grains = {grain_of(each) for each in shelved.model.measures if each.aggregate != "ratio"}
        return max((day for grain in grains if (day := source.newest(grain, dimension))), default=None)

    rights = rights_of_roles(person.id, roles, shelved.model, date.today(), newest)
    known = {each.name: each.caption for each in shelved.model.roles}
    return Reader(shelved, rights, tuple(known.get(each, each) for each in roles))
