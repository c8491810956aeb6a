"""When what a model has from a database is fetched again, and what became of it last."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class KeptFetchingTimes:
    """Whose times they are, `times` as JSON text, and when they come next, UTC. `ended_at` is when it was fetched last;
    `trouble` why it was not, and `hint` what to do then."""

    model: str
    owner: str
    times: str
    next_at: str
    ended_at: str | None = None
    trouble: str = ""
    hint: str = ""


def put_fetching_times(connection: sqlite3.Connection, kept: KeptFetchingTimes) -> None:
    """Sets a model's times, in place of those that it had."""
    connection.execute(
        "INSERT OR REPLACE INTO fetching_times (model, owner, times, next_at, ended_at, trouble, hint) "
        "VALUES (?, ?, ?, ?, ?, ?, ?)",
        (kept.model, kept.owner, kept.times, kept.next_at, kept.ended_at, kept.trouble, kept.hint),
    )


def fetching_times_of(connection: sqlite3.Connection, model: str) -> KeptFetchingTimes | None:
    row = connection.execute("SELECT * FROM fetching_times WHERE model = ?", (model,)).fetchone()
    return None if row is None else KeptFetchingTimes(**dict(row))


def remove_fetching_times(connection: sqlite3.Connection, model: str) -> None:
    """Ends a model's times. Raises NotFoundError where it has none."""
    if connection.execute("DELETE FROM fetching_times WHERE model = ?", (model,)).rowcount == 0:
        raise NotFoundError("It is fetched at no set times.", "Look at the files again.")


def due_fetching_times(connection: sqlite3.Connection, now: str) -> list[KeptFetchingTimes]:
    """The times that have come, of people who may sign in."""
    rows = connection.execute(
        "SELECT fetching_times.* FROM fetching_times JOIN people ON people.id = owner "
        "WHERE next_at <= ? AND disabled_at IS NULL ORDER BY next_at",
        (now,),
    )
    return [KeptFetchingTimes(**dict(row)) for row in rows]


def set_next_fetching(connection: sqlite3.Connection, model: str, next_at: str) -> None:
    connection.execute("UPDATE fetching_times SET next_at = ? WHERE model = ?", (next_at, model))


def note_fetching(connection: sqlite3.Connection, model: str, ended_at: str, trouble: str, hint: str) -> None:
    """Says what became of a model's fetching."""
    connection.execute(
        "UPDATE fetching_times SET ended_at = ?, trouble = ?, hint = ? WHERE model = ?",
        (ended_at, trouble, hint, model),
    )
