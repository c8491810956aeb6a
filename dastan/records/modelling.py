"""Models that are being changed: a draft each, kept at every step, and the versions that were published."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class ModelStepKept:
    """One step of a model's draft and the document after it (JSON text). `text` is how somebody wrote it, of a step in
    the text; `parent` is the step that it was taken from, none for what was in use."""

    id: str
    parent: str | None
    words: str
    document: str
    text: str | None
    person_name: str | None
    at: str


@dataclass(frozen=True, slots=True)
class ModelDraft:
    """`base` is the document that was in use when it was begun; `shown_step` is the step that is shown."""

    base: str
    shown_step: str | None
    updated_at: str
    steps: tuple[ModelStepKept, ...]


@dataclass(frozen=True, slots=True)
class ModelVersion:
    """A document that was published, with what was changed by it."""

    number: int
    words: str
    person_name: str | None
    at: str


def model_draft(connection: sqlite3.Connection, model: str) -> ModelDraft | None:
    """The draft of a model; none where nobody changes it."""
    row = connection.execute(
        "SELECT base, shown_step, updated_at FROM model_drafts WHERE model = ?", (model,)
    ).fetchone()
    if row is None:
        return None
    steps = connection.execute(
        "SELECT model_steps.id, parent, words, document, text, people.name AS person_name, at FROM model_steps "
        "LEFT JOIN people ON people.id = model_steps.person WHERE model = ? ORDER BY place",
        (model,),
    )
    return ModelDraft(**dict(row), steps=tuple(ModelStepKept(**dict(each)) for each in steps))


def begin_model_draft(connection: sqlite3.Connection, model: str, base: str, now: str) -> None:
    connection.execute(
        "INSERT INTO model_drafts (model, base, shown_step, updated_at) VALUES (:model, :base, NULL, :now)",
        {"model": model, "base": base, "now": now},
    )


def keep_model_step(
    connection: sqlite3.Connection, model: str, *, id: str, parent: str | None, words: str, document: str,
    text: str | None, person: str, now: str,
) -> None:  # fmt: skip
    """Keeps a step as the newest, and shows it. What was taken from the same step before stays, as a branch."""
    connection.execute(
        "INSERT INTO model_steps (model, id, parent, place, words, document, text, person, at) VALUES "
        "(:model, :id, :parent, (SELECT coalesce(max(place), 0) + 1 FROM model_steps WHERE model = :model), :words, "
        ":document, :text, :person, :now)",
        {
            "model": model, "id": id, "parent": parent, "words": words, "document": document, "text": text,
            "person": person, "now": now,
        },
    )  # fmt: skip
    show_model_step(connection, model, id, now)


def show_model_step(connection: sqlite3.Connection, model: str, step: str | None, now: str) -> None:
    """Shows another step; without one, what was in use when the draft was begun. Raises NotFoundError."""
    found = connection.execute(
        "UPDATE model_drafts SET shown_step = :step, updated_at = :now WHERE model = :model "
        "AND (:step IS NULL OR EXISTS (SELECT 1 FROM model_steps WHERE model = :model AND id = :step))",
        {"model": model, "step": step, "now": now},
    )
    if found.rowcount == 0:
        raise NotFoundError("This step is not kept any more.", "Load the page anew.")


def discard_model_draft(connection: sqlite3.Connection, model: str) -> None:
    """Forgets a draft with all its steps."""
    connection.execute("DELETE FROM model_drafts WHERE model = ?", (model,))


def model_versions(connection: sqlite3.Connection, model: str) -> list[ModelVersion]:
    """What was published of a model, the newest first."""
    rows = connection.execute(
        "SELECT number, words, people.name AS person_name, at FROM model_versions "
        "LEFT JOIN people ON people.id = model_versions.person WHERE model = ? ORDER BY number DESC",
        (model,),
    )
    return [ModelVersion(**dict(row)) for row in rows]


def model_version(connection: sqlite3.Connection, model: str, number: int) -> str:
    """The text of a version. Raises NotFoundError."""
    row = connection.execute(
        "SELECT text FROM model_versions WHERE model = :model AND number = :number", {"model": model, "number": number}
    ).fetchone()
    if row is None:
        raise NotFoundError(f"There is no version {number} of this model.", "Load the page anew.")
    return str(row["text"])


def put_model_version(
    connection: sqlite3.Connection, model: str, text: str, words: str, person: str | None, now: str
) -> int:
    """Keeps what is published from now on; returns its number."""
    row = connection.execute(
        "INSERT INTO model_versions (model, number, text, words, person, at) VALUES (:model, "
        "(SELECT coalesce(max(number), 0) + 1 FROM model_versions WHERE model = :model), :text, :words, :person, :now) "
        "RETURNING number",
        {"model": model, "text": text, "words": words, "person": person, "now": now},
    ).fetchone()
    return int(row["number"])


@dataclass(frozen=True, slots=True)
class PlanPlace:
    """Where a table stands on the plan: its upper left corner, in pixels."""

    table: str
    x: float
    y: float


def plan_places(connection: sqlite3.Connection, model: str) -> list[PlanPlace]:
    """Where somebody has put tables."""
    rows = connection.execute("SELECT table_name, x, y FROM plan_places WHERE model = ?", (model,))
    return [PlanPlace(row["table_name"], row["x"], row["y"]) for row in rows]


def put_plan_places(connection: sqlite3.Connection, model: str, places: Iterable[PlanPlace]) -> None:
    """Where tables stand from now on; without any the plan is drawn by itself again."""
    connection.execute("DELETE FROM plan_places WHERE model = ?", (model,))
    connection.executemany(
        "INSERT INTO plan_places (model, table_name, x, y) VALUES (?, ?, ?, ?)",
        [(model, each.table, each.x, each.y) for each in places],
    )


def refused_offers(connection: sqlite3.Connection, model: str) -> set[str]:
    """The offers of a model that are not wanted."""
    return {row["offer"] for row in connection.execute("SELECT offer FROM refused_offers WHERE model = ?", (model,))}


def refuse_offer(connection: sqlite3.Connection, model: str, offer: str) -> None:
    connection.execute(
        "INSERT INTO refused_offers (model, offer) VALUES (:model, :offer) ON CONFLICT DO NOTHING",
        {"model": model, "offer": offer},
    )


def offer_again(connection: sqlite3.Connection, model: str) -> None:
    """Offers all that was refused once more."""
    connection.execute("DELETE FROM refused_offers WHERE model = ?", (model,))


@dataclass(frozen=True, slots=True)
class AskedAnalysis:
    """A saved analysis as far as a change of its model concerns it."""

    id: str
    name: str
    owner: str
    owner_name: str
    document: str
    version: int
    description: str
    sentence: str


def analyses_of_model(connection: sqlite3.Connection, model: str) -> list[AskedAnalysis]:
    """Every saved analysis that asks a model, whoever may see it; no frozen copy, which never changes."""
    rows = connection.execute(
        "SELECT items.id, items.name, items.owner, people.name AS owner_name, analysis_versions.document, "
        "items.version, items.description, analysis_versions.sentence "
        "FROM analyses JOIN items ON items.id = analyses.id JOIN people ON people.id = items.owner "
        "JOIN analysis_versions ON analysis_versions.analysis = items.id AND analysis_versions.number = items.version "
        "WHERE analyses.model = ? AND items.removed_at IS NULL "
        "AND NOT EXISTS (SELECT 1 FROM frozen_copies WHERE frozen_copies.id = items.id) ORDER BY items.name",
        (model,),
    )
    return [AskedAnalysis(**dict(row)) for row in rows]
