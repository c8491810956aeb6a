"""Groups of people, to whom models can be granted together."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import ConflictError, NotFoundError


@dataclass(frozen=True, slots=True)
class Group:
    id: str
    name: str
    people: tuple[str, ...]
    claim: str | None = None
    """The provider's group that fills this one; by hand without."""


def all_groups(connection: sqlite3.Connection) -> list[Group]:
    """Every group with its people, by name."""
    members: dict[str, list[str]] = {}
    for row in connection.execute("SELECT person_group, person FROM group_members ORDER BY person"):
        members.setdefault(row["person_group"], []).append(row["person"])
    rows = connection.execute("SELECT id, name, claim FROM person_groups ORDER BY name")
    return [Group(row["id"], row["name"], tuple(members.get(row["id"], ())), row["claim"]) for row in rows]


def put_group(connection: sqlite3.Connection, id: str, name: str) -> None:
    """Adds a group. Raises ConflictError where there is one of that name."""
    try:
        connection.execute("INSERT INTO person_groups (id, name) VALUES (:id, :name)", {"id": id, "name": name})
    except sqlite3.IntegrityError as exc:
        raise ConflictError(f"There is a group “{name}” already.", "Give this one another name.") from exc


def remove_group(connection: sqlite3.Connection, id: str) -> None:
    """Takes a group away, with what was granted to it. Raises NotFoundError."""
    if connection.execute("DELETE FROM person_groups WHERE id = :id", {"id": id}).rowcount == 0:
        raise NotFoundError("There is no such group any more.", "Look at the list again.")


def set_members(connection: sqlite3.Connection, id: str, people: list[str]) -> None:
    """Makes just these people the members of a group."""
    connection.execute("DELETE FROM group_members WHERE person_group = :id", {"id": id})
    connection.executemany(
        "INSERT INTO group_members (person_group, person) VALUES (:id, :person) ON CONFLICT DO NOTHING",
        [{"id": id, "person": person} for person in people],
    )
