"""Tables of databases, fetched as files that are brought; and those that a model has, fetched again."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import astuple
from pathlib import Path
from typing import TYPE_CHECKING

from dastan.core.engine.watch import Watch
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.proposing.naming import name_of
from dastan.records.data_connections import DataConnection, find_data_connection
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.people import Person
from dastan.server.bringing import FilesBrought
from dastan.server.clock import now
from dastan.server.context import Server
from dastan.server.fetched import FetchedTable, fetched_in
from dastan.sources.files.written import WrittenModel
from dastan.sources.postgres.asked import Encryption, ServerAddress, Wanted

if TYPE_CHECKING:
    from adbc_driver_manager.dbapi import Connection as Reached


def fetch_tables(
    found: DataConnection, wanted: list[Wanted], person: Person, server: Server, watch: Watch
) -> FilesBrought:
    """Fetches tables as files that are brought: a model is made of them as of any others."""
    names: list[str] = []
    with _brought(person.id, server) as brought, reached_at(found, server) as reached:
        watch.expect(len(wanted))
        for each in wanted:
            names.append(name_of(each.name, names, "table"))
            _fetch(reached, found, each, f"{names[-1]}.parquet", brought, person.id, server, watch)
        return server.bringing.look(brought, person.id)


def fetch_again(
    written: WrittenModel, person: Person, server: Server, connection: sqlite3.Connection, watch: Watch
) -> None:
    """Fetches all of a model that came from databases anew: all of it, or nothing is changed. What is there answers
    meanwhile. Raises NotFoundError where nothing did, and what keeps it from being fetched."""
    folder = written.folder
    known = fetched_in(folder)
    if not known:
        raise NotFoundError("Nothing of this model came from a database.", "Bring newer files in the library.")
    with _brought(person.id, server) as brought:
        watch.expect(len(known))
        for id in dict.fromkeys(each.connection for each in known):
            found = find_data_connection(connection, id)
            with reached_at(found, server) as reached:
                for each in (one for one in known if one.connection == id):
                    _fetch(reached, found, each.wanted, each.file, brought, person.id, server, watch)
        with server.admission.running(person.id, watch, "a look at files"):
            server.bringing.renew(brought, person.id, folder.name, watch)
    with transaction(connection):
        note_event(connection, now(), "brought", person.id, f"{written.read().caption}, fetched anew")
    server.shelf.look_again()


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
def reached_at(found: DataConnection, server: Server) -> Iterator[Reached]:
    """A database that is reached, and read as of one moment. Raises what keeps it from that."""
    from dastan.sources.postgres.fetching import at_one_moment

    with connected_to(_address(found), server.sealer.opened(found.sealed)) as reached, at_one_moment(reached):
        yield reached


@contextmanager
def connected_to(address: ServerAddress, password: str) -> Iterator[Reached]:
    """A database that is reached. Raises what keeps it from that."""
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
        return FetchedTable(name, found.id, wanted, now(), *astuple(arrived))

    server.bringing.put(brought, person, name, write)
    watch.note_done()
