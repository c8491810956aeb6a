"""People and their sessions."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace

SIGN_IN_PATTERN = r"^[a-z0-9][a-z0-9._@-]{0,99}$"
"""What somebody may sign in as."""


@dataclass(frozen=True, slots=True)
class Person:
    id: str
    sign_in: str
    name: str
    is_administrator: bool = False
    is_disabled: bool = False
    sees_as: str | None = None
    """The person with whose rights this one looks at models, in the session that asks; their own without."""

    @property
    def rights_of(self) -> str:
        """Whose grants say what this person sees."""
        return self.sees_as or self.id

    @classmethod
    def from_row(cls, row: sqlite3.Row) -> Person:
        return cls(
            row["id"], row["sign_in"], row["name"], bool(row["is_administrator"]), row["disabled_at"] is not None
        )


@dataclass(frozen=True, slots=True)
class Session:
    id: str
    person: Person
    csrf: str
    sees_as_name: str | None = None
    """What the person is called with whose rights this session looks at models."""


@dataclass(frozen=True, slots=True)
class SessionSummary:
    """A session as its person sees it in a list: since when, from where, by what."""

    id: str
    began_at: str
    address: str
    browser: str


_COLUMNS = "people.id, people.sign_in, people.name, people.is_administrator, people.disabled_at"

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
    return [Person.from_row(row) for row in connection.execute(f"SELECT {_COLUMNS} FROM people ORDER BY name, id")]


def password_of(connection: sqlite3.Connection, sign_in: str) -> tuple[Person, str] | None:
    """A person with a password, by the name they sign in with."""
    row = connection.execute(
        f"SELECT {_COLUMNS}, password_hash FROM people "
        "WHERE sign_in = :sign_in AND password_hash IS NOT NULL AND disabled_at IS NULL",
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


def find_person(connection: sqlite3.Connection, id: str) -> Person | None:
    row = connection.execute(f"SELECT {_COLUMNS} FROM people WHERE id = :id", {"id": id}).fetchone()
    return Person.from_row(row) if row else None


def put_name(connection: sqlite3.Connection, person: str, name: str) -> None:
    connection.execute("UPDATE people SET name = :name WHERE id = :person", {"person": person, "name": name})


def set_password(connection: sqlite3.Connection, person: str, password_hash: str | None) -> None:
    connection.execute(
        "UPDATE people SET password_hash = :password_hash WHERE id = :person",
        {"person": person, "password_hash": password_hash},
    )


def set_administrator(connection: sqlite3.Connection, person: str, is_administrator: bool) -> None:
    connection.execute(
        "UPDATE people SET is_administrator = :is_administrator WHERE id = :person",
        {"person": person, "is_administrator": int(is_administrator)},
    )


def set_disabled(connection: sqlite3.Connection, person: str, at: str | None) -> None:
    """Keeps a person from signing in from a moment on, and ends their sessions; lets them in again without one."""
    connection.execute("UPDATE people SET disabled_at = :at WHERE id = :person", {"person": person, "at": at})
    if at is not None:
        end_sessions_of(connection, person)


INSERT_SESSION = """
INSERT INTO sessions (token_hash, id, person, csrf, began_at, expires_at, address, browser)
VALUES (:token_hash, :id, :person, :csrf, :began_at, :expires_at, :address, :browser)
"""


def put_session(
    connection: sqlite3.Connection,
    *,
    token_hash: str,
    id: str,
    person: str,
    csrf: str,
    began_at: str,
    expires_at: str,
    address: str = "",
    browser: str = "",
) -> None:
    values = {
        "token_hash": token_hash, "id": id, "person": person, "csrf": csrf, "began_at": began_at,
        "expires_at": expires_at, "address": address, "browser": browser[:200],
    }  # fmt: skip
    connection.execute(INSERT_SESSION, values)


FIND_SESSION = f"""
SELECT {_COLUMNS}, sessions.id AS session, sessions.csrf, sessions.sees_as, others.name AS sees_as_name
FROM sessions JOIN people ON people.id = sessions.person LEFT JOIN people AS others ON others.id = sessions.sees_as
WHERE sessions.token_hash = :token_hash AND sessions.expires_at > :now AND people.disabled_at IS NULL
"""


def find_session(connection: sqlite3.Connection, token_hash: str, now: str) -> Session | None:
    row = connection.execute(FIND_SESSION, {"token_hash": token_hash, "now": now}).fetchone()
    if row is None:
        return None
    person = Person.from_row(row)
    # Whoever is no administrator any more sees with their own rights alone.
    sees_as, name = (row["sees_as"], row["sees_as_name"]) if person.is_administrator else (None, None)
    return Session(row["session"], replace(person, sees_as=sees_as), row["csrf"], name)


def set_sees_as(connection: sqlite3.Connection, session: str, person: str | None) -> None:
    """Lets a session look at models with another person's rights, or with its own again."""
    connection.execute("UPDATE sessions SET sees_as = :person WHERE id = :id", {"person": person, "id": session})


def session_counts(connection: sqlite3.Connection, now: str) -> dict[str, int]:
    """How many sessions people have that have not ended."""
    rows = connection.execute(
        "SELECT person, count(*) AS number FROM sessions WHERE expires_at > :now GROUP BY person", {"now": now}
    )
    return {row["person"]: row["number"] for row in rows}


def people_with_password(connection: sqlite3.Connection) -> frozenset[str]:
    rows = connection.execute("SELECT id FROM people WHERE password_hash IS NOT NULL")
    return frozenset(row["id"] for row in rows)


def sessions_of(connection: sqlite3.Connection, person: str, now: str) -> list[SessionSummary]:
    """A person's sessions that have not ended, newest first."""
    rows = connection.execute(
        "SELECT id, began_at, address, browser FROM sessions WHERE person = :person AND expires_at > :now "
        "ORDER BY began_at DESC, id",
        {"person": person, "now": now},
    )
    return [SessionSummary(*row) for row in rows]


def end_session(connection: sqlite3.Connection, token_hash: str) -> None:
    connection.execute("DELETE FROM sessions WHERE token_hash = :token_hash", {"token_hash": token_hash})


def end_session_of(connection: sqlite3.Connection, person: str, id: str) -> bool:
    """Ends one of a person's sessions; whether there was such a one."""
    ended = connection.execute("DELETE FROM sessions WHERE person = :person AND id = :id", {"person": person, "id": id})
    return ended.rowcount > 0


def end_sessions_of(connection: sqlite3.Connection, person: str) -> None:
    """Ends all of a person's sessions."""
    connection.execute("DELETE FROM sessions WHERE person = :person", {"person": person})


def forget_expired_sessions(connection: sqlite3.Connection, now: str) -> None:
    connection.execute("DELETE FROM sessions WHERE expires_at <= :now", {"now": now})
