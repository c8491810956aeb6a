"""How much files are unpacked."""

from __future__ import annotations

import gzip
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from dastan.sources.files.weight import unpacked_bytes
from tests.sources.files.test_sheets import LINES, book


def test_a_packed_file_counts_as_what_it_unpacks_to(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_bytes(b"1234567890")
    (tmp_path / "a.csv.gz").write_bytes(gzip.compress(b"x" * 3_000_000))
    pq.write_table(pa.table({"a": pa.array([7] * 1_000_000)}), tmp_path / "a.parquet")
    assert unpacked_bytes(tmp_path / "a.csv", 10**9) == 10
    assert unpacked_bytes(tmp_path / "a.csv.gz", 10**9) == 3_000_000
    assert unpacked_bytes(tmp_path / "a.csv.gz", 1_000_000) < 3_000_000
    assert unpacked_bytes(tmp_path / "a.parquet", 10**9) == 8_000_000
    sheet = book(tmp_path / "a.xlsx", Lines=LINES)
    assert unpacked_bytes(sheet, 10**9) > sheet.stat().st_size


def test_a_damaged_one_counts_as_it_is(tmp_path: Path) -> None:
    for name in ("a.csv.gz", "a.parquet", "a.xlsx"):
        (tmp_path / name).write_bytes(b"nothing of the kind")
        assert unpacked_bytes(tmp_path / name, 10**9) == 19
