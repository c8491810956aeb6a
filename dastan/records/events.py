"""What was done by whom: written once, never changed, read by administrators."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

EventKind = Literal[
    "signed_in", "sign_in_failed", "locked_out", "signed_out", "session_ended", "shared", "exported", "granted",
    "grant_taken", "person_added", "person_disabled", "person_enabled", "password_set", "invited", "made_administrator",
    "no_longer_administrator", "group_changed", "seen_as", "question_ended", "unexpected_error", "step_not_kept",
    "sign_on_failed", "sign_on_changed", "opened", "saved", "froze", "commented", "moved", "removed",
    "token_made", "token_ended", "fed", "brought", "model_changed",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Event:
    """`person` did it, or tried to: an id, or the name that was typed where nobody has it. `about` says to what."""

    number: int
    at: str
    kind: str
    person: str | None
    person_name: str | None
    about: str
    address: str


def note_event(
    connection: sqlite3.Connection, now: str, kind: EventKind, person: str | None, about: str = "", address: str = "",
    item: str | None = None,
) -> None:  # fmt: skip
    """Args: `item` is the analysis that it happened to, in whose own history it stands."""
    connection.execute(
        "INSERT INTO events (at, kind, person, about, address, item) "
        "VALUES (:at, :kind, :person, :about, :address, :item)",
        {"at": now, "kind": kind, "person": person, "about": about[:500], "address": address, "item": item},
    )


_EVENTS = """
SELECT events.number, events.at, events.kind, events.person, people.name AS person_name, events.about, events.address
FROM events LEFT JOIN people ON people.id = events.person
"""
FIND = (
    _EVENTS
    + """
WHERE (:before IS NULL OR events.number < :before)
    AND (:words = '' OR instr(lower(
        events.kind || ' ' || coalesce(people.name, '') || ' ' || coalesce(events.person, '') || ' ' || events.about
        || ' ' || events.address || ' ' || events.at), lower(:words)))
ORDER BY events.number DESC
LIMIT :count
"""
)


def find_events(
    connection: sqlite3.Connection, words: str = "", before: int | None = None, count: int = 100
) -> list[Event]:
    """The latest events that hold some words, newest first. Args: `before` is the number of one that is known."""
    rows = connection.execute(FIND, {"words": words, "before": before, "count": count})
    return [_event(row) for row in rows]


def events_of_item(connection: sqlite3.Connection, item: str, count: int) -> list[Event]:
    """What happened to an item lately, newest first."""
    rows = connection.execute(
        _EVENTS + "WHERE events.item = :item ORDER BY events.number DESC LIMIT :count", {"item": item, "count": count}
    )
    return [_event(row) for row in rows]


def _event(row: sqlite3.Row) -> Event:
    return Event(**{key: row[key] for key in row.keys()})  # noqa: SIM118 - a Row iterates over values
