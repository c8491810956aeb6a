"""Links to views: what somebody saw, for others to see with their own rights."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class Link:
    """A view. `document` is JSON text, and so is `cell`, the number that is meant; `item` is the analysis that it is a
    view of."""

    id: str
    model: str
    item: str | None
    made_by: str
    document: str
    cell: str | None


def put_link(
    connection: sqlite3.Connection, *, id: str, model: str, item: str | None, person: str, document: str,
    cell: str | None, now: str,
) -> None:  # fmt: skip
    connection.execute(
        "INSERT INTO links (id, model, item, made_by, made_at, document, cell) "
        "VALUES (:id, :model, :item, :person, :now, :document, :cell)",
        {"id": id, "model": model, "item": item, "person": person, "now": now, "document": document, "cell": cell},
    )


def find_link(connection: sqlite3.Connection, id: str) -> Link:
    """A link, whoever follows it: what they may see of it is told elsewhere. Raises NotFoundError."""
    row = connection.execute(
        "SELECT links.id, links.model, links.item, people.name AS made_by, links.document, links.cell "
        "FROM links JOIN people ON people.id = links.made_by WHERE links.id = :id",
        {"id": id},
    ).fetchone()
    if row is None:
        raise NotFoundError("This link leads nowhere any more.", "Ask whoever sent it for a new one.")
    return Link(**dict(row))
