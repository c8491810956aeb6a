"""Databases: where they are, what they have, and their tables fetched into models. Administrators make connections."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated
from uuid import uuid4

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints

from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.proposing.naming import name_of
from dastan.records.data_connections import (
    DataConnection,
    data_connections,
    find_data_connection,
    put_data_connection,
    remove_data_connection,
)
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.server.access import AdministratorDep, ShapedDep
from dastan.server.bodies import BoundedRoute
from dastan.server.bringing import FilesBrought
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.fetched import FetchedTable, fetched_in
from dastan.server.lanes import DATABASES, in_lane
from dastan.server.questions import QuestionName
from dastan.server.settings import now
from dastan.sources.postgres.asked import DatabaseTable, Encryption, ServerAddress, Wanted

if TYPE_CHECKING:
    from adbc_driver_manager.dbapi import Connection as Reached

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
    """A file of a model that came from a database: from which, what was asked, when, and how many records came; how
    many of its columns add up to what the database said then, and which do not."""

    file: str
    connection: str
    asked: str
    at: str
    records: int
    sums: int
    differing: tuple[str, ...]


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
    with _connected(address, asked.password):
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

    with _reached(find_data_connection(connection, id), server) as reached:
        return tables_of(reached)


@router.post("/api/connections/{id}/fetched", status_code=201)
@in_lane(DATABASES)
def fetch_tables(
    id: str, asked: FetchIn, server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep,
    question: QuestionName = None,
) -> FilesBrought:  # fmt: skip
    """Fetches tables as files that are brought: a model is made of them as of any others."""
    found = find_data_connection(connection, id)
    wanted = [Wanted(each.name, each.schema_name, each.query.strip()) for each in asked.tables]
    names: list[str] = []
    with (
        server.questions.asked(administrator.id, question) as watch,
        _brought(administrator.id, server) as brought,
        _reached(found, server) as reached,
    ):
        watch.expect(len(wanted))
        for each in wanted:
            names.append(name_of(each.name, names, "table"))
            _fetch(reached, found, each, f"{names[-1]}.parquet", brought, administrator.id, server, watch)
        return server.bringing.look(brought, administrator.id)


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
            each.sums,
            tuple(each.differing),
        )
        for each in fetched_in(asked.written.folder)
    )


@router.post("/api/modelling/{model}/fetched", status_code=204)
@in_lane(DATABASES)
def fetch_again(asked: ShapedDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None) -> None:
    """Fetches all of it anew: all of it, or nothing is changed. What is there answers meanwhile."""
    person, folder = asked.person.id, asked.written.folder
    known = fetched_in(folder)
    if not known:
        raise NotFoundError("Nothing of this model came from a database.", "Bring newer files in the library.")
    with server.questions.asked(person, question) as watch, _brought(person, server) as brought:
        watch.expect(len(known))
        for id in dict.fromkeys(each.connection for each in known):
            found = find_data_connection(connection, id)
            with _reached(found, server) as reached:
                for each in (one for one in known if one.connection == id):
                    _fetch(reached, found, each.wanted, each.file, brought, person, server, watch)
        with server.admission.running(person, watch, "a look at files"):
            server.bringing.renew(brought, person, folder.name, watch)
    with transaction(connection):
        note_event(connection, now(), "brought", person, f"{asked.written.read().caption}, fetched anew")
    server.shelf.look_again()


def _listed(each: DataConnection) -> ListedConnection:
    return ListedConnection(
        each.id, each.caption, each.host, each.port, each.database_name, each.sign_in, each.encryption
    )


def _address(found: DataConnection) -> ServerAddress:
    encryption: Encryption = found.encryption  # type: ignore[assignment]
    return ServerAddress(found.host, found.port, found.database_name, found.sign_in, encryption)


@contextmanager
def _brought(person: str, server: Server) -> Iterator[str]:
    """A place for files that is gone again where they do not come."""
    id = server.bringing.begin(person).id
    try:
        yield id
    except BaseException:
        with suppress(NotFoundError):  # it was taken over by now
            server.bringing.forget(id, person)
        raise


@contextmanager
def _reached(found: DataConnection, server: Server) -> Iterator[Reached]:
    from dastan.sources.postgres.fetching import at_one_moment

    with _connected(_address(found), server.sealer.opened(found.sealed)) as reached, at_one_moment(reached):
        yield reached


@contextmanager
def _connected(address: ServerAddress, password: str) -> Iterator[Reached]:
    # The driver takes a second to load, and most servers never need it.
    from dastan.sources.postgres.server import connected

    with connected(address, password) as reached:
        yield reached


def _fetch(
    reached: Reached, found: DataConnection, wanted: Wanted, name: str, brought: str, person: str,
    server: Server, watch: Watch,
) -> None:  # fmt: skip
    from dastan.sources.postgres.fetching import fetch

    def write(file: Path) -> FetchedTable:
        watch.begin(wanted.name)
        arrived = fetch(reached, wanted, file, watch, server.bringing.most_bytes)
        if not arrived.records:
            raise InputError(f"{wanted.name} has no records.", "Leave it out, or fetch it when it has some.")
        return FetchedTable(name, found.id, wanted, now(), arrived.records, arrived.sums, arrived.differing)

    server.bringing.put(brought, person, name, write)
    watch.note_done()


def _words(wanted: Wanted) -> str:
    return (
        f"the query {wanted.name}" if wanted.query else ".".join(each for each in (wanted.schema, wanted.name) if each)
    )
