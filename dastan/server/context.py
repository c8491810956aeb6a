"""What every request has: the server's parts, and a connection of its own."""

from __future__ import annotations

import sqlite3
from collections.abc import AsyncIterator, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Annotated

from fastapi import Depends, Request
from starlette.concurrency import run_in_threadpool

from dastan.core.errors import AppError
from dastan.records.database import connect
from dastan.server.admission import Admission
from dastan.server.answers import Answers
from dastan.server.bringing import Bringing
from dastan.server.doorway import Doorway
from dastan.server.entry import Entry
from dastan.server.frozen import FrozenCopies
from dastan.server.jobs import Jobs
from dastan.server.keeper import Keeper
from dastan.server.modelling.workbench import Workbench
from dastan.server.pulse import Pulse
from dastan.server.questions import Questions
from dastan.server.reused import ReusedModels
from dastan.server.sealed import Sealer
from dastan.server.settings import Settings
from dastan.server.shelf import Shelf
from dastan.server.sign_on.exchange import SignOn
from dastan.server.writing import Writing


@dataclass(frozen=True, slots=True)
class Server:
    """The parts that live as long as the server."""

    settings: Settings
    shelf: Shelf
    admission: Admission
    answers: Answers
    questions: Questions
    writing: Writing
    keeper: Keeper
    connections: Connections
    doorway: Doorway
    entry: Entry
    sign_on: SignOn | None
    pulse: Pulse
    frozen: FrozenCopies
    reused: ReusedModels
    jobs: Jobs
    bringing: Bringing
    workbench: Workbench
    sealer: Sealer

    def close(self) -> None:
        """Finishes what was asked, and ends its threads."""
        self.jobs.close()
        self.keeper.close()
        self.reused.close()
        self.connections.close()
        self.shelf.close()


class Connections:
    """Open connections to the records, each used by one request at a time. Safe for threads, under its lock."""

    def __init__(self, records: Path) -> None:
        self._records = records
        self._lock = Lock()
        self._idle: list[sqlite3.Connection] = []

    @contextmanager
    def using(self) -> Iterator[sqlite3.Connection]:
        """A connection for one look at the records, on the thread that looks."""
        connection, is_sound = self.take() or self.open(), False
        try:
            yield connection
            is_sound = True
        except AppError:  # what was looked for is not there, or not theirs
            is_sound = True
            raise
        finally:
            self.give_back(connection, is_sound)

    def take(self) -> sqlite3.Connection | None:
        """One that is idle."""
        with self._lock:
            return self._idle.pop() if self._idle else None

    def open(self) -> sqlite3.Connection:
        return connect(self._records)

    def give_back(self, connection: sqlite3.Connection, is_sound: bool) -> None:
        """Keeps a connection for the next request; closes one that may be left in the middle of something."""
        with self._lock:
            if is_sound and not connection.in_transaction and len(self._idle) < _IDLE_KEPT:
                self._idle.append(connection)
                return
        connection.close()

    def close(self) -> None:
        """Closes what is idle."""
        with self._lock:
            idle, self._idle = self._idle, []
        for each in idle:
            each.close()


_IDLE_KEPT = 32


async def server_of(request: Request) -> Server:
    server: Server = request.app.state.server
    return server


async def connection_of(request: Request) -> AsyncIterator[sqlite3.Connection]:
    """A connection of this request's own. Taking one that is idle costs no thread, as most requests do."""
    connections = request.app.state.server.connections
    connection = connections.take() or await run_in_threadpool(connections.open)
    is_sound = False
    try:
        yield connection
        is_sound = True
    finally:
        connections.give_back(connection, is_sound)


ServerDep = Annotated[Server, Depends(server_of)]
ConnectionDep = Annotated[sqlite3.Connection, Depends(connection_of)]
