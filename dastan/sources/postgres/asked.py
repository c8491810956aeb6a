"""What is asked of a database, and what it has: light, for whatever only speaks of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Encryption = Literal["prefer", "require", "verify-full"]
"""Of the way there: where the server can, always, or always and only to a server whose certificate is its own."""


@dataclass(frozen=True, slots=True)
class ServerAddress:
    """Where a database is, and as whom it is asked."""

    host: str
    port: int
    database: str
    sign_in: str
    encryption: Encryption = "prefer"


@dataclass(frozen=True, slots=True)
class DatabaseTable:
    """A table or view that may be read; `records` is what the server takes it to have, 0 where it does not know."""

    schema: str
    name: str
    kind: Literal["table", "view"]
    records: int
    description: str


@dataclass(frozen=True, slots=True)
class Wanted:
    """A table by its schema and name; or, under that name, what a query comes to."""

    name: str
    schema: str = ""
    query: str = ""
