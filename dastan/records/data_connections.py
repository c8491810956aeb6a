"""Databases that tables are fetched from."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass

from dastan.core.errors import NotFoundError


@dataclass(frozen=True, slots=True)
class DataConnection:
    """Where a database is, and as whom it is asked. `sealed` is the password, which the records cannot open."""

    id: str
    caption: str
    host: str
    port: int
    database_name: str
    sign_in: str
    encryption: str
    sealed: bytes


_COLUMNS = "id, caption, host, port, database_name, sign_in, encryption, sealed"


def put_data_connection(connection: sqlite3.Connection, made: DataConnection, person: str, now: str) -> None:
    connection.execute(
        f"INSERT INTO data_connections ({_COLUMNS}, made_by, made_at) VALUES "
        "(:id, :caption, :host, :port, :database_name, :sign_in, :encryption, :sealed, :person, :now)",
        asdict(made) | {"person": person, "now": now},
    )


def data_connections(connection: sqlite3.Connection) -> list[DataConnection]:
    """All of them, by caption."""
    rows = connection.execute(f"SELECT {_COLUMNS} FROM data_connections ORDER BY caption, id")
    return [DataConnection(**dict(row)) for row in rows]


def find_data_connection(connection: sqlite3.Connection, id: str) -> DataConnection:
    """The one of that id. Raises NotFoundError."""
    row = connection.execute(f"SELECT {_COLUMNS} FROM data_connections WHERE id = ?", (id,)).fetchone()
    if row is None:
        raise NotFoundError("This connection is not here any more.", "Ask an administrator to make it anew.")
    return DataConnection(**dict(row))


def remove_data_connection(connection: sqlite3.Connection, id: str) -> None:
    """Takes one away, with its password. What was fetched stays. Raises NotFoundError."""
    find_data_connection(connection, id)
    connection.execute("DELETE FROM data_connections WHERE id = ?", (id,))
