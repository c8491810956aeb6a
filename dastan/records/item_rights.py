"""Who may do what with folders and with what lies in them: granted to people and groups, and passed on from each folder
to all within it. An owner manages what is theirs."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal, get_args

May = Literal["see", "explore", "change", "manage"]
"""What somebody may do, each with all before it: see it and go down in it; explore it by changes and copies of their
own; change it for everybody; manage who may do what, its name and its place."""
RANKS: tuple[May, ...] = get_args(May)
Kind = Literal["item", "folder"]

# What was removed passes nothing on: whoever lists it asks for it by itself.
RIGHTS = """
WITH RECURSIVE
held (item, folder, rank) AS (
    SELECT item, folder, CASE may WHEN 'see' THEN 1 WHEN 'explore' THEN 2 WHEN 'change' THEN 3 ELSE 4 END
    FROM item_grants
    WHERE person = :person
        OR person_group IN (SELECT person_group FROM group_members WHERE person = :person)
),
within (folder, rank) AS (
    SELECT id, 4 FROM folders WHERE owner = :person
    UNION
    SELECT folder, rank FROM held WHERE folder IS NOT NULL
    UNION
    SELECT folders.id, within.rank FROM within JOIN folders ON folders.parent = within.folder
),
folder_rights (folder, rank) AS (SELECT folder, max(rank) FROM within GROUP BY folder),
item_rights (item, rank) AS (
    SELECT item, max(rank) FROM (
        SELECT id AS item, 4 AS rank FROM items WHERE owner = :person
        UNION ALL
        SELECT item, rank FROM held WHERE item IS NOT NULL
        UNION ALL
        SELECT items.id, folder_rights.rank FROM items JOIN folder_rights ON folder_rights.folder = items.folder
    ) GROUP BY item
)
"""
"""Begins a query with two tables: `folder_rights` and `item_rights`, each thing that `:person` may see with a rank of
1 to 4, one for each of `RANKS`."""


def may_of(rank: int) -> May:
    """The right of a rank in RIGHTS."""
    return RANKS[rank - 1]


def is_enough(may: May, needed: May) -> bool:
    """Whether a right holds another one."""
    return RANKS.index(may) >= RANKS.index(needed)


def may_with(connection: sqlite3.Connection, person: str, item: str) -> May | None:
    """What a person may do with an item; None for what they may not see, or what was removed."""
    row = connection.execute(
        RIGHTS
        + """SELECT item_rights.rank FROM item_rights JOIN items ON items.id = item_rights.item
        WHERE item_rights.item = :item AND items.removed_at IS NULL""",
        {"person": person, "item": item},
    ).fetchone()
    return may_of(row["rank"]) if row is not None else None


@dataclass(frozen=True, slots=True)
class ItemGrant:
    """What a person or a group may do. `name` is theirs; `through` is the folder above that it comes from, none where
    it was granted on the thing itself."""

    person: str | None
    group: str | None
    name: str
    may: May
    through: str | None = None


_GRANTS = """
SELECT item_grants.person, item_grants.person_group, coalesce(people.name, person_groups.name) AS name, item_grants.may
FROM item_grants
LEFT JOIN people ON people.id = item_grants.person
LEFT JOIN person_groups ON person_groups.id = item_grants.person_group
"""
_ORDER = " ORDER BY item_grants.person_group IS NULL, name"


def grants_on(connection: sqlite3.Connection, kind: Kind, id: str) -> list[ItemGrant]:
    """What was granted on a thing itself, groups first, each by name."""
    rows = connection.execute(f"{_GRANTS} WHERE item_grants.{kind} = :id {_ORDER}", {"id": id})
    return [ItemGrant(row["person"], row["person_group"], row["name"], row["may"]) for row in rows]


_ABOVE = """
WITH RECURSIVE above (folder, depth) AS (
    SELECT :folder, 0 WHERE :folder IS NOT NULL
    UNION
    SELECT folders.parent, above.depth + 1 FROM above JOIN folders ON folders.id = above.folder
    WHERE folders.parent IS NOT NULL
)
SELECT folders.id, folders.name, folders.owner, people.name AS owner_name
FROM above JOIN folders ON folders.id = above.folder JOIN people ON people.id = folders.owner
ORDER BY depth
"""


def grants_above(connection: sqlite3.Connection, folder: str | None) -> list[ItemGrant]:
    """What folders pass on, from `folder` upwards: their owners manage all within them."""
    found: list[ItemGrant] = []
    for above in connection.execute(_ABOVE, {"folder": folder}):
        found.append(ItemGrant(above["owner"], None, above["owner_name"], "manage", above["name"]))
        for each in grants_on(connection, "folder", above["id"]):
            found.append(ItemGrant(each.person, each.group, each.name, each.may, above["name"]))
    return found


def set_grants(connection: sqlite3.Connection, kind: Kind, id: str, grants: list[ItemGrant]) -> None:
    """Makes just these the grants on a thing itself."""
    connection.execute(f"DELETE FROM item_grants WHERE {kind} = :id", {"id": id})
    connection.executemany(
        f"INSERT INTO item_grants ({kind}, person, person_group, may) VALUES (:id, :person, :group, :may)",
        [{"id": id, "person": each.person, "group": each.group, "may": each.may} for each in grants],
    )
