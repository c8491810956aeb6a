"""Connections, transactions and numbered migrations."""

from __future__ import annotations

import errno
import hashlib
import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import resources
from pathlib import Path
from threading import Lock

from dastan.core.errors import SourceError

BUSY_TIMEOUT_S = 10.0


def make_private(path: Path) -> None:
    """Makes the file of the records, or sees to it, so that its owner alone may read it; what SQLite keeps beside it is
    made with the same rights. Raises SourceError where the folder takes no file."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        os.close(os.open(path, os.O_CREAT | os.O_RDWR, 0o600))
        if path.stat().st_mode & 0o077:
            path.chmod(0o600)
    except OSError as exc:
        raise SourceError(
            f"The records in {path} cannot be written: {exc.strerror}.", "Check who owns the folder, and its disk."
        ) from exc


def connect(path: Path) -> sqlite3.Connection:
    """A connection for one request; transactions are opened explicitly, by `transaction`."""
    try:
        connection = sqlite3.connect(path, timeout=BUSY_TIMEOUT_S, isolation_level=None, check_same_thread=False)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA journal_mode = WAL")
    except sqlite3.Error as exc:
        raise SourceError(
            f"The records in {path} cannot be opened: {exc}.", "Check that the file is whole and may be written."
        ) from exc
    connection.execute("PRAGMA synchronous = FULL")
    connection.execute("PRAGMA foreign_keys = ON")
    return connection


def trouble_of(error: Exception) -> SourceError:
    """What kept the records from being read or written, as people are told it, with the way on."""
    if isinstance(error, SourceError):
        return error
    name = getattr(error, "sqlite_errorname", "") or ""
    text = str(error)
    if "FULL" in name or "disk is full" in text or getattr(error, "errno", None) == errno.ENOSPC:
        return SourceError(
            "The disk that holds the records is full, so nothing can be kept.",
            "Free some space there, or ask whoever runs the server; what is on this page stays, and is sent again.",
            code="not-kept",
        )
    if "READONLY" in name or "readonly" in text or "CANTOPEN" in name:
        return SourceError(
            "The records may not be written, so nothing can be kept.",
            "Let the server write to their folder; what is on this page stays, and is sent again.",
            code="not-kept",
        )
    if "BUSY" in name or "LOCKED" in name or "locked" in text:
        return SourceError(
            "The records are held by another program, so nothing can be kept.",
            "End it, or wait until it is done; what is on this page stays, and is sent again.",
            code="not-kept",
        )
    return SourceError(
        "The records cannot be read or written.",
        "The server's log says why; what is on this page stays, and is sent again.",
        code="not-kept",
    )


_WRITING = Lock()
"""Held by whoever writes. SQLite lets one write at a time and has the others look again after longer and longer pauses,
so that one that waits is passed by those that come later; here they wait until it is their turn."""


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """One short write transaction: all of it is kept, or nothing."""
    if not _WRITING.acquire(timeout=BUSY_TIMEOUT_S):
        raise sqlite3.OperationalError("database is locked")
    try:
        connection.execute("BEGIN IMMEDIATE")
        try:
            yield
            connection.execute("COMMIT")
        except BaseException:
            if connection.in_transaction:  # a full disk may have ended it already
                connection.execute("ROLLBACK")
            raise
    finally:
        _WRITING.release()


def migrations() -> list[tuple[int, str]]:
    """Every migration's number and SQL, in order."""
    folder = resources.files("dastan.records").joinpath("migrations")
    files = sorted((each for each in folder.iterdir() if each.name.endswith(".sql")), key=lambda each: each.name)
    return [(int(each.name[:4]), each.read_text(encoding="utf-8")) for each in files]


def migrate(connection: sqlite3.Connection) -> None:
    """Brings the records up to date. Each migration and its record are one transaction.

    Raises: SourceError when the records were made by a newer version, or by a migration changed since.
    """
    connection.execute(
        "CREATE TABLE IF NOT EXISTS migrations (number INTEGER PRIMARY KEY, checksum TEXT NOT NULL) STRICT"
    )
    applied = dict(connection.execute("SELECT number, checksum FROM migrations").fetchall())
    known = migrations()
    if set(applied) - {number for number, _ in known}:
        raise SourceError("The records were made by a newer Dastan.", "Start that version, or use other records.")
    # A migration may put a table made anew in the place of an old one, whose end nothing may follow.
    connection.execute("PRAGMA foreign_keys = OFF")
    try:
        for number, sql in known:
            checksum = hashlib.sha256(sql.encode()).hexdigest()
            if number in applied:
                if applied[number] != checksum:
                    raise SourceError(f"Migration {number} differs from the one that made the records.", "Restore it.")
                continue
            # executescript would commit a transaction begun outside it, so BEGIN and COMMIT stand inside.
            record = f"INSERT INTO migrations VALUES ({number}, '{checksum}');"
            try:
                connection.executescript(f"BEGIN;\n{sql}\n{record}\nCOMMIT;")
            except sqlite3.Error:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                raise
    finally:
        connection.execute("PRAGMA foreign_keys = ON")
    is_new = len(applied) < len(known)
    if is_new and (broken := connection.execute("PRAGMA foreign_key_check").fetchone()) is not None:
        raise SourceError(f"In the records, {broken[0]} refers to what is not there.", "Restore them from a backup.")
