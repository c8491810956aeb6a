"""Tables and queries of a real PostgreSQL server, fetched as files: every type, no number changed, nothing written."""

from __future__ import annotations

import datetime as dt
import threading
import time
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from adbc_driver_manager.dbapi import Connection

from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError, InputError, LimitError, SourceError
from dastan.sources.postgres.asked import ServerAddress, Wanted
from dastan.sources.postgres.fetching import at_one_moment, fetch, tables_of
from dastan.sources.postgres.held_against import Arrived
from dastan.sources.postgres.server import connected
from tests.postgres import OWNER, OWNERS_WORD, READER, READERS_WORD, Running

ODD = """
CREATE TABLE odd (
    small int, large bigint, declared numeric(12, 2), free numeric, long numeric, words text, padded char(6), day date,
    moment timestamp, zoned timestamptz, is_open boolean, exact float8, id uuid, document jsonb, list int[],
    took interval, mood mood, bytes bytea, money money, "A ""quoted"" name; DROP TABLE odd" int
)
"""
ROW = """
INSERT INTO odd VALUES (
    1, 9223372036854775807, -3.45, 1234567890.123456789, 0.1234567890123456789012, 'pier', 'quay', '2025-01-02',
    '2025-01-02 03:04:05.6', '2025-01-02 03:04:05+02', true, 0.1, '6f2c0b7e-0000-4000-8000-000000000001', '{"a": [1]}',
    '{1,2}', '1 day 02:00', 'calm', '\\x01', 12.5, 7
)
"""


def address(running: Running, **other: object) -> ServerAddress:
    parts: dict[str, object] = {"host": "127.0.0.1", "port": running.port, "database": "postgres", "sign_in": READER}
    return ServerAddress(**(parts | other))  # type: ignore[arg-type]


@pytest.fixture(scope="module")
def harbour(database: Running) -> Running:
    database.do(
        "CREATE SCHEMA harbour", "CREATE TYPE mood AS ENUM ('calm', 'rough')", ODD, ROW,
        "INSERT INTO odd (small, free, day, moment, zoned) VALUES (2, 'NaN', 'infinity', '-infinity', 'infinity')",
        "CREATE TABLE harbour.trips AS SELECT n AS trip, n % 3 AS line, (n % 7)::numeric(8, 2) AS fare "
        "FROM generate_series(1, 300000) AS n",
        "CREATE VIEW harbour.by_line AS SELECT line, count(*) AS trips FROM harbour.trips GROUP BY line",
        "CREATE TABLE harbour.hidden (secret int)",
        "COMMENT ON TABLE harbour.trips IS 'Every trip, once'",
        "ANALYZE harbour.trips",
        f"GRANT USAGE ON SCHEMA harbour TO {READER}",
        f"GRANT SELECT ON odd, harbour.trips, harbour.by_line TO {READER}",
    )  # fmt: skip
    return database


@pytest.fixture
def reading(harbour: Running) -> Iterator[Connection]:
    with connected(address(harbour), READERS_WORD) as found:
        yield found


def test_what_its_role_may_read_is_listed(reading: Connection) -> None:
    assert [(each.schema, each.name, each.kind, each.records, each.description) for each in tables_of(reading)] == [
        ("harbour", "by_line", "view", 0, ""),
        ("harbour", "trips", "table", 300_000, "Every trip, once"),
        ("public", "odd", "table", 0, ""),
    ]


def test_every_type_comes_as_it_is(reading: Connection, tmp_path: Path) -> None:
    assert fetch(reading, Wanted("odd", "public"), tmp_path / "odd.parquet", Watch()) == Arrived(2, 2, 8)
    table = pq.read_table(tmp_path / "odd.parquet")
    first, second = table.to_pylist()
    assert "bytes" not in first
    assert first == {
        "small": 1, "large": 9223372036854775807, "declared": Decimal("-3.45"), "free": Decimal("1234567890.123456789"),
        "long": 0.12345678901234568, "words": "pier", "padded": "quay", "day": dt.date(2025, 1, 2),
        "moment": dt.datetime(2025, 1, 2, 3, 4, 5, 600_000),
        "zoned": dt.datetime(2025, 1, 2, 1, 4, 5, tzinfo=dt.UTC), "is_open": True, "exact": 0.1,
        "id": "6f2c0b7e-0000-4000-8000-000000000001", "document": '{"a": [1]}', "list": "{1,2}",
        "took": "1 day 02:00:00", "mood": "calm", "money": Decimal("12.50"),
        'A "quoted" name; DROP TABLE odd': 7,
    }  # fmt: skip
    assert {name for name, value in second.items() if value is not None} == {"small"}  # no number, and no day
    assert table.schema.field("declared").type == pa.decimal128(38, 2)


def test_a_table_and_a_query_are_whole_and_add_up(reading: Connection, harbour: Running, tmp_path: Path) -> None:
    file = tmp_path / "trips.parquet"
    assert fetch(reading, Wanted("trips", "harbour"), file, Watch()) == Arrived(300_000, 300_000, 3)
    ((sum_there,),) = harbour.do("SELECT sum(fare)::text FROM harbour.trips")
    assert str(sum(pq.read_table(file)["fare"].to_pylist())) == sum_there
    query = "WITH own AS (SELECT line, fare FROM harbour.trips WHERE line > 0) SELECT line, sum(fare) AS fares FROM own GROUP BY 1"
    assert fetch(reading, Wanted("fares", query=query), tmp_path / "fares.parquet", Watch()) == Arrived(2, 2, 2)
    found = {each["line"]: str(each["fares"]) for each in pq.read_table(tmp_path / "fares.parquet").to_pylist()}
    assert found == dict(harbour.do("SELECT line, sum(fare)::text FROM harbour.trips WHERE line > 0 GROUP BY line"))


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("SELECT 1; DROP TABLE odd", "one SELECT, and nothing else"),
        ("DELETE FROM odd", "one SELECT, and nothing else"),
        ("SELECT FROM FROM", "no SQL, at line 1"),
        ("SELECT nope FROM odd", "nope"),
        ("SELECT small, large AS small FROM odd", "Two columns of own are called “small”"),
        ("SELECT * FROM harbour.hidden", "does not let reader read that"),
        ("WITH gone AS (DELETE FROM odd RETURNING *) SELECT * FROM gone", "data-modifying"),
    ],
)  # fmt: skip
def test_what_is_no_question_is_refused(harbour: Running, tmp_path: Path, query: str, words: str) -> None:
    with pytest.raises(InputError, match=words), connected(address(harbour), READERS_WORD) as reading:
        fetch(reading, Wanted("own", query=query), tmp_path / "own.parquet", Watch())
    assert harbour.do("SELECT count(*) FROM odd") == [(2,)]
    assert list(tmp_path.iterdir()) == []


def test_one_that_is_taken_back_ends_on_the_server(reading: Connection, harbour: Running, tmp_path: Path) -> None:
    watch = Watch()

    def take_back() -> None:
        until = time.monotonic() + 20
        while time.monotonic() < until and not harbour.do(
            "SELECT 1 FROM pg_stat_activity WHERE application_name = 'dastan' AND query ~* 'pg_sleep' AND state = 'active'"
        ):
            time.sleep(0.05)
        watch.cancel()

    thread = threading.Thread(target=take_back)
    thread.start()
    with pytest.raises(CancelledError):
        fetch(
            reading,
            Wanted("slow", query="SELECT pg_sleep(600)::text AS slept, 1 AS one"),
            tmp_path / "slow.parquet",
            watch,
        )
    thread.join()
    for _ in range(100):
        if not harbour.do(
            "SELECT 1 FROM pg_stat_activity WHERE query ~* 'pg_sleep.600' AND state = 'active' AND pid <> pg_backend_pid()"
        ):
            break
        time.sleep(0.05)
    assert not harbour.do(
        "SELECT 1 FROM pg_stat_activity WHERE query ~* 'pg_sleep.600' AND state = 'active' AND pid <> pg_backend_pid()"
    )


def test_who_may_write_is_not_let_in_and_troubles_are_told_without_the_password(harbour: Running) -> None:
    with pytest.raises(InputError, match="may also write"), connected(address(harbour, sign_in=OWNER), OWNERS_WORD):
        pass
    for other, word, kind, words in (
        ({}, "a wrong word", InputError, "does not let reader in with that password"),
        ({"port": 1}, READERS_WORD, SourceError, "cannot be reached"),
        ({"database": "nowhere"}, READERS_WORD, SourceError, "nowhere"),
        ({"encryption": "require"}, READERS_WORD, SourceError, "SSL"),
    ):
        with pytest.raises(kind, match=words) as told, connected(address(harbour, **other), word):
            pass
        assert word not in f"{told.value} {told.value.__cause__} {told.value.hint}"


def test_a_server_that_ends_in_the_middle_is_told_and_leaves_nothing(harbour: Running, tmp_path: Path) -> None:
    def end_it() -> None:
        until = time.monotonic() + 20
        ended = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query ~* 'pg_sleep.500' AND pid <> pg_backend_pid()"
        while time.monotonic() < until and not harbour.do(ended):
            time.sleep(0.05)

    thread = threading.Thread(target=end_it)
    thread.start()
    with (
        pytest.raises(SourceError, match=r"terminat|closed the connection"),
        connected(address(harbour), READERS_WORD) as reading,
    ):
        fetch(reading, Wanted("slow", query="SELECT pg_sleep(500)::text AS slept"), tmp_path / "slow.parquet", Watch())
    thread.join()
    assert list(tmp_path.iterdir()) == []


def test_a_number_that_no_file_holds_exactly_is_said(reading: Connection, tmp_path: Path) -> None:
    query = "SELECT 10::numeric ^ 45 AS far"
    with pytest.raises(InputError, match="“far” has a number of more than 38 digits"):
        fetch(reading, Wanted("own", query=query), tmp_path / "own.parquet", Watch())
    assert list(tmp_path.iterdir()) == []


def test_a_table_that_is_too_large_is_refused_in_the_middle(reading: Connection, tmp_path: Path) -> None:
    query = "SELECT md5(n::text) AS word FROM generate_series(1, 2000000) AS n"
    with pytest.raises(LimitError, match="words comes to more than 1 MB"):
        fetch(reading, Wanted("words", query=query), tmp_path / "words.parquet", Watch(), 1_000_000)
    assert list(tmp_path.iterdir()) == []


def test_what_does_not_add_up_to_what_the_database_says_is_named(reading: Connection, tmp_path: Path) -> None:
    """A view that gives others each time is told; what only rounds otherwise is not."""
    query = "SELECT n AS trip, random() AS luck, 0.1::float8 * n AS fare, NULL::int AS blank FROM generate_series(1, 1000) AS n"
    found = fetch(reading, Wanted("own", query=query), tmp_path / "own.parquet", Watch())
    assert found == Arrived(1000, 1000, 3, ("luck",))
    query = "SELECT x::float8 AS far FROM unnest(ARRAY[1e15, 0.1, -1e15, 0.2, 3e15, -3e15]) AS x"  # nearly all is taken away
    assert fetch(reading, Wanted("own", query=query), tmp_path / "far.parquet", Watch()) == Arrived(6, 6, 1)
    query = "SELECT x::float8 AS odd FROM unnest(ARRAY['NaN', '1', 'Infinity']::float8[]) AS x"
    assert fetch(reading, Wanted("own", query=query), tmp_path / "odd.parquet", Watch()) == Arrived(3, 3, 1)
    query = "SELECT n AS records, 'quay' AS word FROM generate_series(1, (2 + 1000000 * random())::int) AS n"  # once in a million the same
    found = fetch(reading, Wanted("own", query=query), tmp_path / "fewer.parquet", Watch())
    assert found.records != found.records_there
    assert (found.sums, found.differing) == (0, ("records",))


def test_what_is_fetched_together_is_of_one_moment(reading: Connection, harbour: Running, tmp_path: Path) -> None:
    harbour.do(
        "CREATE TABLE harbour.tides (tide int)",
        f"GRANT SELECT ON harbour.tides TO {READER}",
        "INSERT INTO harbour.tides VALUES (1)",
    )
    try:
        with at_one_moment(reading):
            assert fetch(reading, Wanted("tides", "harbour"), tmp_path / "first.parquet", Watch()).records == 1
            harbour.do("INSERT INTO harbour.tides VALUES (2)")
            assert fetch(reading, Wanted("tides", "harbour"), tmp_path / "then.parquet", Watch()) == Arrived(1, 1, 1)
        assert fetch(reading, Wanted("tides", "harbour"), tmp_path / "later.parquet", Watch()) == Arrived(2, 2, 1)
    finally:
        harbour.do("DROP TABLE harbour.tides")
