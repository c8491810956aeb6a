"""Grants: which models a person may open, and by which of a model's roles."""

from __future__ import annotations

import sqlite3

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
    connection.execute(
        "INSERT INTO grants (model, person, role) VALUES (:model, :person, :role) ON CONFLICT DO NOTHING",
        {"model": model, "person": person, "role": role},
    )


def take_from_person(connection: sqlite3.Connection, person: str, model: str, role: str) -> None:
    """Takes one grant back; what a person has by a group stays."""
    connection.execute(
        "DELETE FROM grants WHERE model = :model AND person = :person AND role = :role",
        {"model": model, "person": person, "role": role},
    )
