"""People and their sessions."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Person:
    id: str
    sign_in: str
    name: str

    @classmethod
    def from_row(cls, row: sqlite3.Row) -> Person:
        return cls(row["id"], row["sign_in"], row["name"])


@dataclass(frozen=True, slots=True)
class Session:
    person: Person
    csrf: str


PUT_PERSON = """
INSERT INTO people (id, sign_in, name, password_hash) VALUES (:id, :sign_in, :name, :password_hash)
ON CONFLICT (id) DO UPDATE SET name = excluded.name, password_hash = excluded.password_hash
"""


def put_person(connection: sqlite3.Connection, person: Person, password_hash: str | None) -> None:
    connection.execute(
        PUT_PERSON,
        {"id": person.id, "sign_in": person.sign_in, "name": person.name, "password_hash": password_hash},
    )


def all_people(connection: sqlite3.Connection) -> list[Person]:
    """Everybody, by name."""
    return [Person.from_row(row) for row in connection.execute("SELECT id, sign_in, name FROM people ORDER BY name")]


def password_of(connection: sqlite3.Connection, sign_in: str) -> tuple[Person, str] | None:
    """A person with a password, by the name they sign in with."""
    row = connection.execute(
        "SELECT id, sign_in, name, password_hash FROM people WHERE sign_in = :sign_in AND password_hash IS NOT NULL",
        {"sign_in": sign_in},
    ).fetchone()
    return (Person.from_row(row), row["password_hash"]) if row else None


def put_look(connection: sqlite3.Connection, person: str, look: str | None) -> None:
    """Keeps the look that a person's new analyses begin with, as JSON; the usual one without."""
    connection.execute("UPDATE people SET look = :look WHERE id = :person", {"person": person, "look": look})


def look_of(connection: sqlite3.Connection, person: str) -> str | None:
    """The look that a person's new analyses begin with, as JSON."""
    row = connection.execute("SELECT look FROM people WHERE id = :person", {"person": person}).fetchone()
    return row["look"] if row else None


INSERT_SESSION = """
INSERT INTO sessions (token_hash, person, csrf, expires_at) VALUES (:token_hash, :person, :csrf, :expires_at)
"""


def put_session(connection: sqlite3.Connection, token_hash: str, person: str, csrf: str, expires_at: str) -> None:
    connection.execute(
        INSERT_SESSION, {"token_hash": token_hash, "person": person, "csrf": csrf, "expires_at": expires_at}
    )


FIND_SESSION = """
SELECT people.id, people.sign_in, people.name, sessions.csrf
FROM sessions JOIN people ON people.id = sessions.person
WHERE sessions.token_hash = :token_hash AND sessions.expires_at > :now
"""


def find_session(connection: sqlite3.Connection, token_hash: str, now: str) -> Session | None:
    row = connection.execute(FIND_SESSION, {"token_hash": token_hash, "now": now}).fetchone()
    return Session(Person.from_row(row), row["csrf"]) if row else None


def end_session(connection: sqlite3.Connection, token_hash: str) -> None:
    connection.execute("DELETE FROM sessions WHERE token_hash = :token_hash", {"token_hash": token_hash})


def forget_expired_sessions(connection: sqlite3.Connection, now: str) -> None:
    connection.execute("DELETE FROM sessions WHERE expires_at <= :now", {"now": now})
