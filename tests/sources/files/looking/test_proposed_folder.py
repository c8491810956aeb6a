"""Folders that nobody has described, answered by the model that is proposed for them."""

from __future__ import annotations

import csv
import sqlite3
from pathlib import Path

import pyarrow.parquet as pq
import pytest
from typer.testing import CliRunner

from dastan.cli import app
from dastan.core.errors import SourceError
from dastan.demo.generate import generate
from dastan.documents.read import read_model
from dastan.documents.write import written
from dastan.sources.files.looking.document import propose_beside
from dastan.sources.files.looking.folder import propose_model
from dastan.sources.folders.folder import open_folder
from tests.sources.folder import write_folder


def told(*arguments: str | Path) -> tuple[int, str]:
    result = CliRunner().invoke(app, [str(each) for each in arguments])
    return result.exit_code, result.stdout + result.stderr


def cells(model: Path, sentence: str) -> list[list[str]]:
    """The lines of a table in the terminal, each parted where two blanks are."""
    code, out = told("ask", model, sentence)
    assert code == 0, out
    return [[part.strip() for part in line.split("  ") if part.strip()] for line in out.splitlines() if line.strip()]


def test_a_folder_is_understood_as_its_author_described_it(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    described = open_folder(folder).model
    (folder / "model.yaml").unlink()
    model = propose_beside(folder).model
    assert {each.to_table: each.from_column for each in model.relationships} == {"lines": "line", "days": "day"}
    assert [each.name for each in model.dimensions] == [each.name for each in (described.dimension("calendar"), described.dimension("line"), described.dimension("seller"))]  # fmt: skip
    assert model.dimension("line").hierarchies[0].levels == described.dimension("line").hierarchies[0].levels
    # By hand: 3 + 1 by tram, 2 by ferry, 1 without a line, 4 on one that no table has.
    rows = cells(folder, "quantity by mode")
    assert ["Tram", "4"] in rows
    assert ["Ferry", "2"] in rows
    assert ["without a line", "5"] in rows


@pytest.fixture(scope="module")
def bay(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo's files without the demo's model."""
    folder = tmp_path_factory.mktemp("bay") / "bay"
    generate(folder, 3_000, 7)
    (folder / "model.yaml").unlink()
    return folder


def test_the_tables_of_an_authority_become_a_star(bay: Path) -> None:
    model = propose_model(bay)
    ways = {(each.from_table, each.to_table) for each in model.relationships}
    assert {("journeys", "lines"), ("journeys", "stops"), ("ledger", "accounts"), ("lines", "depots")} <= ways
    assert model.tables["journeys"].file == "journeys/*.parquet"
    assert model.dimension("stop").hierarchies[0].levels == ("zone", "district", "stop")
    assert model.dimension("account").hierarchies[0].parent_child is not None
    assert model.dimension("version").alternatives
    kinds = {each.name: each.aggregate for each in model.measures}
    assert (kinds["cards"], kinds["vehicles_available"], kinds["fare_revenue"]) == ("distinct", "balance", "sum")
    assert "card_number" not in {each.expression for each in model.measures if each.aggregate == "sum"}
    # What was written is what was proposed.
    assert read_model(written(model)) == model


def test_its_totals_are_those_of_the_files(bay: Path) -> None:
    if not (bay / "model.yaml").exists():
        propose_beside(bay)
    records = sqlite3.connect(":memory:")
    records.execute("create table taps (line text, fare text, card int)")
    records.execute("create table lines (line text, mode text)")
    for file in sorted((bay / "journeys").glob("*.parquet")):
        columns = pq.read_table(file, columns=["line_id", "fare_revenue", "card_number"]).to_pydict().values()
        records.executemany("insert into taps values (?, ?, ?)", [(line, str(fare), card) for line, fare, card in zip(*columns, strict=True)])  # fmt: skip
    columns = pq.read_table(bay / "lines.parquet", columns=["line_id", "mode_name"]).to_pydict().values()
    records.executemany("insert into lines values (?, ?)", zip(*columns, strict=True))
    rows = {each[0]: each[1:] for each in cells(bay, "journeys, cards and fare revenue by mode")}
    for mode, *wanted in records.execute(
        "select mode, count(*), count(distinct card), sum(cast(round(fare * 100) as int)) from taps "
        "join lines using (line) group by mode"
    ):
        assert [int(each.replace(",", "").replace(".", "")) for each in rows[mode]] == wanted


def test_files_that_differ_by_a_number_are_one_table(tmp_path: Path) -> None:
    for year in (2023, 2024):
        (tmp_path / f"taps-{year}.csv").write_text(f"day,line,people\n{year}-01-05,T1,3\n{year}-02-05,T2,4\n")
    (tmp_path / "fares_1.csv").write_text("line,fare\nT1,2\n")
    (tmp_path / "fares_2.csv").write_text("line,price\nT1,2\n")
    model = propose_model(tmp_path)
    files = {each.file for each in model.tables.values() if each.file is not None}
    assert files == {"taps-*.csv", "fares_1.csv", "fares_2.csv"} or files == {"taps*.csv", "fares_1.csv", "fares_2.csv"}
    propose_beside(tmp_path)
    assert ["2024", "7"] in cells(tmp_path, "people by year")


def test_one_file_has_its_model_beside_it(tmp_path: Path) -> None:
    file = tmp_path / "taps.csv"
    file.write_text("Tag;Linie;Erlös\n31.12.2024;T1;1.234,50\n01.01.2025;T2;2,25\n01.01.2025;T1;0,25\n")
    (tmp_path / "other.csv").write_text("a\n1\n")
    code, out = told("propose", file)
    assert code == 0
    assert "Proposed a model of 2 tables" in out
    assert ["2025", "2.50"] in cells(tmp_path / "taps.yaml", "erlös by year")


def test_a_description_is_never_written_over(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    before = (folder / "model.yaml").read_text()
    code, out = told("propose", folder)
    assert code == 2
    assert "is there already" in out
    assert (folder / "model.yaml").read_text() == before


def test_where_there_is_nothing_to_read_it_says_so(tmp_path: Path) -> None:
    (tmp_path / "notes.docx").write_bytes(b"PK")
    with pytest.raises(SourceError, match="holds no table"):
        propose_model(tmp_path)
    assert not (tmp_path / "model.yaml").exists()
    code, out = told("check", tmp_path)
    assert code == 2
    assert "dastan propose" in out


def test_a_broken_file_leaves_nothing_half_written(tmp_path: Path) -> None:
    (tmp_path / "taps.csv").write_text('line,note\nT1,"never closed\nT2,x\n')
    with pytest.raises(SourceError, match="a quote opens there and never closes"):
        propose_beside(tmp_path)
    assert [each.name for each in tmp_path.iterdir()] == ["taps.csv"]


def test_a_wide_file_of_one_table_finds_what_lies_in_what(tmp_path: Path) -> None:
    stops = [("Old town", "Harbour", f"Pier {n}") if n % 2 else ("Hills", "Uplands", f"Hill {n}") for n in range(8)]
    with (tmp_path / "survey.csv").open("w", newline="") as file:
        out = csv.writer(file)
        out.writerow(["Zone", "District", "Stop", "Answered at", "Score", "Card no"])
        for n in range(400):
            zone, district, stop = stops[n % 8]
            out.writerow([zone, f"{district} {n % 4}", stop, f"2025-01-{n % 28 + 1:02} 08:00:00", n % 5, 10_000_000 + n % 300])  # fmt: skip
    model = propose_model(tmp_path)
    assert [each.levels for each in model.dimension("stop").hierarchies] == [("zone", "district", "stop")]
    kinds = {each.name: each.aggregate for each in model.measures}
    assert kinds == {"survey": "count", "score": "average", "cards": "distinct"}


@pytest.mark.parametrize(
    ("written", "measures"),
    [
        ("end,case,values,not\n1,2,3,4\n3,4,5,6\n", ["end", "case", "values", "not"]),
        ('"a: b","#x","[y]"\n1,2,3\n2,3,4\n', ['"a: b"', '"#x"', '"[y]"']),
        ("company,taps\nHarbour,4\nUplands,5\n", ["taps"]),
        ("seen\n2025-01-02\n9999-12-31\n", []),
    ],
)
def test_a_model_opens_whatever_its_columns_are_called_and_hold(
    written: str, measures: list[str], tmp_path: Path
) -> None:
    (tmp_path / "t.csv").write_text(written)
    model = propose_beside(tmp_path).model
    assert [each.expression for each in model.measures] == [None, *measures]
    assert open_folder(tmp_path).model.dimensions


def test_a_day_that_stands_for_no_end_is_no_day_of_the_calendar(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("day,until\n2025-01-02,9999-12-31\n2025-01-03,2025-06-30\n")
    model = propose_beside(tmp_path).model
    assert [each.from_column for each in model.relationships] == ["day"]
    assert [each.about for each in model.assumed if each.is_unsure] == ["t.until"]
    open_folder(tmp_path)


def test_what_was_measured_to_many_places_is_no_exact_decimal(tmp_path: Path) -> None:
    (tmp_path / "birds.csv").write_text(
        "island,delta,paid\n" + "".join(f"I{n % 3},{n}.123456789012345,{n}.25\n" for n in range(30))
    )
    proposed = propose_beside(tmp_path)
    assert proposed.model.tables["birds"].columns["delta"].type == "float"
    assert "paid" not in proposed.model.tables["birds"].columns
    # An exact sum would have 18 digits and more.
    row = cells(tmp_path, "Delta by Island")[-1]
    assert float(row[-1].replace(",", "")) == pytest.approx(sum(n + 0.123456789012345 for n in range(30)), abs=0.01)
