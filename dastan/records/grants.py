"""Grants: which models a person may open, and by which of a model's roles."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass

EVERY_RECORD = ""
"""In place of a role: all records of the model are seen."""

_OF_PERSON = """
SELECT grants.role, grants.model FROM grants
WHERE grants.person = :person
    OR grants.person_group IN (SELECT person_group FROM group_members WHERE person = :person)
"""


def models_granted(connection: sqlite3.Connection, person: str) -> frozenset[str]:
    """The names of the models that a person may open, themselves or as one of a group."""
    return frozenset(row["model"] for row in connection.execute(_OF_PERSON, {"person": person}))


def roles_granted(connection: sqlite3.Connection, person: str, model: str) -> tuple[str, ...] | None:
    """The roles by which a person sees a model, by name: none of them where all records are seen; None where the
    person may not open it at all."""
    rows = connection.execute(_OF_PERSON, {"person": person}).fetchall()
    found = sorted({row["role"] for row in rows if row["model"] == model})
    if not found:
        return None
    return () if EVERY_RECORD in found else tuple(found)


def grant_to_person(connection: sqlite3.Connection, person: str, model: str, role: str = EVERY_RECORD) -> None:
    """Lets a person open a model, by a role of it; a second time changes nothing."""
    put_grant(connection, Grant(model, person, None, role))


@dataclass(frozen=True, slots=True)
class Grant:
    """A model granted to a person or to a group, by a role of the model or, with "", in whole."""

    model: str
    person: str | None
    group: str | None
    role: str


def all_grants(connection: sqlite3.Connection) -> list[Grant]:
    """Every grant, by model."""
    rows = connection.execute("SELECT model, person, person_group, role FROM grants ORDER BY model, role, person")
    return [Grant(row["model"], row["person"], row["person_group"], row["role"]) for row in rows]


def put_grant(connection: sqlite3.Connection, grant: Grant) -> None:
    """Grants; a second time changes nothing."""
    connection.execute(
        "INSERT INTO grants (model, person, person_group, role) VALUES (:model, :person, :group, :role) "
        "ON CONFLICT DO NOTHING",
        asdict(grant),
    )


def take_grant(connection: sqlite3.Connection, grant: Grant) -> bool:
    """Takes a grant back; whether it was there."""
    taken = connection.execute(
        "DELETE FROM grants WHERE model = :model AND person IS :person AND person_group IS :group AND role = :role",
        asdict(grant),
    )
    return taken.rowcount > 0
