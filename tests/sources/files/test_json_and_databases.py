"""JSON lines and SQLite files as tables; every expected value was written into them by hand."""

from __future__ import annotations

import gzip
import sqlite3
from datetime import date
from decimal import Decimal
from pathlib import Path

import pytest

from dastan.core.errors import SourceError
from dastan.core.model.document import Table
from dastan.sources.files.looking.folder import propose_model
from dastan.sources.files.tables import open_table

TAPS = """\
{"day": "2025-01-02", "line": {"id": "T1", "mode": "Tram"}, "people": 3, "fare": 1.5, "card": "0012"}
{"day": "2025-01-03", "line": {"id": "F1"}, "people": 4, "fare": 2, "tags": ["night"]}

{"people": null, "day": "2025-02-03", "fare": 0.25, "late": true}
"""


@pytest.mark.parametrize("name", ["taps.jsonl", "taps.ndjson.gz"])
def test_json_lines_are_a_table_with_a_column_for_each_part(name: str, tmp_path: Path) -> None:
    (tmp_path / name).write_bytes(gzip.compress(TAPS.encode()) if name.endswith(".gz") else TAPS.encode())
    table = open_table(tmp_path, "taps", Table(file=name))
    found = {each: table.column(each).to_pylist() for each in table.names}
    assert found == {
        "day": [date(2025, 1, 2), date(2025, 1, 3), date(2025, 2, 3)],
        "line_id": ["T1", "F1", None], "line_mode": ["Tram", None, None], "people": [3, 4, None],
        "fare": [Decimal("1.50"), Decimal("2.00"), Decimal("0.25")], "card": ["0012", None, None],
        "late": [None, None, "true"],
    }  # fmt: skip
    assert table.notes == (f"{name}: tags hold lists, and were left out",)
    assert table.place("day").locate(2) == f"{name}, line 4"


@pytest.mark.parametrize(
    ("written", "said"),
    [('{"a": 1}\n{"a": \n', "line 2: this is no JSON"), ("[1, 2]\n", "line 1: this is no object"), ("\n\n", "holds no records")],
)  # fmt: skip
def test_what_is_no_record_is_told_by_its_line(written: str, said: str, tmp_path: Path) -> None:
    (tmp_path / "taps.jsonl").write_text(written)
    with pytest.raises(SourceError, match=said):
        open_table(tmp_path, "taps", Table(file="taps.jsonl"))


def database(file: Path) -> Path:
    connection = sqlite3.connect(file)
    connection.executescript(
        """
        CREATE TABLE taps (day TEXT, line TEXT, people INTEGER, fare REAL, seal BLOB);
        INSERT INTO taps VALUES ('2025-01-02', 'T1', 3, 1.5, x'00'), ('2025-02-03', 'F1', 4, 2.0, NULL), (NULL, 'T1', 5, 0.25, NULL);
        CREATE TABLE lines (line TEXT PRIMARY KEY, mode TEXT);
        INSERT INTO lines VALUES ('T1', 'Tram'), ('F1', 'Ferry');
        CREATE VIEW endless AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n;
        """
    )
    connection.close()
    return file


def test_the_tables_of_a_database_become_a_star_and_its_views_are_left(tmp_path: Path) -> None:
    database(tmp_path / "bay.sqlite")
    before = (tmp_path / "bay.sqlite").read_bytes()
    model = propose_model(tmp_path)
    assert {name: each.sheet for name, each in model.tables.items()} == {"lines": "lines", "taps": "taps", "days": None}
    assert {(each.from_column, each.to_table) for each in model.relationships} == {("line", "lines"), ("day", "days")}
    table = open_table(tmp_path, "taps", model.tables["taps"])
    assert table.column("fare").to_pylist() == [Decimal("1.50"), Decimal("2.00"), Decimal("0.25")]
    assert table.column("day").to_pylist() == [date(2025, 1, 2), date(2025, 2, 3), None]
    assert table.notes == ("bay.sqlite: seal of taps hold bytes, and were left out",)
    assert table.place("day").locate(2) == "bay.sqlite, table taps, row 3"
    # Nothing is written to it, nor beside it.
    assert (tmp_path / "bay.sqlite").read_bytes() == before
    assert [each.name for each in tmp_path.iterdir()] == ["bay.sqlite"]


def test_what_is_no_database_and_a_table_that_is_not_there_are_refused(tmp_path: Path) -> None:
    (tmp_path / "bay.db").write_bytes(b"no database at all" * 200)
    with pytest.raises(SourceError, match="cannot be read as an SQLite file"):
        propose_model(tmp_path)
    database(tmp_path / "bay.sqlite")
    with pytest.raises(SourceError, match="has no table “tap”"):
        open_table(tmp_path, "taps", Table(file="bay.sqlite", sheet="tap"))
