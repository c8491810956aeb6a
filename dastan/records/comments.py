"""Comments: what people say of an analysis or of a cell of it, and whom they mean."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

import orjson

from dastan.core.errors import NotFoundError
from dastan.records.item_rights import RIGHTS


@dataclass(frozen=True, slots=True)
class KeptComment:
    """A comment as it is kept. `cell` is JSON text, none for the whole; `mentions` are the names of those it means."""

    id: str
    item: str
    author: str
    author_name: str
    said_at: str
    text: str
    cell: str | None
    mentions: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Mention:
    """A comment that means somebody who has not read it yet. `text` is empty where it is of one cell: what is said of
    that is for those who may see it."""

    comment: str
    item: str
    item_name: str
    author_name: str
    said_at: str
    text: str


def put_comment(
    connection: sqlite3.Connection, *, id: str, item: str, author: str, text: str, cell: str | None,
    mentions: Sequence[str], now: str,
) -> None:  # fmt: skip
    connection.execute(
        "INSERT INTO comments (id, item, author, said_at, text, cell) VALUES (:id, :item, :author, :now, :text, :cell)",
        {"id": id, "item": item, "author": author, "now": now, "text": text, "cell": cell},
    )
    connection.executemany(
        "INSERT INTO mentions (comment, person) VALUES (:id, :person) ON CONFLICT DO NOTHING",
        [{"id": id, "person": person} for person in mentions],
    )


def comments_of(connection: sqlite3.Connection, item: str, count: int) -> list[KeptComment]:
    """The latest comments on an item, the first of them first."""
    rows = connection.execute(
        "SELECT comments.id, item, author, people.name AS author_name, said_at, text, cell, "
        "(SELECT json_group_array(meant.name) FROM mentions JOIN people AS meant ON meant.id = mentions.person "
        "WHERE mentions.comment = comments.id) AS mentions "
        "FROM comments JOIN people ON people.id = comments.author "
        "WHERE item = :item ORDER BY said_at DESC, comments.id LIMIT :count",
        {"item": item, "count": count},
    ).fetchall()
    return [_comment(row) for row in reversed(rows)]


def _comment(row: sqlite3.Row) -> KeptComment:
    mentions = tuple(sorted(str(each) for each in orjson.loads(row["mentions"])))
    return KeptComment(**{**dict(row), "mentions": mentions})


def remove_comment(connection: sqlite3.Connection, item: str, id: str, author: str | None) -> None:
    """Takes a comment away: anybody's, or only that author's. Raises NotFoundError."""
    removed = connection.execute(
        "DELETE FROM comments WHERE id = :id AND item = :item AND (:author IS NULL OR author = :author)",
        {"id": id, "item": item, "author": author},
    )
    if removed.rowcount == 0:
        raise NotFoundError("There is no such comment of yours any more.", "Look at the comments again.")


def unread_mentions(connection: sqlite3.Connection, person: str, count: int) -> list[Mention]:
    """What means a person on things that they may see and have not read, the latest first."""
    rows = connection.execute(
        RIGHTS
        + """SELECT comments.id AS comment, comments.item, items.name AS item_name, people.name AS author_name,
            comments.said_at, CASE WHEN comments.cell IS NULL THEN comments.text ELSE '' END AS text
        FROM mentions
        JOIN comments ON comments.id = mentions.comment
        JOIN items ON items.id = comments.item AND items.removed_at IS NULL
        JOIN item_rights ON item_rights.item = items.id
        JOIN people ON people.id = comments.author
        WHERE mentions.person = :person AND mentions.read_at IS NULL
        ORDER BY comments.said_at DESC LIMIT :count""",
        {"person": person, "count": count},
    )
    return [Mention(**dict(row)) for row in rows]


def note_mentions_read(connection: sqlite3.Connection, item: str, person: str, now: str) -> None:
    """Remembers that a person has read all that is said of an item."""
    connection.execute(
        "UPDATE mentions SET read_at = :now WHERE person = :person AND read_at IS NULL "
        "AND comment IN (SELECT id FROM comments WHERE item = :item)",
        {"item": item, "person": person, "now": now},
    )
