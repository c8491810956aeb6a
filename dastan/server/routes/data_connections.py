"""Databases: where they are, what they have, and their tables fetched into models. Administrators make connections."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.errors import NotFoundError
from dastan.records.data_connections import (
    DataConnection,
    data_connections,
    find_data_connection,
    put_data_connection,
    remove_data_connection,
)
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.fetching_times import (
    KeptFetchingTimes,
    fetching_times_of,
    put_fetching_times,
    remove_fetching_times,
)
from dastan.server.access import AdministratorDep, ShapedDep
from dastan.server.bodies import BoundedRoute
from dastan.server.bringing import FilesBrought
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, ServerDep
from dastan.server.fetched import fetched_in
from dastan.server.fetching import connected_to, fetch_again, fetch_tables, reached_at
from dastan.server.lanes import DATABASES, in_lane
from dastan.server.questions import QuestionName
from dastan.server.times import Times
from dastan.sources.postgres.asked import DatabaseTable, Encryption, ServerAddress, Wanted

router = APIRouter(tags=["connections"], route_class=BoundedRoute)

_Short = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
_Word = Annotated[str, StringConstraints(max_length=200)]
_MOST_TABLES = 60


class NewConnection(BaseModel):
    """Where a database is, and a role of it that may only read."""

    caption: _Short
    host: _Short
    port: Annotated[int, Field(ge=1, le=65_535)] = 5432
    database: _Short
    sign_in: _Short
    password: Annotated[str, StringConstraints(max_length=1_000)]
    encryption: Encryption = "prefer"


@dataclass(frozen=True, slots=True)
class ListedConnection:
    """A database as it is listed: never with its password."""

    id: str
    caption: str
    host: str
    port: int
    database: str
    sign_in: str
    encryption: str


class WantedIn(BaseModel):
    """A table, by its schema and name; or what a query comes to, under a name."""

    name: _Short
    schema_name: _Word = ""
    query: Annotated[str, StringConstraints(max_length=20_000)] = ""


class FetchIn(BaseModel):
    tables: Annotated[tuple[WantedIn, ...], Field(min_length=1, max_length=_MOST_TABLES)]


@dataclass(frozen=True, slots=True)
class FetchedFile:
    """A file of a model that came from a database: from which, what was asked, when, how many records came, and how
    many there were by the database, null where that was not asked; how many columns add up to what it said then, and
    which do not."""

    file: str
    connection: str
    asked: str
    at: str
    records: int
    records_there: int | None
    sums: int
    differing: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class FetchingTimes:
    """When a model's tables are fetched again, and when next, UTC; when that was last, and why it was not. `clock` is
    the server's zone."""

    times: Times
    next_at: str
    ended_at: str | None
    trouble: str
    hint: str
    clock: str


@router.get("/api/connections")
def connections(connection: ConnectionDep, _: AdministratorDep) -> tuple[ListedConnection, ...]:
    return tuple(_listed(each) for each in data_connections(connection))


@router.post("/api/connections", status_code=201)
@in_lane(DATABASES)
def make_connection(
    asked: NewConnection, server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep
) -> ListedConnection:
    """Keeps a connection, once it was made and its role was seen to read alone."""
    address = ServerAddress(asked.host, asked.port, asked.database, asked.sign_in, asked.encryption)
    with connected_to(address, asked.password):
        pass
    sealed = server.sealer.sealed(asked.password)
    made = DataConnection(
        uuid4().hex, asked.caption, asked.host, asked.port, asked.database, asked.sign_in, asked.encryption, sealed
    )
    with transaction(connection):
        put_data_connection(connection, made, administrator.id, now())
        note_event(
            connection,
            now(),
            "brought",
            administrator.id,
            f"the connection “{made.caption}”, to {made.host}:{made.port}",
        )
    return _listed(made)


@router.delete("/api/connections/{id}", status_code=204)
def drop_connection(id: str, connection: ConnectionDep, administrator: AdministratorDep) -> None:
    with transaction(connection):
        found = find_data_connection(connection, id)
        remove_data_connection(connection, id)
        note_event(connection, now(), "removed", administrator.id, f"the connection “{found.caption}”")


@router.get("/api/connections/{id}/tables")
@in_lane(DATABASES)
def tables(id: str, server: ServerDep, connection: ConnectionDep, _: AdministratorDep) -> tuple[DatabaseTable, ...]:
    """The tables and views that its role may read."""
    from dastan.sources.postgres.fetching import tables_of

    with reached_at(find_data_connection(connection, id), server) as reached:
        return tables_of(reached)


@router.post("/api/connections/{id}/fetched", status_code=201)
@in_lane(DATABASES)
def fetch(
    id: str, asked: FetchIn, server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep,
    question: QuestionName = None,
) -> FilesBrought:  # fmt: skip
    """Fetches tables as files that are brought: a model is made of them as of any others."""
    found = find_data_connection(connection, id)
    wanted = [Wanted(each.name, each.schema_name, each.query.strip()) for each in asked.tables]
    with server.questions.asked(administrator.id, question) as watch:
        return fetch_tables(found, wanted, administrator, server, watch)


@router.get("/api/modelling/{model}/fetched")
def fetched(asked: ShapedDep, connection: ConnectionDep) -> tuple[FetchedFile, ...]:
    """What of a model came from a database."""
    known = {each.id: each.caption for each in data_connections(connection)}
    return tuple(
        FetchedFile(
            each.file,
            known.get(each.connection, ""),
            _words(each.wanted),
            each.at,
            each.records,
            each.records_there,
            each.sums,
            tuple(each.differing),
        )
        for each in fetched_in(asked.written.folder)
    )


@router.post("/api/modelling/{model}/fetched", status_code=204)
@in_lane(DATABASES)
def fetch_anew(asked: ShapedDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None) -> None:
    """Fetches all of it anew: all of it, or nothing is changed. What is there answers meanwhile."""
    with server.questions.asked(asked.person.id, question) as watch:
        fetch_again(asked.written, asked.person, server, connection, watch)


@router.get("/api/modelling/{model}/fetched/times")
def fetching_times(model: str, _: ShapedDep, connection: ConnectionDep) -> FetchingTimes | None:
    """When it is fetched again by itself; null where only somebody's hand does that."""
    kept = fetching_times_of(connection, model)
    return None if kept is None else _times(kept)


@router.put("/api/modelling/{model}/fetched/times")
def set_fetching_times(model: str, times: Times, asked: ShapedDep, connection: ConnectionDep) -> FetchingTimes:
    """Has it fetched again at set times, as whoever sets them may."""
    if not fetched_in(asked.written.folder):
        raise NotFoundError("Nothing of this model came from a database.", "Bring newer files in the library.")
    next_at = times.after(datetime.now(UTC)).isoformat(timespec="microseconds")
    kept = KeptFetchingTimes(model, asked.person.id, times.model_dump_json(), next_at)
    with transaction(connection):
        put_fetching_times(connection, kept)
    return _times(kept)


@router.delete("/api/modelling/{model}/fetched/times", status_code=204)
def end_fetching_times(model: str, _: ShapedDep, connection: ConnectionDep) -> None:
    with transaction(connection):
        remove_fetching_times(connection, model)


def _times(kept: KeptFetchingTimes) -> FetchingTimes:
    clock = datetime.now().astimezone().tzname() or "UTC"
    times = Times.model_validate_json(kept.times)
    return FetchingTimes(times, kept.next_at, kept.ended_at, kept.trouble, kept.hint, clock)


def _listed(each: DataConnection) -> ListedConnection:
    return ListedConnection(
        each.id, each.caption, each.host, each.port, each.database_name, each.sign_in, each.encryption
    )


def _words(wanted: Wanted) -> str:
    return (
        f"the query {wanted.name}" if wanted.query else ".".join(each for each in (wanted.schema, wanted.name) if each)
    )
