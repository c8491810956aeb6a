"""Drafts: an analysis being worked on, kept at every step."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class DraftStep:
    """One step of the trail and the document after it (JSON text)."""

    number: int
    words: str
    sentence: str
    document: str


@dataclass(frozen=True, slots=True)
class Draft:
    """`position` is the step that is shown; `analysis` and its version are what it was opened from or saved
    as, and `saved_position` the step that was."""

    id: str
    model: str
    analysis: str | None
    analysis_version: int | None
    position: int
    saved_position: int | None
    updated_at: str


@dataclass(frozen=True, slots=True)
class DraftSummary:
    """A draft with changes that no analysis holds, for the library."""

    id: str
    model: str
    sentence: str
    analysis_name: str | None
    updated_at: str


def put_draft(
    connection: sqlite3.Connection,
    *,
    id: str,
    person: str,
    model: str,
    analysis: str | None,
    analysis_version: int | None,
    first: DraftStep,
    now: str,
) -> None:
    """Begins a draft with its first step."""
    connection.execute(
        "INSERT INTO drafts (id, person, model, analysis, analysis_version, saved_position, updated_at) "
        "VALUES (:id, :person, :model, :analysis, :analysis_version, :saved, :now)",
        {
            "id": id, "person": person, "model": model, "analysis": analysis, "now": now,
            "analysis_version": analysis_version, "saved": 0 if analysis else None,
        },
    )  # fmt: skip
    _put_step(connection, id, first)


def find_draft(connection: sqlite3.Connection, person: str, id: str) -> Draft:
    """A person's own draft. Raises NotFoundError."""
    row = connection.execute(
        "SELECT id, model, analysis, analysis_version, position, saved_position, updated_at FROM drafts "
        "WHERE id = :id AND person = :person",
        {"id": id, "person": person},
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such draft.", "Begin a new analysis, or open one from the library.")
    return Draft(*row)


def steps_of(connection: sqlite3.Connection, id: str) -> list[DraftStep]:
    """All steps of a draft, in order."""
    rows = connection.execute(
        "SELECT number, words, sentence, document FROM draft_steps WHERE draft = :id ORDER BY number", {"id": id}
    )
    return [DraftStep(*row) for row in rows]


def keep_step(connection: sqlite3.Connection, id: str, step: DraftStep, now: str) -> None:
    """Keeps a step as the newest: what had been undone beyond it is gone."""
    connection.execute(
        "DELETE FROM draft_steps WHERE draft = :id AND number >= :number", {"id": id, "number": step.number}
    )
    _put_step(connection, id, step)
    connection.execute(
        "UPDATE drafts SET position = :number, updated_at = :now, "
        "saved_position = CASE WHEN saved_position >= :number THEN NULL ELSE saved_position END WHERE id = :id",
        {"id": id, "number": step.number, "now": now},
    )


def move_draft(connection: sqlite3.Connection, id: str, position: int, now: str) -> None:
    """Shows another step. Nothing is lost by going back."""
    connection.execute(
        "UPDATE drafts SET position = :position, updated_at = :now WHERE id = :id",
        {"id": id, "position": position, "now": now},
    )


def note_saved(connection: sqlite3.Connection, id: str, analysis: str, analysis_version: int, position: int) -> None:
    """Remembers which analysis a draft is, as of which step."""
    connection.execute(
        "UPDATE drafts SET analysis = :analysis, analysis_version = :version, saved_position = :position "
        "WHERE id = :id",
        {"id": id, "analysis": analysis, "version": analysis_version, "position": position},
    )


UNSAVED = """
SELECT drafts.id, drafts.model, draft_steps.sentence, analyses.name AS analysis_name, drafts.updated_at
FROM drafts
JOIN draft_steps ON draft_steps.draft = drafts.id AND draft_steps.number = drafts.position
LEFT JOIN analyses ON analyses.id = drafts.analysis
WHERE drafts.person = :person AND drafts.position > 0 AND drafts.position IS NOT drafts.saved_position
ORDER BY drafts.updated_at DESC
LIMIT 12
"""


def unsaved_drafts(connection: sqlite3.Connection, person: str) -> list[DraftSummary]:
    """A person's drafts that differ from what is saved, newest first."""
    return [DraftSummary(*row) for row in connection.execute(UNSAVED, {"person": person})]


def forget_untouched(connection: sqlite3.Connection, person: str, before: str) -> None:
    """Removes a person's drafts that were opened before then and never changed: there is nothing in them."""
    connection.execute(
        "DELETE FROM drafts WHERE person = :person AND updated_at < :before "
        "AND NOT EXISTS (SELECT 1 FROM draft_steps WHERE draft = drafts.id AND number > 0)",
        {"person": person, "before": before},
    )


def remove_draft(connection: sqlite3.Connection, person: str, id: str) -> None:
    connection.execute("DELETE FROM drafts WHERE id = :id AND person = :person", {"id": id, "person": person})


def _put_step(connection: sqlite3.Connection, id: str, step: DraftStep) -> None:
    connection.execute(
        "INSERT INTO draft_steps (draft, number, words, sentence, document) "
        "VALUES (:id, :number, :words, :sentence, :document)",
        {"id": id, "number": step.number, "words": step.words, "sentence": step.sentence, "document": step.document},
    )
