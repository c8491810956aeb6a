"""When each model's files were read, and what came of it."""

from __future__ import annotations

import sqlite3
from dataclasses import astuple, dataclass

_KEPT = 50
"""So many readings of a model are kept."""
_COLUMNS = "began_at, seconds, version, records, noticed, trouble, hint"


@dataclass(frozen=True, slots=True)
class KeptReading:
    """One reading: when it began, and how long it took. `version` is of the document and its files, empty where they
    could not be read: `trouble` says why and `hint` what to do then. `noticed` counts what was told of the data."""

    began_at: str
    seconds: float
    version: str
    records: int
    noticed: int
    trouble: str
    hint: str


def put_reading(connection: sqlite3.Connection, model: str, reading: KeptReading) -> None:
    """Keeps a reading; in place of the last one where it came to the same, as when a server starts again."""
    last = next(iter(readings_of(connection, model, 1)), None)
    if last is not None and (last.version, last.trouble) == (reading.version, reading.trouble):
        connection.execute("DELETE FROM readings WHERE id = (SELECT max(id) FROM readings WHERE model = ?)", (model,))
    connection.execute(
        f"INSERT INTO readings (model, {_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?)", (model, *astuple(reading))
    )
    connection.execute(
        "DELETE FROM readings WHERE model = ? AND id NOT IN "
        "(SELECT id FROM readings WHERE model = ? ORDER BY id DESC LIMIT ?)",
        (model, model, _KEPT),
    )


def readings_of(connection: sqlite3.Connection, model: str, count: int = _KEPT) -> list[KeptReading]:
    """What was read of a model, the last first."""
    rows = connection.execute(
        f"SELECT {_COLUMNS} FROM readings WHERE model = ? ORDER BY id DESC LIMIT ?", (model, count)
    )
    return [KeptReading(**dict(row)) for row in rows]
