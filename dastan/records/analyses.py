"""Saved analyses: what each is now, and every version that was saved before."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import ConflictError, NotFoundError
from dastan.records.item_rights import RIGHTS, May, is_enough, may_of
from dastan.records.items import put_item


@dataclass(frozen=True, slots=True)
class Frozen:
    """When and by whom numbers were frozen, to which day the data went, and from which analysis, if it is there."""

    at: str
    by: str
    data_to: str | None
    of_analysis: str | None


@dataclass(frozen=True, slots=True)
class SavedAnalysis:
    """An analysis as kept, for the person who asked. `document` is JSON text; `folder` is none where that is not theirs
    to see."""

    id: str
    model: str
    owner: str
    owner_name: str
    name: str
    description: str
    folder: str | None
    document: str
    sentence: str
    version: int
    updated_at: str
    may: May
    is_shared: bool
    """Whether it was granted to others by itself."""
    is_favourite: bool
    opened_at: str | None
    frozen: Frozen | None = None

    @property
    def may_change(self) -> bool:
        return is_enough(self.may, "change")


@dataclass(frozen=True, slots=True)
class SavedVersion:
    """One save of an analysis. Nobody is named where it was not noted who saved it."""

    number: int
    saved_at: str
    saved_by: str | None
    document: str
    sentence: str


_SEEN = (
    RIGHTS
    + """
SELECT items.id, analyses.model, items.owner, people.name AS owner_name, items.name, items.description,
    analysis_versions.document, analysis_versions.sentence, items.version, items.updated_at, item_rights.rank,
    item_visits.opened_at, favourites.item IS NOT NULL AS is_favourite,
    EXISTS (SELECT 1 FROM item_grants WHERE item_grants.item = items.id) AS is_shared,
    CASE WHEN items.folder IN (SELECT folder FROM folder_rights) THEN items.folder END AS folder,
    frozen_copies.frozen_at, frozen_copies.frozen_by, frozen_copies.data_to, frozen_copies.of_analysis
FROM items
JOIN item_rights ON item_rights.item = items.id
JOIN analyses ON analyses.id = items.id
JOIN analysis_versions ON analysis_versions.analysis = items.id AND analysis_versions.number = items.version
JOIN people ON people.id = items.owner
LEFT JOIN frozen_copies ON frozen_copies.id = items.id
LEFT JOIN item_visits ON item_visits.item = items.id AND item_visits.person = :person
LEFT JOIN favourites ON favourites.item = items.id AND favourites.person = :person
"""
)


def analyses_seen_by(connection: sqlite3.Connection, person: str) -> list[SavedAnalysis]:
    """Every analysis that a person may see, by name."""
    rows = connection.execute(
        _SEEN + "WHERE items.removed_at IS NULL ORDER BY items.name, items.id", {"person": person}
    )
    return [_analysis(row) for row in rows]


def analysis_seen_by(connection: sqlite3.Connection, person: str, id: str) -> SavedAnalysis:
    """One analysis. Raises NotFoundError when there is none, or none that this person may see."""
    row = connection.execute(
        _SEEN + "WHERE items.removed_at IS NULL AND items.id = :id", {"person": person, "id": id}
    ).fetchone()
    if row is None:
        raise NotFoundError(
            "There is no such analysis, or it is not shared with you.",
            "Ask its owner to share it, or open the library.",
        )
    return _analysis(row)


def model_asked_by(connection: sqlite3.Connection, id: str) -> str | None:
    """The name of the model that an analysis asks, whoever may see it; none where there is no such analysis."""
    row = connection.execute("SELECT model FROM analyses WHERE id = ?", (id,)).fetchone()
    return row["model"] if row is not None else None


def analyses_removed_by(connection: sqlite3.Connection, person: str, since: str) -> list[SavedAnalysis]:
    """The analyses that were removed since a moment and that a person manages, the last one first; without those that
    come back with a folder of theirs."""
    rows = connection.execute(
        _SEEN
        + """WHERE items.removed_at >= :since AND item_rights.rank = 4
        AND NOT EXISTS (
            SELECT 1 FROM folders JOIN folder_rights ON folder_rights.folder = folders.id AND folder_rights.rank = 4
            WHERE folders.id = items.folder AND folders.removed_at = items.removed_at)
        ORDER BY items.removed_at DESC""",
        {"person": person, "since": since},
    )
    return [_analysis(row) for row in rows]


def _analysis(row: sqlite3.Row) -> SavedAnalysis:
    frozen = None
    if row["frozen_at"] is not None:
        frozen = Frozen(row["frozen_at"], row["frozen_by"], row["data_to"], row["of_analysis"])
    return SavedAnalysis(
        row["id"], row["model"], row["owner"], row["owner_name"], row["name"], row["description"], row["folder"],
        row["document"], row["sentence"], row["version"], row["updated_at"], may_of(row["rank"]),
        bool(row["is_shared"]), bool(row["is_favourite"]), row["opened_at"],
        frozen,
    )  # fmt: skip


def put_analysis(
    connection: sqlite3.Connection,
    *,
    id: str,
    model: str,
    owner: str,
    name: str,
    description: str,
    folder: str | None,
    document: str,
    sentence: str,
    now: str,
) -> None:
    """Keeps a new analysis, with its first version."""
    put_item(
        connection, id=id, kind="analysis", owner=owner, folder=folder, name=name, description=description, now=now
    )
    connection.execute("INSERT INTO analyses (id, model) VALUES (:id, :model)", {"id": id, "model": model})
    _put_version(connection, id, owner, document, sentence, now)


UPDATE = """
UPDATE items SET name = :name, description = :description, version = version + 1, updated_at = :now
WHERE id = :id AND version = :version
"""


def change_analysis(
    connection: sqlite3.Connection,
    *,
    id: str,
    version: int,
    person: str,
    name: str,
    description: str,
    document: str,
    sentence: str,
    now: str,
) -> None:
    """Saves over an analysis, as its next version. Raises ConflictError when somebody saved since `version`."""
    values = {"id": id, "version": version, "name": name, "description": description, "now": now}
    if connection.execute(UPDATE, values).rowcount == 0:
        raise ConflictError(
            f"“{name}” was saved by somebody else since you opened it. Nothing was overwritten.",
            "Look at what they changed, then save over it, or save a copy.",
            code="saved-since",
        )
    _put_version(connection, id, person, document, sentence, now)


def _put_version(connection: sqlite3.Connection, id: str, person: str, document: str, sentence: str, now: str) -> None:
    connection.execute(
        "INSERT INTO analysis_versions (analysis, number, saved_at, saved_by, document, sentence) "
        "SELECT :id, version, :now, :person, :document, :sentence FROM items WHERE id = :id",
        {"id": id, "now": now, "person": person, "document": document, "sentence": sentence},
    )


_VERSIONS = """
SELECT number, saved_at, people.name AS saved_by, document, sentence
FROM analysis_versions LEFT JOIN people ON people.id = analysis_versions.saved_by
WHERE analysis = :id
"""


def versions_of(connection: sqlite3.Connection, id: str, count: int) -> list[SavedVersion]:
    """The latest versions of an analysis, newest first."""
    rows = connection.execute(_VERSIONS + "ORDER BY number DESC LIMIT :count", {"id": id, "count": count})
    return [SavedVersion(*row) for row in rows]


def version_of(connection: sqlite3.Connection, id: str, number: int) -> SavedVersion:
    """One version of an analysis. Raises NotFoundError."""
    row = connection.execute(_VERSIONS + "AND number = :number", {"id": id, "number": number}).fetchone()
    if row is None:
        raise NotFoundError("There is no such version of this analysis.", "Look at its versions again.")
    return SavedVersion(*row)
