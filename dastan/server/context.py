"""What every request has: the server's parts, and a connection of its own."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from dastan.records.database import connect
from dastan.server.admission import Admission
from dastan.server.answers import Answers
from dastan.server.doorway import Doorway
from dastan.server.entry import Entry
from dastan.server.keeper import Keeper
from dastan.server.questions import Questions
from dastan.server.settings import Settings
from dastan.server.shelf import Shelf


@dataclass(frozen=True, slots=True)
class Server:
    """The parts that live as long as the server."""

    settings: Settings
    shelf: Shelf
    admission: Admission
    answers: Answers
    questions: Questions
    keeper: Keeper
    doorway: Doorway
    entry: Entry


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
