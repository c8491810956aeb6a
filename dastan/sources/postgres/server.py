"""A PostgreSQL server: reached as a role that may only read, with its troubles told in words."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import quote

import adbc_driver_postgresql.dbapi as postgres
from adbc_driver_manager import Error
from adbc_driver_manager.dbapi import Connection

from dastan.core.errors import AppError, InputError, SourceError
from dastan.sources.postgres.asked import ServerAddress

_WITHIN_S = 10
"""A server answers within this time, or is not there."""
_STATEMENT_S = 3_600
_LOST = re.compile("Failed to connect|closed the connection|no connection to the server|terminating connection")
_APPLICATION = "dastan"

_MAY_WRITE = """
SELECT current_setting('is_superuser') = 'on' OR EXISTS (
    SELECT FROM pg_catalog.pg_class AS c JOIN pg_catalog.pg_namespace AS n ON n.oid = c.relnamespace
    WHERE c.relkind IN ('r', 'p') AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname !~ '^pg_'
        AND pg_catalog.has_table_privilege(c.oid, 'INSERT, UPDATE, DELETE, TRUNCATE')
)
"""


@contextmanager
def connected(address: ServerAddress, password: str) -> Iterator[Connection]:
    """A connection that only reads. Raises SourceError where the server cannot be reached, or refuses; InputError for a
    role that may also write, and for a statement that the server refuses."""
    with told(address):
        connection = postgres.connect(_uri(address, password), autocommit=True)
    try:
        with told(address):
            with connection.cursor() as cursor:
                cursor.execute(_MAY_WRITE)
                (may_write,) = cursor.fetchone() or (True,)
            if may_write:
                raise InputError(
                    f"{address.sign_in} may also write to {address.database}; Dastan reads as a role that cannot.",
                    "Make one: CREATE ROLE reader LOGIN PASSWORD '…'; GRANT USAGE ON SCHEMA public TO reader; "
                    "GRANT SELECT ON ALL TABLES IN SCHEMA public TO reader.",
                )
            yield connection
    finally:
        connection.close()


@contextmanager
def told(address: ServerAddress) -> Iterator[None]:
    """What the driver raises, in words of ours: nothing of it names a password."""
    try:
        yield
    except Error as error:
        raise _trouble(error, address) from None


def _trouble(error: Error, address: ServerAddress) -> AppError:
    state = error.sqlstate or ""
    said = own_words(str(error))
    where = f"{address.host}:{address.port}"
    if "password authentication failed" in said or state == "28P01":
        return InputError(
            f"{where} does not let {address.sign_in} in with that password.", "Check the name and the password."
        )
    if _LOST.search(str(error)) or state.startswith(("08", "57P")):
        return SourceError(
            f"The database at {where} cannot be reached: {said}",
            "See whether it runs and lets this server in; then try again.",
        )
    if state == "57014":
        return SourceError("The database gave up: it took too long.", "Fetch less, or ask in a quieter hour.")
    if state == "42501":
        return InputError(f"The database does not let {address.sign_in} read that: {said}", "GRANT SELECT on it.")
    return InputError(f"The database refused the question: {said}", "Mend it, then try again.")


def own_words(text: str) -> str:
    """What the server said, without what the driver and the statement add to it."""
    found = re.search(r"(?:FATAL|ERROR):\s+(.*)", text) or re.search(r"failed: (.*)", text)
    said = (found[1] if found is not None else text.splitlines()[0]).strip()
    return said.removeprefix("FATAL:").strip()[:300]


def _uri(address: ServerAddress, password: str) -> str:
    """As the driver takes it. Each part is written so that it stays a part."""
    who = f"{quote(address.sign_in, safe='')}:{quote(password, safe='')}"
    settings = f"-c default_transaction_read_only=on -c statement_timeout={_STATEMENT_S * 1000} -c datestyle=ISO"
    options = {
        "sslmode": address.encryption, "connect_timeout": str(_WITHIN_S), "application_name": _APPLICATION,
        "options": settings,
    }  # fmt: skip
    said = "&".join(f"{name}={quote(value, safe='')}" for name, value in options.items())
    host = f"[{address.host}]" if ":" in address.host else quote(address.host, safe="")
    return f"postgresql://{who}@{host}:{address.port}/{quote(address.database, safe='')}?{said}"
