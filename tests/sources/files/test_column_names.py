"""Columns that a file does not call each something of its own: named, told of, and read like the others."""

from __future__ import annotations

from pathlib import Path

import pytest

from dastan.core.model.document import Table
from dastan.sources.files.column_names import column_names
from dastan.sources.files.tables import open_table


@pytest.mark.parametrize(
    ("written", "names", "told"),
    [
        (["line", "n"], ["line", "n"], 0), ([" line ", "n"], ["line", "n"], 0),
        (["line", "", "n"], ["line", "column_2", "n"], 1), (["column_2", ""], ["column_2", "column_2_2"], 1),
        (["n", "n", "n"], ["n", "n_2", "n_3"], 2), (["n", "n_2", "n"], ["n", "n_2", "n_2_2"], 1),
    ],
)  # fmt: skip
def test_each_column_has_a_name_of_its_own(written: list[str], names: list[str], told: int) -> None:
    found, notes = column_names(written, "odd.csv, line 1")
    assert (found, len(notes)) == (names, told)


def test_a_csv_is_read_by_them_and_says_so(tmp_path: Path) -> None:
    (tmp_path / "odd.csv").write_text('line,,line,\nT1,"a\nb",x,\n\nT2,c,y,\n')
    table = open_table(tmp_path, "odd", Table(file="odd.csv"))
    # The last has neither a name nor a value: there each line only ends with a comma.
    assert table.names == ("line", "column_2", "line_2")
    assert table.column("column_2").to_pylist() == ["a\nb", "c"]
    assert table.column("line_2").to_pylist() == ["x", "y"]
    told = " ".join(table.notes)
    assert "odd.csv, line 1: column 2 has no name, and is called column_2" in told
    assert "“line” stands there twice; column 3 is called line_2" in told
    assert "column_4" not in told
    assert table.place("line").locate(1) == "odd.csv, line 5"
