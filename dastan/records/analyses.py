"""Saved analyses, who they are shared with, and when they were opened."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import ConflictError, NotFoundError


@dataclass(frozen=True, slots=True)
class SavedAnalysis:
    """An analysis as kept. `may_change` is for the person who asked. `document` is JSON text."""

    id: str
    model: str
    owner: str
    owner_name: str
    name: str
    description: str
    folder: str
    document: str
    sentence: str
    version: int
    updated_at: str
    may_change: bool
    opened_at: str | None

    @classmethod
    def from_row(cls, row: sqlite3.Row) -> SavedAnalysis:
        values = {key: row[key] for key in row.keys()}  # noqa: SIM118 - a Row iterates over values
        values["may_change"] = bool(values["may_change"])
        return cls(**values)


@dataclass(frozen=True, slots=True)
class Share:
    person: str
    name: str
    may_change: bool


_SEEN_BY = """
SELECT analyses.id, analyses.model, analyses.owner, people.name AS owner_name, analyses.name, analyses.description,
    analyses.folder, analyses.document, analyses.sentence, analyses.version, analyses.updated_at,
    analyses.owner = :person OR coalesce(shares.may_change, 0) AS may_change, visits.opened_at
FROM analyses
JOIN people ON people.id = analyses.owner
LEFT JOIN shares ON shares.analysis = analyses.id AND shares.person = :person
LEFT JOIN visits ON visits.analysis = analyses.id AND visits.person = :person
"""
_KEPT = _SEEN_BY + "WHERE (analyses.owner = :person OR shares.person IS NOT NULL) AND analyses.removed_at IS NULL "
ALL_SEEN = _KEPT + "ORDER BY analyses.folder, analyses.name, analyses.id"
ONE_SEEN = _KEPT + "AND analyses.id = :id"
_REMOVED = _SEEN_BY + "WHERE analyses.owner = :person AND analyses.removed_at >= :since "
ALL_REMOVED = _REMOVED + "ORDER BY analyses.removed_at DESC"
ONE_REMOVED = _REMOVED + "AND analyses.id = :id"


def analyses_seen_by(connection: sqlite3.Connection, person: str) -> list[SavedAnalysis]:
    """Every analysis that is a person's own or shared with them, by folder and name."""
    return [SavedAnalysis.from_row(row) for row in connection.execute(ALL_SEEN, {"person": person})]


def analysis_seen_by(connection: sqlite3.Connection, person: str, id: str) -> SavedAnalysis:
    """One analysis. Raises NotFoundError when there is none, or none that this person may see."""
    row = connection.execute(ONE_SEEN, {"person": person, "id": id}).fetchone()
    if row is None:
        raise NotFoundError(
            "There is no such analysis, or it is not shared with you.",
            "Ask its owner to share it, or open the library.",
        )
    return SavedAnalysis.from_row(row)


INSERT = """
INSERT INTO analyses (id, model, owner, name, description, folder, document, sentence, version, updated_at)
VALUES (:id, :model, :owner, :name, :description, :folder, :document, :sentence, 1, :now)
"""


def put_analysis(
    connection: sqlite3.Connection,
    *,
    id: str,
    model: str,
    owner: str,
    name: str,
    description: str,
    folder: str,
    document: str,
    sentence: str,
    now: str,
) -> None:
    values = {
        "id": id, "model": model, "owner": owner, "name": name, "description": description, "folder": folder,
        "document": document, "sentence": sentence, "now": now,
    }  # fmt: skip
    connection.execute(INSERT, values)


UPDATE = """
UPDATE analyses SET name = :name, description = :description, folder = :folder, document = :document,
    sentence = :sentence, version = version + 1, updated_at = :now
WHERE id = :id AND version = :version
"""


def change_analysis(
    connection: sqlite3.Connection,
    *,
    id: str,
    version: int,
    name: str,
    description: str,
    folder: str,
    document: str,
    sentence: str,
    now: str,
) -> None:
    """Saves over an analysis. Raises ConflictError when somebody saved since `version`."""
    values = {
        "id": id, "version": version, "name": name, "description": description, "folder": folder,
        "document": document, "sentence": sentence, "now": now,
    }  # fmt: skip
    if connection.execute(UPDATE, values).rowcount == 0:
        raise ConflictError(
            f"“{name}” was saved by somebody else since you opened it. Nothing was overwritten.",
            "Save a copy under another name, or open theirs.",
        )


RENAME = "UPDATE analyses SET name = :name, description = :description, folder = :folder WHERE id = :id"


def rename_analysis(connection: sqlite3.Connection, id: str, *, name: str, description: str, folder: str) -> None:
    """Calls an analysis something else, or lays it elsewhere: what it asks stays, and so does its version."""
    connection.execute(RENAME, {"id": id, "name": name, "description": description, "folder": folder})


def remove_analysis(connection: sqlite3.Connection, id: str, now: str) -> None:
    """Takes an analysis out of everybody's sight. It can be brought back until it is forgotten."""
    connection.execute("UPDATE analyses SET removed_at = :now WHERE id = :id", {"id": id, "now": now})


def bring_back_analysis(connection: sqlite3.Connection, person: str, id: str, since: str) -> None:
    """Brings back what a person removed since a moment. Raises NotFoundError for what is not there any more."""
    if connection.execute(ONE_REMOVED, {"person": person, "id": id, "since": since}).fetchone() is None:
        raise NotFoundError("There is no such analysis to bring back.", "Open the library to see what there is.")
    connection.execute("UPDATE analyses SET removed_at = NULL WHERE id = :id", {"id": id})


def analyses_removed_by(connection: sqlite3.Connection, person: str, since: str) -> list[SavedAnalysis]:
    """The analyses that a person removed since a moment, the last one first."""
    rows = connection.execute(ALL_REMOVED, {"person": person, "since": since})
    return [SavedAnalysis.from_row(row) for row in rows]


def forget_removed(connection: sqlite3.Connection, before: str) -> None:
    """Forgets what was removed before a moment, for good."""
    connection.execute("DELETE FROM analyses WHERE removed_at < :before", {"before": before})


def shares_of(connection: sqlite3.Connection, id: str) -> list[Share]:
    """Whom an analysis is shared with, by name."""
    rows = connection.execute(
        "SELECT people.id, people.name, shares.may_change FROM shares JOIN people ON people.id = shares.person "
        "WHERE shares.analysis = :id ORDER BY people.name",
        {"id": id},
    )
    return [Share(row["id"], row["name"], bool(row["may_change"])) for row in rows]


def set_shares(connection: sqlite3.Connection, id: str, shares: list[tuple[str, bool]]) -> None:
    """Shares an analysis with just these people."""
    connection.execute("DELETE FROM shares WHERE analysis = :id", {"id": id})
    connection.executemany(
        "INSERT INTO shares (analysis, person, may_change) VALUES (:id, :person, :may_change)",
        [{"id": id, "person": person, "may_change": int(may_change)} for person, may_change in shares],
    )


VISIT = """
INSERT INTO visits (analysis, person, opened_at) VALUES (:id, :person, :now)
ON CONFLICT (analysis, person) DO UPDATE SET opened_at = excluded.opened_at
"""


def note_visit(connection: sqlite3.Connection, id: str, person: str, now: str) -> None:
    connection.execute(VISIT, {"id": id, "person": person, "now": now})
