"""Steps are kept in the order in which they were taken, and one that fails holds up no other."""

from __future__ import annotations

import errno
import sqlite3
import time
from pathlib import Path

import pytest

from dastan.core.errors import SourceError
from dastan.records.database import connect
from dastan.server.keeper import Keeper


def test_a_slow_change_is_still_kept_before_the_next(tmp_path: Path) -> None:
    records = tmp_path / "records.db"
    connection = connect(records)
    connection.execute("CREATE TABLE kept (number INTEGER)")
    keeper = Keeper(records)

    def change(number: int) -> None:
        def keep(connection: sqlite3.Connection) -> None:
            time.sleep(0.02 if number == 0 else 0)
            connection.execute("INSERT INTO kept VALUES (:number)", {"number": number})

        keeper.keep("draft", str(number), keep)

    for number in range(5):
        change(number)
    keeper.settle()
    assert [row[0] for row in connection.execute("SELECT number FROM kept ORDER BY rowid")] == [0, 1, 2, 3, 4]
    keeper.close()
    connection.close()


def test_a_change_that_fails_is_logged_and_leaves_nothing_half_done(
    tmp_path: Path, caplog: pytest.LogCaptureFixture
) -> None:
    records = tmp_path / "records.db"
    connection = connect(records)
    connection.execute("CREATE TABLE kept (number INTEGER)")
    keeper = Keeper(records)

    def fail(connection: sqlite3.Connection) -> None:
        connection.execute("INSERT INTO kept VALUES (1)")
        raise OSError(errno.ENOSPC, "disk full")

    failing = keeper.keep("draft", "one", fail)
    keeper.keep("draft", "two", lambda connection: connection.execute("INSERT INTO kept VALUES (2)") and None)
    with pytest.raises(SourceError, match="The disk that holds the records is full"):
        failing.result()
    keeper.settle()
    assert keeper.failure("draft", "one") is not None
    assert keeper.failure("draft", "two") is None
    keeper.keep("draft", "one", lambda _: None).result()
    assert keeper.failure("draft", "one") is None
    keeper.close()
    assert "A step could not be kept" in caplog.text
    assert [row[0] for row in connection.execute("SELECT number FROM kept")] == [2]
    connection.close()
