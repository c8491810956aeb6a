"""Who people are to the provider that they sign on with, and the groups that it names for them."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from typing import Literal

from dastan.records.people import Person, end_sessions_of, find_person

SignsOn = Literal["no", "awaited", "yes"]


def person_of_identity(connection: sqlite3.Connection, issuer: str, subject: str) -> Person | None:
    """The person whom a provider knows by a subject."""
    row = connection.execute(
        "SELECT person FROM identities WHERE issuer = :issuer AND subject = :subject",
        {"issuer": issuer, "subject": subject},
    ).fetchone()
    return find_person(connection, row["person"]) if row is not None else None


def let_sign_on(connection: sqlite3.Connection, person: str, issuer: str | None = None, subject: str = "") -> None:
    """Lets a person in by the provider: whoever comes first with their name, or just the one it knows by a subject."""
    connection.execute(
        "INSERT INTO identities (person, issuer, subject) VALUES (:person, :issuer, :subject) "
        "ON CONFLICT (person) DO UPDATE SET issuer = excluded.issuer, subject = excluded.subject",
        {"person": person, "issuer": issuer, "subject": subject if issuer is not None else None},
    )


def end_sign_on(connection: sqlite3.Connection, person: str) -> None:
    """No longer lets a person in by the provider: out of the groups that it fills, and signed out at once."""
    connection.execute("DELETE FROM identities WHERE person = :person", {"person": person})
    set_claims(connection, person, ())
    end_sessions_of(connection, person)


def all_who_sign_on(connection: sqlite3.Connection) -> dict[str, SignsOn]:
    """Everybody whom the provider lets in, and whether they have come."""
    rows = connection.execute("SELECT person, subject FROM identities")
    return {row["person"]: "awaited" if row["subject"] is None else "yes" for row in rows}


def set_claims(connection: sqlite3.Connection, person: str, names: Iterable[str]) -> None:
    """Makes these the groups that the provider names for a person, who is then in just those that they fill."""
    connection.execute("DELETE FROM claimed_groups WHERE person = :person", {"person": person})
    connection.executemany(
        "INSERT INTO claimed_groups (person, name) VALUES (?, ?) ON CONFLICT DO NOTHING",
        [(person, name) for name in names],
    )
    connection.execute(
        "DELETE FROM group_members WHERE person = :person "
        "AND person_group IN (SELECT id FROM person_groups WHERE claim IS NOT NULL)",
        {"person": person},
    )
    connection.execute(
        "INSERT INTO group_members (person_group, person) SELECT person_groups.id, :person FROM person_groups "
        "JOIN claimed_groups ON claimed_groups.name = person_groups.claim WHERE claimed_groups.person = :person",
        {"person": person},
    )


def fill_group(connection: sqlite3.Connection, group: str, claim: str | None) -> None:
    """Fills a group with the people of one of the provider's from now on; by hand again without, as it stands then."""
    connection.execute("UPDATE person_groups SET claim = :claim WHERE id = :group", {"group": group, "claim": claim})
    if claim is not None:
        connection.execute("DELETE FROM group_members WHERE person_group = :group", {"group": group})
        connection.execute(
            "INSERT INTO group_members (person_group, person) "
            "SELECT :group, person FROM claimed_groups WHERE name = :claim",
            {"group": group, "claim": claim},
        )


def claims_seen(connection: sqlite3.Connection) -> list[str]:
    """Every group that the provider has named for somebody."""
    return [row["name"] for row in connection.execute("SELECT DISTINCT name FROM claimed_groups ORDER BY name")]
