"""Spreadsheets read as tables; each expected value was typed into the sheet by hand."""

from __future__ import annotations

import zipfile
from datetime import date, datetime, time
from pathlib import Path
from typing import Any

import pytest
from openpyxl import Workbook

from dastan.core.errors import SourceError
from dastan.core.model.document import Table
from dastan.sources.files.csv_file import CsvForm
from dastan.sources.files.looking.folder import propose_model
from dastan.sources.files.sheets import read_sheet, sheet_names
from dastan.sources.files.tables import open_table

TAPS: list[list[Any]] = [
    ["Taps of the bay"],
    [],
    ["Day", "At", "Line", "People", "Takings", "Is open"],
    [date(2025, 1, 2), datetime(2025, 1, 2, 6, 30), "T1", 3, 1.5, True],
    [date(2025, 1, 3), datetime(2025, 1, 3, 7, 0, 15), " T2 ", 4, 2, False],
    [],
    [date(2025, 2, 3), None, None, 5, 0.25, True],
    ["Total", None, None, 12, 3.75],
]
LINES: list[list[Any]] = [["Line", "Mode"], ["T1", "Tram"], ["T2", "Tram"]]


def book(file: Path, **sheets: list[list[Any]]) -> Path:
    made = Workbook()
    made.remove(made.active)
    for name, rows in sheets.items():
        sheet = made.create_sheet(name)
        for row in rows:
            sheet.append(row)
    made.save(file)
    return file


def open_document(file: Path, name: str, rows: list[list[Any]]) -> Path:
    """The same as OpenDocument 1.3 writes it."""

    def cell(value: Any) -> str:
        if value is None:
            return "<table:table-cell/>"
        if isinstance(value, bool):
            return f'<table:table-cell office:value-type="boolean" office:boolean-value="{str(value).lower()}"/>'
        if isinstance(value, date):
            return f'<table:table-cell office:value-type="date" office:date-value="{value.isoformat()}"/>'
        if isinstance(value, int | float):
            return f'<table:table-cell office:value-type="float" office:value="{value}"/>'
        return f'<table:table-cell office:value-type="string"><text:p>{value}</text:p></table:table-cell>'

    lines = "".join(f"<table:table-row>{''.join(map(cell, row or [None]))}</table:table-row>" for row in rows)
    spaces = " ".join(
        f'xmlns:{each}="urn:oasis:names:tc:opendocument:xmlns:{each}:1.0"' for each in ("office", "table", "text")
    )
    content = (
        f'<office:document-content {spaces} office:version="1.3"><office:body><office:spreadsheet>'
        f'<table:table table:name="{name}">{lines}</table:table>'
        "</office:spreadsheet></office:body></office:document-content>"
    )
    with zipfile.ZipFile(file, "w") as packed:
        packed.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        packed.writestr("content.xml", content)
        packed.writestr(
            "META-INF/manifest.xml",
            '<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>',
        )
    return file


@pytest.mark.parametrize("ending", [".xlsx", ".ods"])
def test_a_sheet_is_read_as_a_table_of_the_types_that_its_cells_have(ending: str, tmp_path: Path) -> None:
    file = tmp_path / f"bay{ending}"
    book(file, Taps=TAPS) if ending == ".xlsx" else open_document(file, "Taps", TAPS)
    table = open_table(tmp_path, "taps", Table(file=file.name, sheet="Taps", header=3, footer=1))
    found = {each: table.column(each).to_pylist() for each in table.names}
    assert found["Day"] == [date(2025, 1, 2), date(2025, 1, 3), date(2025, 2, 3)]
    assert found["At"] == [datetime(2025, 1, 2, 6, 30), datetime(2025, 1, 3, 7, 0, 15), None]
    assert found["Line"] == ["T1", "T2", None]
    assert found["People"] == [3, 4, 5]
    assert [str(each) for each in found["Takings"]] == ["1.50", "2.00", "0.25"]
    assert found["Is open"] == ["true", "false", "true"]
    assert table.place("Day").locate(2) == f"bay{ending}, sheet Taps, row 7"
    assert table.notes == (f"bay{ending}, sheet Taps: a row that holds nothing was passed over",)


def test_the_sheets_of_a_workbook_become_a_star(tmp_path: Path) -> None:
    book(tmp_path / "bay.xlsx", Taps=TAPS, Lines=LINES, Notes=[["Made by hand"]], Empty=[])
    model = propose_model(tmp_path / "bay.xlsx")
    assert model.tables["taps"] == Table(
        file="bay.xlsx", sheet="Taps", header=3, footer=1, columns={"at_day": model.tables["taps"].columns["at_day"]}
    )
    ways = {(each.from_table, each.from_column, each.to_table) for each in model.relationships}
    assert {("taps", "Line", "lines"), ("taps", "Day", "days"), ("taps", "at_day", "days")} == ways
    assert [each.name for each in model.measures] == ["taps", "taps_at", "people", "takings"]


def test_a_sheet_without_names_and_the_first_of_several(tmp_path: Path) -> None:
    book(tmp_path / "bay.xlsx", One=[["T1", 4], ["T2", 5]], Two=LINES)
    table = open_table(tmp_path, "taps", Table(file="bay.xlsx", header=0))
    assert (table.names, table.column("column_2").to_pylist()) == (("column_1", "column_2"), [4, 5])
    assert table.place("column_2").locate(1) == "bay.xlsx, row 2"
    assert sheet_names(tmp_path / "bay.xlsx") == ["One", "Two"]


@pytest.mark.parametrize(
    ("rows", "said"),
    [
        ([["Line"], ["T1", "stray"]], "row 2: “stray” stands in a column without a name"),
        ([], "is empty"),
    ],
)
def test_what_is_wrong_in_a_sheet_is_told_by_its_row(rows: list[list[Any]], said: str, tmp_path: Path) -> None:
    file = book(tmp_path / "bay.xlsx", Taps=rows)
    with pytest.raises(SourceError, match=said):
        read_sheet(file, CsvForm(sheet="Taps"))


def test_a_sheet_that_is_not_there_is_told_with_the_nearest(tmp_path: Path) -> None:
    file = book(tmp_path / "bay.xlsx", Taps=LINES)
    with pytest.raises(SourceError, match="has no sheet “Tap”"):
        read_sheet(file, CsvForm(sheet="Tap"))


@pytest.mark.parametrize("written", [b"", b"no spreadsheet", b"PK\x03\x04 cut short"])
def test_what_is_no_spreadsheet_is_refused(written: bytes, tmp_path: Path) -> None:
    (tmp_path / "bay.xlsx").write_bytes(written)
    with pytest.raises(SourceError, match="cannot be opened"):
        sheet_names(tmp_path / "bay.xlsx")


def test_a_spreadsheet_that_unpacks_to_too_much_is_refused(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "bay.xlsx", "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b" " * (80 * 2**20))
    with pytest.raises(SourceError, match="would unpack to 80 MiB"):
        sheet_names(tmp_path / "bay.xlsx")


def test_times_and_large_numbers_keep_what_they_say(tmp_path: Path) -> None:
    file = book(tmp_path / "bay.xlsx", Taps=[["At", "Card"], [time(6, 30), 4929000000000123], [time(7, 0), 12]])
    found = read_sheet(file, CsvForm(sheet="Taps")).table
    assert found.column("At").to_pylist() == ["06:30:00", "07:00:00"]
    assert found.column("Card").to_pylist() == ["4929000000000123", "12"]
