"""A workbook says what the table says, with numbers that a spreadsheet can work with; read back by another program."""

from __future__ import annotations

import sys
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
from openpyxl import load_workbook
from openpyxl.workbook import Workbook

from dastan.core.analysis.document import (
    Analysis,
    Chart,
    ChartForm,
    Dress,
    NumberDress,
    Opening,
    PlacedMeasure,
    Threshold,
)
from dastan.core.analysis.dress import Written
from dastan.core.analysis.views import Share
from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError, LimitError
from dastan.exports import workbook as module
from dastan.exports.cell_format import cell_format, cell_value
from dastan.exports.flat import FlatTable
from dastan.exports.seen import SeenTable
from dastan.exports.workbook import write_workbook
from tests.core.asked import STAR, ask, by, question
from tests.core.star import ROWS

TEAMS_OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
SENTENCE = "Boardings by Mode"
BOARDINGS, REVENUE = PlacedMeasure(measure="boardings"), PlacedMeasure(measure="revenue")


def written(folder: Path, document: Analysis, watch: Watch | None = None, **dress: Any) -> Path:
    looks = Dress(**dress)
    seen = SeenTable(ask(document), document, looks, STAR.model, STAR.members)
    file = folder / "table.xlsx"
    write_workbook(seen, looks, SENTENCE, ("Star", "data to 1 Mar 2024"), file, watch or Watch())
    return file


def read(file: Path) -> Workbook:
    return load_workbook(file)


def values(sheet: Any) -> list[list[Any]]:
    return [[cell.value for cell in row] for row in sheet.iter_rows()]


def test_the_table_stands_as_it_is_seen_and_the_same_numbers_flat_beside_it(tmp_path: Path) -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=TEAMS_OPEN)
    book = read(written(tmp_path, document))
    assert book.sheetnames == ["Table", "Data"]
    table = book["Table"]
    assert values(table) == [
        ["Boardings by Mode", None, None, None],
        ["Star · data to 1 Mar 2024", None, None, None],
        [None] * 4,
        [None, "a", "b", "All of Fare"],
        ["Mode › Team", "Boardings", "Boardings", "Boardings"],
        ["bus", None, 4, 4],
        ["1", None, 4, 4],
        ["tram", 3, None, 3],
        ["1", 2, None, 2],
        ["2", 1, None, 1],
        ["without a line", None, 1, 1],
        ["All of Line", 3, 5, 8],
    ]
    # Teams fold below their mode, and are stepped in; the total stands out; headers stay in sight.
    assert [table.row_dimensions[at].outlineLevel for at in range(6, 13)] == [0, 1, 0, 1, 1, 0, 0]
    assert not table.sheet_properties.outlinePr.summaryBelow
    assert [table.cell(at, 1).alignment.indent for at in (6, 7)] == [0, 1]
    assert [table.cell(at, 2).font.b for at in (8, 9, 12)] == [True, False, True]
    assert table.freeze_panes == "B6"
    assert values(book["Data"]) == [
        ["Mode", "Team", "Family", "Boardings"],
        ["bus", 1, "b", 4],
        ["tram", 1, "a", 2],
        ["tram", 2, "a", 1],
        ["without a line", None, "b", 1],
    ]


def test_what_rows_come_to_may_stand_below_them(tmp_path: Path) -> None:
    mode, family = by("line", "mode", totals="after"), by("fare", "family")
    document = question("boardings", rows=(mode, family))
    numbers = NumberDress(measure=BOARDINGS, in_cell="shade")
    table = read(written(tmp_path, document, numbers=(numbers,)))["Table"]
    rows = [
        (row[0].value, row[1].value, table.row_dimensions[row[0].row].outlineLevel)
        for row in table.iter_rows(min_row=5)
    ]
    assert rows == [
        ("b", 4, 1), ("bus", 4, 0), ("a", 3, 1), ("tram", 3, 0), ("b", 1, 1), ("without a line", 1, 0), ("All of Line", 8, 0)
    ]  # fmt: skip
    # What the standard takes where nothing is said: sums stand below.
    assert getattr(table.sheet_properties.outlinePr, "summaryBelow", None) is not False
    # Outer members stand out, and have no shade.
    assert [table.cell(at, 1).font.b for at in (5, 6, 7)] == [False, True, False]
    assert [str(each.sqref) for each in table.conditional_formatting] == ["B5 B7 B9"]


def test_a_table_without_measures_has_its_headers(tmp_path: Path) -> None:
    book = read(written(tmp_path, question(rows=(by("line", "mode"),))))
    assert [row[0].value for row in book["Table"].iter_rows(min_row=5)] == ["bus", "tram", "All of Line"]
    empty = read(written(tmp_path, question()))
    assert empty["Table"]["A1"].value == "Boardings by Mode"


def test_captions_over_several_columns_stand_once(tmp_path: Path) -> None:
    document = question("boardings", "taps", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    table = read(written(tmp_path, document))["Table"]
    assert {str(each) for each in table.merged_cells.ranges} == {"B4:C4", "D4:E4", "F4:G4"}
    assert [cell.value for cell in table[5]] == ["Mode", *["Boardings", "Taps"] * 3]


def test_numbers_keep_their_value_and_look_as_they_are_dressed(tmp_path: Path) -> None:
    share = replace(BOARDINGS, view=Share(of="whole"))
    document = question("boardings", rows=(by("line", "mode"),))
    document = replace(document, question=replace(document.question, measures=(BOARDINGS, share)))
    numbers = NumberDress(measure=BOARDINGS, scale="thousands", is_turned=True, pattern="#,##0.0;(#,##0.0)")
    book = read(written(tmp_path, document, numbers=(numbers,)))
    rows = {row[0].value: row for row in book["Table"].iter_rows()}
    thousand, part = rows["bus"][1:]
    # In thousands it is the format that divides.
    assert (thousand.value, thousand.number_format) == (-4, '#,##0.0,;"("#,##0.0,")"')
    assert (part.value, part.number_format) == (0.5, '0.0" "%;"−"0.0" "%')
    # Beside them the numbers as they are.
    assert values(book["Data"])[1] == ["bus", 4, 0.5]


# The reader leaves out what newer spreadsheets know of bars beyond the standard.
@pytest.mark.filterwarnings("ignore:.*xtension is not supported")
def test_thresholds_and_bars_are_the_spreadsheets_own(tmp_path: Path) -> None:
    document = question("boardings", "revenue", rows=(by("line", "mode"),), openings=TEAMS_OPEN)
    high = Threshold(side="at_least", amount=3, meaning="favourable")
    dear = Threshold(side="at_most", amount=2, times=BOARDINGS, meaning="unfavourable")
    numbers = (
        NumberDress(measure=BOARDINGS, thresholds=(high,), is_turned=True),
        NumberDress(measure=REVENUE, thresholds=(dear,), in_cell="bar"),
    )
    table = read(written(tmp_path, document, numbers=numbers))["Table"]
    rules = [(str(span.sqref), rule) for span in table.conditional_formatting for rule in span.rules]
    first, second, bar = rules
    # The sign of what stands there is turned, and so is the rule.
    assert (first[0], first[1].operator, first[1].formula) == ("B5:B11", "lessThanOrEqual", ["-3"])
    assert (second[0], second[1].formula) == ("C5:C11", ["AND(ISNUMBER($C5),ISNUMBER($B5),$C5<=-2*$B5)"])
    # Behind subtotals and totals stand no bars.
    assert (bar[0], bar[1].type) == ("C6 C8:C10", "dataBar")


@pytest.mark.filterwarnings("ignore:.*xtension is not supported")
def test_bars_are_as_long_as_on_screen_in_every_column_but_the_totals(tmp_path: Path) -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    for is_turned, ends in ((False, [0, 4]), (True, [-4, 0])):
        numbers = NumberDress(measure=BOARDINGS, in_cell="bar", is_turned=is_turned)
        table = read(written(tmp_path, document, numbers=(numbers,)))["Table"]
        rules = {str(span.sqref): span.rules[0].dataBar for span in table.conditional_formatting}
        assert {where: [each.val for each in bar.cfvo] for where, bar in rules.items()} == {
            "B6:B8": ends,
            "C6:C8": ends,
        }


@pytest.mark.parametrize(
    ("look", "value", "held"),
    [
        (Written("#,##0", 1, False, ""), "12345678901234567", "12345678901234567"),
        (Written("#,##0", 1, True, ""), "12345678901234567", "-12345678901234567"),
        (Written("#,##0", 1, False, ""), 123456789012345, 123456789012345),
        (Written("#,##0.00", 1, True, ""), 2.5, -2.5),
        (Written("0 ‰", 1, False, ""), 0.25, 250),
        (Written("#,##0", 1, True, ""), 0, 0),
    ],
)  # fmt: skip
def test_no_digit_is_lost_in_a_cell(look: Written, value: Any, held: Any) -> None:
    assert cell_value(value, look) == held


def test_money_and_signs_around_a_number_are_quoted() -> None:
    assert cell_format(Written("+#,##0.00 ¤;−#,##0.00 ¤", 1, False, ""), "cr") == '"+"#,##0.00" cr";"−"#,##0.00" cr"'


def test_texts_stay_texts_whatever_they_begin_with(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    wrong = "=1+1 https://a.example"
    monkeypatch.setattr(SeenTable, "flat", lambda _: FlatTable(ask(question("boardings")), [wrong]))
    monkeypatch.setattr(sys.modules[__name__], "SENTENCE", wrong)
    book = read(written(tmp_path, question("boardings", rows=(by("line", "mode"),))))
    for cell in (book["Table"]["A1"], book["Data"]["A1"]):
        assert (cell.data_type, cell.value) == ("s", wrong)


def test_what_a_sheet_cannot_hold_is_refused_before_it_begins(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    monkeypatch.setattr(module, "MOST_ROWS", 6)
    with pytest.raises(LimitError, match="4 rows") as error:
        written(tmp_path, document)
    assert "CSV" in error.value.hint
    monkeypatch.setattr(module, "MOST_ROWS", 100)
    monkeypatch.setattr(module, "MOST_COLUMNS", 3)
    with pytest.raises(LimitError, match="4 columns"):
        written(tmp_path, document)
    assert list(tmp_path.iterdir()) == []


def test_the_flat_sheet_is_left_out_where_it_would_be_too_long_and_that_is_said(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=TEAMS_OPEN)
    monkeypatch.setattr(FlatTable, "__len__", lambda _: 1_048_576)
    book = read(written(tmp_path, document))
    assert book.sheetnames == ["Table"]
    assert book["Table"]["A2"].value.endswith("too many cells for a sheet of them all")


def test_one_that_is_taken_back_leaves_no_file(tmp_path: Path) -> None:
    watch = Watch()
    watch.cancel()
    with pytest.raises(CancelledError):
        written(tmp_path, question("boardings", rows=(by("line", "mode"),)), watch)
    assert list(tmp_path.iterdir()) == []


def test_flat_values_are_exact() -> None:
    document = question("revenue", rows=(by("line", "mode"),))
    found = {labels[0]: values[0] for labels, values in FlatTable(ask(document), ["Revenue"]).rows(Watch())}
    paid: dict[str, Decimal] = {}
    for tap in ROWS["taps"]:
        line = next((each for each in ROWS["lines"] if each["line"] == tap["line_id"]), None)
        mode = "without a line" if line is None else str(line["mode"])
        paid[mode] = paid.get(mode, Decimal()) + Decimal(str(tap["revenue"]))
    assert found == paid


@pytest.mark.parametrize(
    ("form", "kind", "grouping"),
    [("bars", "BarChart", "clustered"), ("stacked", "BarChart", "stacked"), ("lines", "LineChart", "standard")],
)
def test_the_chart_is_the_spreadsheets_own_with_the_numbers_that_are_drawn(
    tmp_path: Path, form: ChartForm, kind: str, grouping: str
) -> None:
    document = question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=TEAMS_OPEN)
    book = read(written(tmp_path, document, view="both", chart=Chart(form=form)))
    assert book.sheetnames == ["Table", "Chart", "Data"]
    sheet = book["Chart"]
    assert [line[:3] for line in values(sheet)[2:]][:6] == [
        ["Boardings", "a", "b"],
        ["bus › 1", None, 4],
        ["tram › 1", 2, None],
        ["tram › 2", 1, None],
        ["without a line", None, 1],
        [None, None, None],
    ][: len(values(sheet)) - 2]
    (chart,) = sheet._charts
    assert (type(chart).__name__, chart.grouping) == (kind, grouping)
    assert [each.val.numRef.f for each in chart.series] == ["Chart!$B$4:$B$7", "Chart!$C$4:$C$7"]
    assert [(each.cat.strRef or each.cat.numRef).f for each in chart.series] == ["Chart!$A$4:$A$7"] * 2
    assert "Chart" not in read(written(tmp_path, document)).sheetnames


def test_points_set_one_measure_against_another_and_a_heat_table_is_shaded(tmp_path: Path) -> None:
    document = question("boardings", "revenue", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    sheet = read(written(tmp_path, document, view="chart", chart=Chart(form="points")))["Chart"]
    (chart,) = sheet._charts
    assert (type(chart).__name__, len(chart.series)) == ("ScatterChart", 2)
    shaded = read(written(tmp_path, document, view="chart", chart=Chart(form="heat")))["Chart"]
    assert (shaded._charts, len(list(shaded.conditional_formatting))) == ([], 2)
