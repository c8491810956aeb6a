"""Frozen copies: an analysis with the numbers that it had when somebody froze it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class FrozenCopy:
    """What is held of a frozen copy. `seen_as` is a JSON list, `model_document` a JSON text, `numbers` a file."""

    of_analysis: str | None
    frozen_at: str
    frozen_by: str
    data_to: str | None
    seen_as: str
    model_document: str
    numbers: bytes


_COLUMNS = "of_analysis, frozen_at, frozen_by, data_to, seen_as, model_document, numbers"


def put_frozen(connection: sqlite3.Connection, id: str, copy: FrozenCopy) -> None:
    """Makes an item that is there a frozen copy."""
    connection.execute(
        f"INSERT INTO frozen_copies (id, {_COLUMNS}) "
        "VALUES (:id, :of, :at, :by, :data_to, :seen_as, :model, :numbers)",
        {"id": id, "of": copy.of_analysis, "at": copy.frozen_at, "by": copy.frozen_by, "data_to": copy.data_to,
         "seen_as": copy.seen_as, "model": copy.model_document, "numbers": copy.numbers},
    )  # fmt: skip


def frozen_of(connection: sqlite3.Connection, id: str) -> FrozenCopy:
    """What a frozen copy holds. Raises NotFoundError."""
    row = connection.execute(
        f"SELECT {_COLUMNS} FROM frozen_copies WHERE id = :id",
        {"id": id},
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such frozen copy any more.", "Open the library to see what there is.")
    return FrozenCopy(*row)


def copy_frozen(connection: sqlite3.Connection, id: str, copied: str) -> None:
    """Lets a copy of a frozen copy hold the same numbers; does nothing where the first is none."""
    connection.execute(
        f"INSERT INTO frozen_copies (id, {_COLUMNS}) SELECT :copied, {_COLUMNS} FROM frozen_copies WHERE id = :id",
        {"id": id, "copied": copied},
    )
