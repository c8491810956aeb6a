"""What people keep, of whatever kind: where it lies, what it is called, who opened it, and how it comes back."""

from __future__ import annotations

import sqlite3

from dastan.core.errors import NotFoundError
from dastan.records.item_rights import RIGHTS


def put_item(
    connection: sqlite3.Connection, *, id: str, kind: str, owner: str, folder: str | None, name: str, description: str,
    now: str,
) -> None:  # fmt: skip
    connection.execute(
        "INSERT INTO items (id, kind, owner, folder, name, description, version, updated_at) "
        "VALUES (:id, :kind, :owner, :folder, :name, :description, 1, :now)",
        {"id": id, "kind": kind, "owner": owner, "folder": folder, "name": name, "description": description,
         "now": now},
    )  # fmt: skip


def has_item(connection: sqlite3.Connection, id: str) -> bool:
    """Whether there is an item of that id, removed or not."""
    return connection.execute("SELECT 1 FROM items WHERE id = :id", {"id": id}).fetchone() is not None


def name_item(connection: sqlite3.Connection, id: str, *, name: str, description: str) -> None:
    """Calls an item something else: what it holds stays, and so does its version."""
    connection.execute(
        "UPDATE items SET name = :name, description = :description WHERE id = :id",
        {"id": id, "name": name, "description": description},
    )


def move_item(connection: sqlite3.Connection, id: str, folder: str | None) -> None:
    """Lays an item into a folder, or outermost."""
    connection.execute("UPDATE items SET folder = :folder WHERE id = :id", {"id": id, "folder": folder})


def remove_item(connection: sqlite3.Connection, id: str, now: str) -> None:
    """Takes an item out of everybody's sight. It can be brought back until it is forgotten."""
    connection.execute("UPDATE items SET removed_at = :now WHERE id = :id", {"id": id, "now": now})


_REMOVED = """
SELECT 1 FROM items JOIN item_rights ON item_rights.item = items.id
WHERE items.id = :id AND items.removed_at >= :since AND item_rights.rank = 4
"""


def bring_back_item(connection: sqlite3.Connection, person: str, id: str, since: str) -> None:
    """Brings back what was removed since a moment and a person manages; outermost, where its folder is gone.

    Raises NotFoundError for what is not there any more.
    """
    if connection.execute(RIGHTS + _REMOVED, {"person": person, "id": id, "since": since}).fetchone() is None:
        raise NotFoundError("There is no such analysis to bring back.", "Open the library to see what there is.")
    connection.execute(
        "UPDATE items SET removed_at = NULL, "
        "folder = (SELECT id FROM folders WHERE folders.id = items.folder AND folders.removed_at IS NULL) "
        "WHERE id = :id",
        {"id": id},
    )


def forget_removed(connection: sqlite3.Connection, before: str) -> None:
    """Forgets what was removed before a moment, for good."""
    connection.execute("DELETE FROM items WHERE removed_at < :before", {"before": before})
    connection.execute(
        "UPDATE items SET folder = NULL WHERE folder IN (SELECT id FROM folders WHERE removed_at < :before)",
        {"before": before},
    )
    connection.execute(
        "UPDATE folders SET parent = NULL WHERE parent IN (SELECT id FROM folders WHERE removed_at < :before)",
        {"before": before},
    )
    connection.execute("DELETE FROM folders WHERE removed_at < :before", {"before": before})


def note_visit(connection: sqlite3.Connection, id: str, person: str, now: str) -> None:
    """Remembers when a person opened an item last."""
    connection.execute(
        "INSERT INTO item_visits (item, person, opened_at) VALUES (:id, :person, :now) "
        "ON CONFLICT (item, person) DO UPDATE SET opened_at = excluded.opened_at",
        {"id": id, "person": person, "now": now},
    )


def set_favourite(connection: sqlite3.Connection, id: str, person: str, is_favourite: bool) -> None:
    """Puts an item among a person's favourites, or takes it from there; a second time changes nothing."""
    done = (
        "INSERT INTO favourites (item, person) VALUES (:id, :person) ON CONFLICT DO NOTHING"
        if is_favourite
        else "DELETE FROM favourites WHERE item = :id AND person = :person"
    )
    connection.execute(done, {"id": id, "person": person})
