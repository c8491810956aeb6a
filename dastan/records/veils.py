"""Tokens that stand for keys which a reader may not see."""

from __future__ import annotations

import hmac
import json
import sqlite3
from collections.abc import Iterable

from dastan.core.model.parts import Key


def token_for(secret: bytes, about: tuple[str, ...], key: Key) -> str:
    """The token of a key. Who does not know the secret can tell nothing by it, not even whether a guess was right."""
    text = json.dumps([*about, key], ensure_ascii=False)
    return hmac.new(secret, text.encode("utf-8", "surrogatepass"), "sha256").hexdigest()[:32]


def keep_veils(connection: sqlite3.Connection, keys: dict[str, Key]) -> None:
    """Remembers what tokens stand for."""
    connection.executemany(
        "INSERT INTO veils (token, key) VALUES (?, ?) ON CONFLICT DO NOTHING",
        [(token, json.dumps(key, ensure_ascii=False)) for token, key in keys.items()],
    )


def keys_behind(connection: sqlite3.Connection, tokens: Iterable[str]) -> dict[str, Key]:
    """What tokens stand for, of those that are known."""
    found = {}
    for token in set(tokens):
        row = connection.execute("SELECT key FROM veils WHERE token = :token", {"token": token}).fetchone()
        if row is not None:
            found[token] = json.loads(row["key"])
    return found
