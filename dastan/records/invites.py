"""Links by which somebody chooses a password."""

from __future__ import annotations

import sqlite3

from dastan.records.people import Person, find_person


def put_invite(connection: sqlite3.Connection, token_hash: str, person: str, expires_at: str) -> None:
    """Makes a link for a person; those made before no longer open anything."""
    connection.execute("DELETE FROM invites WHERE person = :person", {"person": person})
    connection.execute(
        "INSERT INTO invites (token_hash, person, expires_at) VALUES (:token_hash, :person, :expires_at)",
        {"token_hash": token_hash, "person": person, "expires_at": expires_at},
    )


def invited(connection: sqlite3.Connection, token_hash: str, now: str) -> Person | None:
    """Whom a link is for; None where it was used, has expired, or its person may not sign in."""
    row = connection.execute(
        "SELECT person FROM invites WHERE token_hash = :token_hash AND expires_at > :now",
        {"token_hash": token_hash, "now": now},
    ).fetchone()
    found = find_person(connection, row["person"]) if row is not None else None
    return found if found is not None and not found.is_disabled else None


def use_invite(connection: sqlite3.Connection, token_hash: str) -> bool:
    """Takes the link away; whether it was still there."""
    used = connection.execute("DELETE FROM invites WHERE token_hash = :token_hash", {"token_hash": token_hash})
    return used.rowcount > 0


def people_invited(connection: sqlite3.Connection, now: str) -> frozenset[str]:
    """Those who have a link that they have not used."""
    rows = connection.execute("SELECT person FROM invites WHERE expires_at > :now", {"now": now})
    return frozenset(row["person"] for row in rows)
