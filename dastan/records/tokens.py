"""Tokens by which a person's other programs read what they may see, until they expire. Only hashes are kept."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError
from dastan.records.people import Person

_COLUMNS = """tokens.id, tokens.name, tokens.item, items.name AS item_name, tokens.made_at, tokens.expires_at,
    tokens.used_at, tokens.used_from"""


@dataclass(frozen=True, slots=True)
class Token:
    """A token as its person sees it: what it reads, until when, and when and from where it was used last."""

    id: str
    name: str
    item: str | None
    """The one analysis that it reads; all that the person may see without."""
    item_name: str | None
    made_at: str
    expires_at: str
    used_at: str | None
    used_from: str


def put_token(
    connection: sqlite3.Connection, *, id: str, token_hash: str, person: str, name: str, item: str | None, now: str,
    expires_at: str,
) -> None:  # fmt: skip
    connection.execute(
        "INSERT INTO tokens (id, token_hash, person, name, item, made_at, expires_at) "
        "VALUES (:id, :token_hash, :person, :name, :item, :now, :expires_at)",
        {"id": id, "token_hash": token_hash, "person": person, "name": name, "item": item, "now": now,
         "expires_at": expires_at},
    )  # fmt: skip


def tokens_of(connection: sqlite3.Connection, person: str) -> list[Token]:
    """A person's tokens, the newest first, expired ones too: they say what stopped reading."""
    rows = connection.execute(
        f"SELECT {_COLUMNS} FROM tokens LEFT JOIN items ON items.id = tokens.item "
        "WHERE tokens.person = :person ORDER BY tokens.made_at DESC, tokens.id",
        {"person": person},
    )
    return [Token(*row) for row in rows]


def remove_token(connection: sqlite3.Connection, person: str, id: str) -> None:
    """Ends a token. Raises NotFoundError."""
    removed = connection.execute("DELETE FROM tokens WHERE id = :id AND person = :person", {"id": id, "person": person})
    if removed.rowcount == 0:
        raise NotFoundError("There is no such token any more.", "Look at the list again.")


def person_with_token(connection: sqlite3.Connection, token_hash: str, now: str) -> tuple[Person, Token] | None:
    """Whose token it is; nobody's where it has expired, or its person may not sign in any more."""
    row = connection.execute(
        f"SELECT people.id AS person, people.sign_in, people.name AS person_name, {_COLUMNS} FROM tokens "
        "JOIN people ON people.id = tokens.person LEFT JOIN items ON items.id = tokens.item "
        "WHERE tokens.token_hash = :token_hash AND tokens.expires_at > :now AND people.disabled_at IS NULL",
        {"token_hash": token_hash, "now": now},
    ).fetchone()
    if row is None:
        return None
    # Whatever its person administers, a token reads and does nothing else.
    return Person(row["person"], row["sign_in"], row["person_name"]), Token(*tuple(row)[3:])


def note_use(connection: sqlite3.Connection, id: str, now: str, address: str) -> None:
    """Remembers when a token was used last, and from where."""
    connection.execute(
        "UPDATE tokens SET used_at = :now, used_from = :address WHERE id = :id",
        {"id": id, "now": now, "address": address},
    )
