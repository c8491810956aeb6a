"""A table as it is seen leaves the screen with its labels, its dress and every digit."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from dastan.core.analysis.document import (
    Analysis,
    Dress,
    LabelDress,
    NumberDress,
    Opening,
    Order,
    PlacedMeasure,
    PlacedMember,
)
from dastan.core.analysis.views import Share
from dastan.core.engine.answer import answer
from dastan.core.errors import InputError
from dastan.exports import copied as module
from dastan.exports import seen as seen_module
from dastan.exports.copied import copied, csv_of
from dastan.exports.seen import Block, SeenTable, Selected
from tests.core.asked import EVERYTHING, STAR, ask, by, question
from tests.core.star import TODAY

TEAMS_OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
BOARDINGS = PlacedMeasure(measure="boardings")


def table(document: Analysis, only: Selected | Block | None = None, **dress: Any) -> SeenTable:
    return SeenTable(ask(document), document, Dress(**dress), STAR.model, STAR.members, only)


def texts(seen: SeenTable) -> list[list[str]]:
    return [*seen.heads(), *([*labels, *figures] for labels, figures in seen.lines())]


def by_mode(**parts: Any) -> Analysis:
    return question("boardings", rows=(by("line", "mode"),), openings=TEAMS_OPEN, **parts)


def test_rows_are_stepped_in_named_in_full_or_have_a_column_for_each_level_as_they_are_seen() -> None:
    document = by_mode(columns=(by("fare", "family"),))
    assert texts(table(document)) == [
        ["", "a", "b", "All of Fare"],
        ["Mode › Team", "Boardings", "Boardings", "Boardings"],
        ["bus", "", "4", "4"],
        ["  1", "", "4", "4"],
        ["tram", "3", "", "3"],
        ["  1", "2", "", "2"],
        ["  2", "1", "", "1"],
        ["without a line", "", "1", "1"],
        ["All of Line", "3", "5", "8"],
    ]
    assert [line[0] for line in texts(table(document, rows="full_paths"))[2:5]] == ["bus", "bus › 1", "tram"]
    # A path goes on above the level that the table begins at.
    teams = question("boardings", rows=(by("line", "team"),))
    assert [line[0] for line in texts(table(teams, rows="full_paths"))[1:4]] == ["bus › 1", "tram › 1", "tram › 2"]
    assert [line[0] for line in texts(table(teams))[1:4]] == ["1", "1", "2"]
    levels = [line[:2] for line in texts(table(document, rows="levels"))]
    assert levels[1:6] == [["Mode", "Team"], ["bus", ""], ["", "1"], ["tram", ""], ["", "1"]]
    repeated = [line[:2] for line in texts(table(document, rows="levels", repeats_labels=True))]
    assert repeated[2:6] == [["bus", ""], ["bus", "1"], ["tram", ""], ["tram", "1"]]


def test_scale_sign_shares_and_keys_leave_as_they_are_written_with_every_digit() -> None:
    share = replace(BOARDINGS, view=Share(of="whole"))
    document = question("boardings", rows=(by("line", "mode"),))
    document = replace(document, question=replace(document.question, measures=(BOARDINGS, share)))
    dress: dict[str, Any] = {
        "numbers": (NumberDress(measure=BOARDINGS, scale="thousands", is_turned=True),),
        "labels": (LabelDress(dimension="line", hierarchy="line", shows="both"),),
    }
    found = texts(table(document, **dress))
    assert found[-5:] == [
        ["Mode", "Boardings, in thousands, sign turned", "of the whole"],
        ["bus", "-0.004", "50%"],
        ["tram", "-0.003", "37.5%"],
        ["without a line", "-0.001", "12.5%"],
        ["All of Line", "-0.008", "100%"],
    ]


def test_measures_on_rows_have_their_own_lines() -> None:
    document = question("boardings", "taps", rows=(by("line", "mode"),), measures_on="rows")
    found = texts(table(document))
    assert found[1:4] == [["bus", ""], ["  Boardings", "4"], ["  Taps", "1"]]
    assert [line[:2] for line in texts(table(document, rows="levels"))[:3]] == [
        ["Mode", "Measures"],
        ["bus", ""],
        ["", "Boardings"],
    ]


def test_a_measure_on_rows_says_what_changes_how_its_numbers_read() -> None:
    document = question("boardings", "taps", rows=(by("line", "mode"),), measures_on="rows")
    numbers = (NumberDress(measure=BOARDINGS, scale="thousands"),)
    assert texts(table(document, numbers=numbers))[2] == ["  Boardings, in thousands", "0.004"]


def test_money_keeps_its_unit_which_the_screen_has_beside_each_number() -> None:
    measures = tuple(
        replace(each, format="¤ #,##0.00", unit="cr") if each.name == "revenue" else each
        for each in STAR.model.measures
    )
    model = replace(STAR.model, measures=measures)
    document = question("revenue", rows=(by("line", "mode"),))
    seen = SeenTable(answer(document, model, STAR, EVERYTHING, TODAY), document, Dress(), model, STAR.members)
    assert texts(seen)[:2] == [["Mode", "Revenue, cr"], ["bus", "10"]]


def test_rows_in_one_order_across_their_parents_are_called_by_their_path() -> None:
    order = Order(by="measure", measure=BOARDINGS, descending=True, across=True)
    document = question("boardings", rows=(replace(by("line", "mode"), order=order),), openings=TEAMS_OPEN)
    assert [line[0] for line in texts(table(document))[1:4]] == ["bus › 1", "tram › 1", "tram › 2"]


def test_it_is_the_same_however_little_is_looked_at_together(monkeypatch: pytest.MonkeyPatch) -> None:
    document = by_mode(columns=(by("fare", "family"),))
    whole = texts(table(document))
    for cells in (1, 7):
        monkeypatch.setattr(seen_module, "BLOCK_CELLS", cells)
        assert texts(table(document)) == whole


def test_what_is_selected_is_copied_with_what_stands_in_it() -> None:
    tram = PlacedMember(dimension="line", hierarchy="line", path=("tram",))
    own = copied(table(by_mode(), Selected("rows", (tram,))))
    assert own.text == "Mode › Team\tBoardings\ntram\t3\n  1\t2\n  2\t1"
    assert (own.rows, own.columns) == (3, 1)
    a = PlacedMember(dimension="fare", hierarchy="fare", path=("a",))
    column = copied(table(by_mode(columns=(by("fare", "family"),)), Selected("columns", (a,))))
    assert (column.rows, column.columns) == (7, 1)
    assert column.text.splitlines()[0] == "\ta"


def test_what_a_spreadsheet_would_compute_is_made_harmless_and_html_is_escaped(monkeypatch: pytest.MonkeyPatch) -> None:
    measures = tuple(
        replace(each, caption="=1+1 <b>") if each.name == "boardings" else each for each in STAR.model.measures
    )
    model = replace(STAR.model, measures=measures)
    document = question("boardings", rows=(by("line", "mode"),))
    seen = SeenTable(ask(document), document, Dress(), model, STAR.members)
    own = copied(seen)
    assert "'=1+1 <b>" in own.text
    assert "&#x27;=1+1 &lt;b&gt;" in own.html
    assert "".join(csv_of(seen)).splitlines()[-1] == "All of Line,8"
    monkeypatch.setattr(module, "MOST_CELLS", 3)
    with pytest.raises(InputError, match="more than 3 cells, which is too many to copy"):
        copied(seen)
    # What is selected counts, not the table that it is of.
    tram = PlacedMember(dimension="line", hierarchy="line", path=("tram",))
    assert copied(table(by_mode(), Selected("rows", (tram,)))).rows == 3


def test_a_block_of_cells_has_its_own_rows_and_columns_with_their_headers() -> None:
    document = by_mode(columns=(by("fare", "family"),))
    assert texts(table(document, Block(range(1, 3), range(1, 3)))) == [
        ["", "b", "All of Fare"],
        ["Mode › Team", "Boardings", "Boardings"],
        ["  1", "4", "4"],
        ["tram", "", "3"],
    ]
    # What lies beyond the table is not there.
    assert [line[0] for line in texts(table(document, Block(range(6, 99), range(0, 1))))[2:]] == ["All of Line"]
    # Where outer members are named once, they are in the first row of what was selected.
    levels = texts(table(document, Block(range(3, 5), range(0, 1)), rows="levels"))
    assert [line[:2] for line in levels[2:]] == [["tram", "1"], ["", "2"]]
