"""Models that people brought, and whose they are."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class BroughtModel:
    """A model by its name, and who brought it."""

    name: str
    caption: str
    owner: str


def put_model(connection: sqlite3.Connection, name: str, caption: str, owner: str, now: str) -> None:
    connection.execute(
        "INSERT INTO models (name, caption, owner, brought_at) VALUES (:name, :caption, :owner, :now)",
        {"name": name, "caption": caption, "owner": owner, "now": now},
    )


def models_of(connection: sqlite3.Connection, owner: str) -> list[BroughtModel]:
    """The models that a person brought, by caption; those that they deleted too."""
    rows = connection.execute(
        "SELECT name, caption, owner FROM models WHERE owner = ? ORDER BY caption, name", (owner,)
    )
    return [BroughtModel(**dict(row)) for row in rows]


def own_model(connection: sqlite3.Connection, name: str, owner: str) -> BroughtModel:
    """A model that a person brought. Raises NotFoundError, whether there is none or it is another's."""
    for each in models_of(connection, owner):
        if each.name == name:
            return each
    raise NotFoundError("This model was not brought by you.", "Ask whoever put it there.")


def rename_model(connection: sqlite3.Connection, name: str, caption: str) -> None:
    connection.execute("UPDATE models SET caption = :caption WHERE name = :name", {"name": name, "caption": caption})
