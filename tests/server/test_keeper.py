"""What waits while the disk is busy is kept in one go, and what cannot be kept takes nothing else along."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from concurrent.futures import Future
from contextlib import closing
from pathlib import Path
from threading import Event

import pytest

from dastan.core.errors import NotFoundError, SourceError
from dastan.records.database import connect
from dastan.server.keeper import Change, Keeper


@pytest.fixture
def records(tmp_path: Path) -> Path:
    path = tmp_path / "records.db"
    with closing(connect(path)) as connection:
        connection.execute("CREATE TABLE numbers (number INTEGER PRIMARY KEY) STRICT")
    return path


@pytest.fixture
def keeper(records: Path) -> Iterator[Keeper]:
    keeper = Keeper(records)
    yield keeper
    keeper.close()


def put(number: int) -> Change:
    def change(connection: sqlite3.Connection) -> None:
        connection.execute("INSERT INTO numbers VALUES (?)", (number,))

    return change


def refuse(connection: sqlite3.Connection) -> None:
    connection.execute("INSERT INTO numbers VALUES (99)")
    raise NotFoundError("There is no such draft.", "Begin another.")


def there(records: Path) -> list[int]:
    with closing(connect(records)) as connection:
        return [row[0] for row in connection.execute("SELECT number FROM numbers ORDER BY rowid")]


def behind_one(keeper: Keeper, changes: list[Change]) -> list[Future[None]]:
    """Asks for changes while the disk is busy with an earlier one."""
    has_begun, may_end = Event(), Event()

    def hold(connection: sqlite3.Connection) -> None:
        has_begun.set()
        assert may_end.wait(10)

    keeper.keep("d", "first", hold)
    assert has_begun.wait(10)
    futures = [keeper.keep("d", str(at), each) for at, each in enumerate(changes)]
    may_end.set()
    keeper.settle()
    assert all(each.done() for each in futures)
    return futures


def test_what_waits_is_written_in_one_transaction(keeper: Keeper, records: Path) -> None:
    seen: list[int] = []

    def count_seen_by_others(connection: sqlite3.Connection) -> None:
        seen.append(len(there(records)))

    futures = behind_one(keeper, [put(1), count_seen_by_others, put(2), count_seen_by_others])
    assert [each.exception() for each in futures] == [None] * 4
    assert there(records) == [1, 2]
    assert seen == [0, 0]


def test_one_that_cannot_be_made_takes_no_other_along(keeper: Keeper, records: Path) -> None:
    one, refused, doubled, other = behind_one(keeper, [put(1), refuse, put(1), put(2)])
    assert one.exception() is None
    assert other.exception() is None
    assert isinstance(refused.exception(), SourceError)
    assert isinstance(doubled.exception(), SourceError)
    assert there(records) == [1, 2]
    assert keeper.failure("d", "1") is refused.exception()


def test_a_disk_that_is_full_is_told_to_each_and_the_next_are_kept(keeper: Keeper, records: Path) -> None:
    def fill(connection: sqlite3.Connection) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    for each in behind_one(keeper, [put(1), fill, put(2)]):
        with pytest.raises(SourceError, match="is full"):
            each.result()
    assert there(records) == []
    keeper.keep("d", "again", put(1)).result(10)
    assert there(records) == [1]


def test_more_than_fits_into_one_transaction_is_kept_in_its_order(keeper: Keeper, records: Path) -> None:
    made: list[int] = []
    behind_one(keeper, [lambda _, at=at: made.append(at) for at in range(200)])  # type: ignore[misc]
    assert made == list(range(200))


def test_whoever_no_longer_waits_takes_nothing_back(keeper: Keeper, records: Path) -> None:
    (future,) = behind_one(keeper, [put(1)])
    assert not future.cancel()
    assert there(records) == [1]
