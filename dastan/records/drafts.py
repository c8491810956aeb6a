"""Drafts: an analysis being worked on, kept at every step."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class DraftStep:
    """One step of the trail and the document after it (JSON text). `parent` is the step that it was taken from."""

    id: str
    parent: str | None
    words: str
    sentence: str
    document: str
    name: str = ""


@dataclass(frozen=True, slots=True)
class Draft:
    """`shown_step` is the step that is shown; `analysis` and its version are what it was opened from or saved
    as, and `saved_step` the step that was."""

    id: str
    model: str
    analysis: str | None
    analysis_version: int | None
    shown_step: str
    saved_step: str | None
    updated_at: str
    is_frozen: bool
    """Whether it looks at numbers that were frozen."""


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
        "INSERT INTO drafts (id, person, model, analysis, analysis_version, shown_step, saved_step, updated_at) "
        "VALUES (:id, :person, :model, :analysis, :analysis_version, :shown, :saved, :now)",
        {
            "id": id, "person": person, "model": model, "analysis": analysis, "now": now,
            "analysis_version": analysis_version, "shown": first.id, "saved": first.id if analysis else None,
        },
    )  # fmt: skip
    _put_step(connection, id, first)


def find_draft(connection: sqlite3.Connection, person: str, id: str) -> Draft:
    """A person's own draft. Raises NotFoundError."""
    row = connection.execute(
        "SELECT id, model, analysis, analysis_version, shown_step, saved_step, updated_at, "
        "EXISTS (SELECT 1 FROM frozen_copies WHERE frozen_copies.id = drafts.analysis) AS is_frozen "
        "FROM drafts WHERE id = :id AND person = :person",
        {"id": id, "person": person},
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such draft.", "Begin a new analysis, or open one from the library.")
    return Draft(**{**dict(row), "is_frozen": bool(row["is_frozen"])})


def steps_of(connection: sqlite3.Connection, id: str) -> list[DraftStep]:
    """All steps of a draft on all its branches, in the order in which they were taken."""
    rows = connection.execute(
        "SELECT id, parent, words, sentence, document, name FROM trail_steps WHERE draft = :id ORDER BY place",
        {"id": id},
    )
    return [DraftStep(*row) for row in rows]


def keep_step(connection: sqlite3.Connection, id: str, step: DraftStep, now: str) -> None:
    """Keeps a step as the newest, and shows it. What was taken from the same step before stays, as a branch."""
    _put_step(connection, id, step)
    move_draft(connection, id, step.id, now)


def move_draft(connection: sqlite3.Connection, id: str, step: str, now: str) -> None:
    """Shows another step. Nothing is lost by going back."""
    moved = connection.execute(
        "UPDATE drafts SET shown_step = :step, updated_at = :now "
        "WHERE id = :id AND EXISTS (SELECT 1 FROM trail_steps WHERE draft = :id AND trail_steps.id = :step)",
        {"id": id, "step": step, "now": now},
    )
    if moved.rowcount == 0:
        raise NotFoundError("This step is not kept.", "It is sent again from the page that took it.", code="not-kept")


def has_step(connection: sqlite3.Connection, id: str, step: str) -> bool:
    """Whether a step of a draft is kept."""
    found = connection.execute("SELECT 1 FROM trail_steps WHERE draft = :id AND id = :step", {"id": id, "step": step})
    return found.fetchone() is not None


def name_step(connection: sqlite3.Connection, id: str, step: str, name: str) -> None:
    """Gives a step a name of its own; takes it away with an empty one."""
    connection.execute(
        "UPDATE trail_steps SET name = :name WHERE draft = :id AND id = :step", {"id": id, "step": step, "name": name}
    )


def note_saved(connection: sqlite3.Connection, id: str, analysis: str, analysis_version: int, step: str) -> None:
    """Remembers which analysis a draft is, as of which step."""
    connection.execute(
        "UPDATE drafts SET analysis = :analysis, analysis_version = :version, saved_step = :step WHERE id = :id",
        {"id": id, "analysis": analysis, "version": analysis_version, "step": step},
    )


UNSAVED = """
SELECT drafts.id, drafts.model, trail_steps.sentence, items.name AS analysis_name, drafts.updated_at
FROM drafts
JOIN trail_steps ON trail_steps.draft = drafts.id AND trail_steps.place = coalesce(
    (SELECT place FROM trail_steps WHERE draft = drafts.id AND id = drafts.shown_step),
    (SELECT max(place) FROM trail_steps WHERE draft = drafts.id))
LEFT JOIN items ON items.id = drafts.analysis
WHERE drafts.person = :person AND trail_steps.parent IS NOT NULL AND drafts.shown_step IS NOT drafts.saved_step
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
        "AND NOT EXISTS (SELECT 1 FROM trail_steps WHERE draft = drafts.id AND parent IS NOT NULL)",
        {"person": person, "before": before},
    )


def remove_draft(connection: sqlite3.Connection, person: str, id: str) -> None:
    connection.execute("DELETE FROM drafts WHERE id = :id AND person = :person", {"id": id, "person": person})


def _put_step(connection: sqlite3.Connection, id: str, step: DraftStep) -> None:
    connection.execute(
        "INSERT INTO trail_steps (draft, id, place, parent, words, name, sentence, document) "
        "SELECT :draft, :id, coalesce(max(place) + 1, 0), :parent, :words, :name, :sentence, :document "
        "FROM trail_steps WHERE draft = :draft "
        # Sent twice, what was answered last is what is kept.
        "ON CONFLICT (draft, id) DO UPDATE SET parent = excluded.parent, words = excluded.words, "
        "sentence = excluded.sentence, document = excluded.document",
        {
            "draft": id, "id": step.id, "parent": step.parent, "words": step.words, "name": step.name,
            "sentence": step.sentence, "document": step.document,
        },
    )  # fmt: skip
