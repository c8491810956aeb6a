"""A folder of CSV files, answered; every expected value was added up by hand from the rows in `folder.py`."""

from __future__ import annotations

import json
import socket
from decimal import Decimal
from pathlib import Path
from typing import Any

import pyarrow.parquet
import pytest
from openpyxl import load_workbook
from typer.testing import CliRunner

from dastan.cli import app
from tests.sources.folder import MODEL, write_folder

ANALYSIS: dict[str, Any] = {
    "dastan": "analysis/1",
    "model": "tickets",
    "question": {
        "measures": [{"measure": "takings"}, {"measure": "sold"}],
        "rows": [{"dimension": "line", "hierarchy": "line", "level": "mode"}],
        "columns": [{"dimension": "calendar", "hierarchy": "calendar", "level": "year"}],
    },
    "openings": [{"dimension": "line", "hierarchy": "line", "open": [["Tram"]]}],
}


def query(folder: Path, analysis: dict | str, *options: str) -> tuple[int, str, str]:
    file = folder / "analysis.json"
    file.write_text(analysis if isinstance(analysis, str) else json.dumps(analysis))
    result = CliRunner().invoke(app, ["query", str(folder), str(file), *options])
    return result.exit_code, result.stdout, result.stderr


def test_csv_has_exact_totals_at_every_level(tmp_path: Path) -> None:
    code, out, _ = query(write_folder(tmp_path), ANALYSIS)
    assert code == 0
    assert out.replace("\r", "").splitlines() == [
        "Mode,Line,2024 | Takings,2024 | Sold,2025 | Takings,2025 | Sold,All dates | Takings,All dates | Sold",
        "Ferry,,21.98,2,,,21.98,2",
        "Tram,Shore tram,3.85,4,,,3.85,4",
        "without a line,,,,5.20,5,5.20,5",
        "All lines,,25.83,6,5.20,5,31.03,11",
    ]


def test_json_keeps_cents_as_text_and_paths_as_keys(tmp_path: Path) -> None:
    code, out, _ = query(write_folder(tmp_path), ANALYSIS, "--format", "json")
    found = json.loads(out)
    assert code == 0
    assert found["sentence"] == "Takings and Sold by Mode › Line against Year"
    assert found["rows"][1][-1] == {
        "dimension": "line",
        "level": "line",
        "path": ["Tram", "T1"],
        "caption": "Shore tram",
    }
    assert found["rows"][-1] == []
    assert found["values"][0] == [["21.98", 2], [None, None], ["21.98", 2]]
    assert sum(Decimal(row[-1][0]) for row in (found["values"][0], found["values"][1])) + Decimal("5.20") == Decimal(
        "31.03"
    )


def test_a_query_says_what_it_asks_and_what_is_to_be_noticed(tmp_path: Path) -> None:
    ferry = {"dimension": "line", "hierarchy": "line", "members": [["Ferry"], ["Funicular"]]}
    analysis = ANALYSIS | {"question": ANALYSIS["question"] | {"filters": [ferry]}}
    code, out, err = query(write_folder(tmp_path), analysis, "--format", "json")
    gone = "Funicular is not in the data: the filter finds nothing there."
    assert code == 0
    assert err.splitlines()[:2] == [json.loads(out)["sentence"], gone]
    assert json.loads(out)["warnings"][0] == gone
    code, out, err = query(tmp_path, analysis | {"model": "other"})
    assert (code, out) == (2, "")
    assert "asks model “other”, and the folder holds “tickets”" in err


@pytest.mark.parametrize(
    ("attribute", "values", "sold"),
    [
        (("calendar", "day"), ["2025-03-01"], "5"),
        (("calendar", "day"), ["2025-03"], "5"),
        (("calendar", "day"), ["01.03.2025"], "“01.03.2025” is no day, and “day” holds days. Write it year first"),
        (("calendar", "year"), ["2025"], "5"),
        (("calendar", "year"), ["this year"], "“this year” is no number, and “year” holds numbers."),
        (("seller", "seller"), [7], "11"),
    ],
)
def test_a_condition_compares_with_its_attributes_own_kind_or_is_refused(
    tmp_path: Path, attribute: tuple[str, str], values: list, sold: str
) -> None:
    days = "      - {name: day, caption: Day, key: date}\n"
    model = MODEL.replace(
        "      - {name: year, caption: Year, key: year}\n", f"{days}      - {{name: year, caption: Year, key: year}}\n"
    )
    condition = {
        "kind": "attribute",
        "dimension": attribute[0],
        "attribute": attribute[1],
        "operator": "at_least",
        "values": values,
    }
    if attribute[0] == "seller":
        condition["operator"] = "more"  # as text: both sellers begin with a letter
    analysis = {
        "dastan": "analysis/1",
        "model": "tickets",
        "question": {"measures": [{"measure": "sold"}], "filters": [condition]},
    }
    code, out, err = query(write_folder(tmp_path, model=model), analysis)
    if code:
        assert sold in err.replace("\n", " ")
    else:
        assert out.split()[-1] == f"Total,{sold}"


def test_a_port_that_is_taken_is_told_before_any_address_is(tmp_path: Path) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        result = CliRunner().invoke(app, ["open", str(write_folder(tmp_path)), "--port", str(port)])
    assert (result.exit_code, result.stdout) == (2, "")
    assert result.stderr.startswith(f"Port {port} of 127.0.0.1 cannot be listened at")


def test_an_unknown_measure_is_named_with_the_nearest(tmp_path: Path) -> None:
    analysis = ANALYSIS | {"question": {"measures": [{"measure": "taking"}]}}
    code, out, err = query(write_folder(tmp_path), analysis)
    assert (code, out) == (2, "")
    assert err.splitlines()[0] == "Measure “taking” is not in model “Tickets sold”."
    assert "Did you mean “takings”?" in err


@pytest.mark.parametrize(
    ("analysis", "words"),
    [
        ("{", "analysis.json, line 1: this is not JSON"),
        ("[]", "analysis.json holds no analysis."),
        ('{"dastan": "analysis/9"}', "analysis.json says `dastan: analysis/9`."),
        (json.dumps(ANALYSIS | {"questions": {}}), "(questions): “questions” is not a field here."),
        (json.dumps({"dastan": "analysis/1"}), "“model” is missing."),
    ],
)
def test_a_broken_analysis_is_named_with_its_place(tmp_path: Path, analysis: str, words: str) -> None:
    code, _, err = query(write_folder(tmp_path), analysis)
    assert code == 2
    assert words in err


def test_check_tells_what_was_noticed(tmp_path: Path) -> None:
    result = CliRunner().invoke(app, ["check", str(write_folder(tmp_path))])
    assert result.exit_code == 0
    assert "1 of 6 records have no line" in result.stdout


def test_a_written_sentence_is_answered_in_the_terminal(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    said = CliRunner().invoke(app, ["ask", str(folder), "takings and sold by mode › line against year for not ferry"])
    assert said.exit_code == 2
    assert said.stderr.startswith("“not ferry” is not understood here.")
    said = CliRunner().invoke(app, ["ask", str(folder), "takings and sold by mode › line against year without ferry"])
    assert said.stdout.splitlines() == [
        "Takings and Sold by Mode › Line against Year, without Ferry (line)",
        "",
        "                       2024               2025          All dates",
        "Mode › Line     Takings, cr  Sold  Takings, cr  Sold  Takings, cr  Sold",
        "───────────────────────────────────────────────────────────────────────",
        "Tram",
        "  Shore tram           3.85     4                            3.85     4",
        "without a line                            5.20     5         5.20     5",
        "───────────────────────────────────────────────────────────────────────",
        "All lines              3.85     4         5.20     5         9.05     9",
    ]


def test_an_analysis_is_exported_as_it_is_seen(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    file = folder / "analysis.json"
    file.write_text(json.dumps(ANALYSIS))
    to = tmp_path / "takings.xlsx"
    said = CliRunner().invoke(app, ["export", str(folder), str(file), "--to", str(to)])
    assert (said.exit_code, said.stderr) == (0, f"{to}: 5 rows of 6 columns.\n")
    table = load_workbook(to)["Table"]
    assert table["A1"].value == "Takings and Sold by Mode › Line against Year"
    assert [cell.value for cell in table[table.max_row]] == ["All lines", 25.83, 6, 5.2, 5, 31.03, 11]
    text = tmp_path / "takings.csv"
    CliRunner().invoke(app, ["export", str(folder), str(file), "--to", str(text)])
    assert text.read_text(encoding="utf-8").splitlines()[-1] == "All lines,25.83,6,5.2,5,31.03,11"
    columns = tmp_path / "takings.parquet"
    CliRunner().invoke(app, ["export", str(folder), str(file), "--to", str(columns)])
    found = pyarrow.parquet.read_table(columns)
    assert sum(found["Takings"].to_pylist()) == Decimal("31.03")
    assert found.schema.field("Takings").metadata == {b"unit": b"cr"}
    for wrong, words in (("takings.doc", "ending"), ("nowhere/takings.xlsx", "cannot be written")):
        said = CliRunner().invoke(app, ["export", str(folder), str(file), "--to", str(tmp_path / wrong)])
        assert said.exit_code == 2
        assert words in said.stderr
        assert "Traceback" not in said.stderr
