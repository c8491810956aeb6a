"""Schedules: what is made of an analysis, and when."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class KeptSchedule:
    """A schedule as it is kept. `times` is JSON text; `next_at` is when it is due next, UTC."""

    id: str
    item: str
    owner: str
    makes: str
    times: str
    is_mailed: bool
    next_at: str


_COLUMNS = "schedules.id, schedules.item, schedules.owner, makes, times, is_mailed, next_at"


def _schedule(row: sqlite3.Row) -> KeptSchedule:
    return KeptSchedule(**{**dict(row), "is_mailed": bool(row["is_mailed"])})


def put_schedule(connection: sqlite3.Connection, schedule: KeptSchedule) -> None:
    """Keeps a schedule; one of that id is changed."""
    connection.execute(
        "INSERT INTO schedules (id, item, owner, makes, times, is_mailed, next_at) "
        "VALUES (:id, :item, :owner, :makes, :times, :is_mailed, :next_at)",
        {"id": schedule.id, "item": schedule.item, "owner": schedule.owner, "makes": schedule.makes,
         "times": schedule.times, "is_mailed": int(schedule.is_mailed), "next_at": schedule.next_at},
    )  # fmt: skip


def schedules_of(connection: sqlite3.Connection, owner: str, item: str) -> list[KeptSchedule]:
    """A person's schedules of an item, the one that is due next first."""
    rows = connection.execute(
        f"SELECT {_COLUMNS} FROM schedules WHERE owner = :owner AND item = :item ORDER BY next_at, id",
        {"owner": owner, "item": item},
    )
    return [_schedule(row) for row in rows]


def count_schedules(connection: sqlite3.Connection, owner: str) -> int:
    """How many schedules a person has."""
    row = connection.execute("SELECT count(*) AS found FROM schedules WHERE owner = :owner", {"owner": owner})
    return int(row.fetchone()["found"])


def remove_schedule(connection: sqlite3.Connection, owner: str, id: str) -> None:
    """Ends a schedule; what it made stays. Raises NotFoundError."""
    removed = connection.execute("DELETE FROM schedules WHERE id = :id AND owner = :owner", {"id": id, "owner": owner})
    if removed.rowcount == 0:
        raise NotFoundError("There is no such schedule any more.", "Look at the list again.")


def due_schedules(connection: sqlite3.Connection, now: str) -> list[KeptSchedule]:
    """The schedules whose time has come, of things that are there and people who may sign in."""
    rows = connection.execute(
        f"SELECT {_COLUMNS} FROM schedules JOIN items ON items.id = schedules.item "
        "JOIN people ON people.id = schedules.owner "
        "WHERE next_at <= :now AND items.removed_at IS NULL AND people.disabled_at IS NULL ORDER BY next_at",
        {"now": now},
    )
    return [_schedule(row) for row in rows]


def set_next(connection: sqlite3.Connection, id: str, next_at: str) -> None:
    """Says when a schedule is due next."""
    connection.execute("UPDATE schedules SET next_at = :next_at WHERE id = :id", {"id": id, "next_at": next_at})
