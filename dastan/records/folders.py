"""Folders: they nest, and what is granted on one holds for all within it."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from typing import Literal

from dastan.core.errors import ConflictError, InputError, NotFoundError
from dastan.records.item_rights import RIGHTS, May, may_of

NamePart = Literal["who", "folder", "what", "where", "when"]
"""What a name may be made of: its author, the folder, measures and dimensions, members that are kept, the time."""


@dataclass(frozen=True, slots=True)
class Folder:
    """A folder as somebody sees it. `parent` is the folder that it lies in, none where that is not theirs to see."""

    id: str
    parent: str | None
    name: str
    owner: str
    owner_name: str
    name_parts: tuple[NamePart, ...]
    may: May
    is_shared: bool
    """Whether others may see what lies in it."""


_SEEN = (
    RIGHTS
    + """
SELECT folders.id, folders.name, folders.owner, people.name AS owner_name, folders.name_parts, folder_rights.rank,
    CASE WHEN folders.parent IN (SELECT folder FROM folder_rights) THEN folders.parent END AS parent,
    EXISTS (SELECT 1 FROM item_grants WHERE item_grants.folder = folders.id) AS is_shared
FROM folders
JOIN folder_rights ON folder_rights.folder = folders.id
JOIN people ON people.id = folders.owner
"""
)


def folders_seen_by(connection: sqlite3.Connection, person: str) -> list[Folder]:
    """Every folder that a person may see, by name."""
    rows = connection.execute(_SEEN + "WHERE folders.removed_at IS NULL ORDER BY folders.name", {"person": person})
    return [_folder(row) for row in rows]


def folder_seen_by(connection: sqlite3.Connection, person: str, id: str) -> Folder:
    """One folder. Raises NotFoundError when there is none, or none that this person may see."""
    row = connection.execute(
        _SEEN + "WHERE folders.removed_at IS NULL AND folders.id = :id", {"person": person, "id": id}
    ).fetchone()
    if row is None:
        raise NotFoundError(
            "There is no such folder, or it is not shared with you.", "Look at the library again to see what there is."
        )
    return _folder(row)


def folders_removed_by(connection: sqlite3.Connection, person: str, since: str) -> list[Folder]:
    """The folders that were removed since a moment and that a person manages, without those that come back with one
    above, the last one first."""
    rows = connection.execute(
        _SEEN
        + """WHERE folders.removed_at >= :since AND folder_rights.rank = 4
        AND NOT EXISTS (
            SELECT 1 FROM folders AS above
            JOIN folder_rights AS own ON own.folder = above.id AND own.rank = 4
            WHERE above.id = folders.parent AND above.removed_at = folders.removed_at)
        ORDER BY folders.removed_at DESC""",
        {"person": person, "since": since},
    )
    return [_folder(row) for row in rows]


def _folder(row: sqlite3.Row) -> Folder:
    return Folder(
        row["id"], row["parent"], row["name"], row["owner"], row["owner_name"],
        tuple(json.loads(row["name_parts"])), may_of(row["rank"]), bool(row["is_shared"]),
    )  # fmt: skip


def put_folder(
    connection: sqlite3.Connection, *, id: str, owner: str, parent: str | None, name: str,
    name_parts: tuple[NamePart, ...] = (),
) -> None:  # fmt: skip
    """Makes a folder. Raises ConflictError where one of its name lies there already."""
    _check_name(connection, id, owner, parent, name)
    connection.execute(
        "INSERT INTO folders (id, owner, parent, name, name_parts) VALUES (:id, :owner, :parent, :name, :name_parts)",
        {"id": id, "owner": owner, "parent": parent, "name": name, "name_parts": json.dumps(name_parts)},
    )


def change_folder(
    connection: sqlite3.Connection, folder: Folder, *, parent: str | None, name: str, name_parts: tuple[NamePart, ...]
) -> None:
    """Names a folder anew, or lays it elsewhere. With the parent that it is seen to have, it stays where it is: what it
    lies in may not be the person's to see. Raises ConflictError, InputError for a place within itself."""
    if parent == folder.parent:
        parent = connection.execute("SELECT parent FROM folders WHERE id = :id", {"id": folder.id}).fetchone()["parent"]
    _check_name(connection, folder.id, folder.owner, parent, name)
    if parent is not None and parent in _within(connection, folder.id):
        raise InputError(f"“{folder.name}” cannot lie within itself.", "Choose a folder outside it.")
    connection.execute(
        "UPDATE folders SET parent = :parent, name = :name, name_parts = :name_parts WHERE id = :id",
        {"id": folder.id, "parent": parent, "name": name, "name_parts": json.dumps(name_parts)},
    )


def _check_name(connection: sqlite3.Connection, id: str, owner: str, parent: str | None, name: str) -> None:
    taken = connection.execute(
        "SELECT 1 FROM folders WHERE id <> :id AND parent IS :parent AND lower(name) = lower(:name) "
        "AND removed_at IS NULL AND (parent IS NOT NULL OR owner = :owner)",
        {"id": id, "owner": owner, "parent": parent, "name": name},
    ).fetchone()
    if taken is not None:
        raise ConflictError(f"There is a folder “{name}” here already.", "Give this one another name.")


_WITHIN = """
WITH RECURSIVE inside (folder) AS (
    SELECT :id UNION SELECT folders.id FROM inside JOIN folders ON folders.parent = inside.folder
)
SELECT folder FROM inside
"""


def _within(connection: sqlite3.Connection, id: str) -> list[str]:
    """A folder and all within it."""
    return [row["folder"] for row in connection.execute(_WITHIN, {"id": id})]


def remove_folder(connection: sqlite3.Connection, id: str, now: str) -> None:
    """Takes a folder out of sight with all that lies in it, at one moment, by which it can be brought back."""
    for table, column in (("folders", "id"), ("items", "folder")):
        connection.executemany(
            f"UPDATE {table} SET removed_at = :now WHERE {column} = :folder AND removed_at IS NULL",
            [{"now": now, "folder": each} for each in _within(connection, id)],
        )


def bring_back_folder(connection: sqlite3.Connection, person: str, id: str, since: str) -> None:
    """Brings back a folder with all that went with it. Raises NotFoundError for what is not there any more."""
    if id not in [each.id for each in folders_removed_by(connection, person, since)]:
        raise NotFoundError("There is no such folder to bring back.", "Open the library to see what there is.")
    moment = connection.execute("SELECT removed_at FROM folders WHERE id = :id", {"id": id}).fetchone()["removed_at"]
    for table, column in (("folders", "id"), ("items", "folder")):
        connection.executemany(
            f"UPDATE {table} SET removed_at = NULL WHERE {column} = :folder AND removed_at = :moment",
            [{"moment": moment, "folder": each} for each in _within(connection, id)],
        )
    # Where the folder above is gone, it stands outermost.
    connection.execute(
        "UPDATE folders SET parent = NULL WHERE id = :id "
        "AND parent IN (SELECT id FROM folders WHERE removed_at IS NOT NULL)",
        {"id": id},
    )
