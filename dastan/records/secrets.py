"""Secrets of these records' own, from which nothing outside them can be told."""

from __future__ import annotations

import secrets
import sqlite3


def secret_of(connection: sqlite3.Connection, name: str) -> bytes:
    """The secret of a name, made when it is first asked for, and the same as long as the records last."""
    connection.execute(
        "INSERT INTO secrets (name, value) VALUES (:name, :value) ON CONFLICT DO NOTHING",
        {"name": name, "value": secrets.token_bytes(32)},
    )
    found: bytes = connection.execute("SELECT value FROM secrets WHERE name = :name", {"name": name}).fetchone()[0]
    return found
