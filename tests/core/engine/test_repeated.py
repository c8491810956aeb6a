"""A total of one child is not said twice, unless it is asked for or says something else."""

from __future__ import annotations

from dastan.core.analysis.document import Opening
from dastan.core.analysis.gestures import SetTotalsOfOne, apply_gesture, step_words
from dastan.core.model.conditions import MemberFilter
from tests.core.asked import STAR, ask, by, heads, limited, question, table

OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
BUSES = MemberFilter(dimension="line", hierarchy="line", members=(("bus",),))


def test_a_row_above_its_only_child_is_a_heading_wherever_totals_stand() -> None:
    for totals, rows in (
        (None, [("bus", ""), (" 1", "4"), ("tram", "3"), (" 1", "2"), (" 2", "1")]),
        ("after", [("bus", ""), (" 1", "4"), (" 1", "2"), (" 2", "1"), ("tram", "3")]),
    ):
        placed = by("line", "mode", totals=totals)
        document = question("boardings", rows=(placed,), openings=OPEN, totals_of_one="hidden")
        assert table(ask(document))[:-2] == rows


def test_a_column_beside_its_only_child_is_gone() -> None:
    document = question("boardings", columns=(by("line", "mode"),), openings=OPEN, totals_of_one="hidden")
    assert heads(ask(document)) == ["bus › 1", "tram › 1", "tram › 2", "tram", "without a line", "All of Line"]
    shown = apply_gesture(document, SetTotalsOfOne(totals="shown"), STAR.model)
    assert heads(ask(shown))[:2] == ["bus › 1", "bus"]


def test_the_grand_total_of_one_member_is_gone_down_to_the_last_that_says_it() -> None:
    document = question("boardings", rows=(by("line", "mode"),), filters=(BUSES,), totals_of_one="hidden")
    assert table(ask(document)) == [("bus", "4")]
    deeper = question("boardings", rows=(by("line", "mode"),), filters=(BUSES,), openings=OPEN, totals_of_one="hidden")
    assert table(ask(deeper)) == [("bus", ""), (" 1", "4")]


def test_a_total_over_more_than_its_only_child_stands() -> None:
    placed = limited(by("line", "mode"), level="mode", amount=1)
    assert table(ask(question("boardings", rows=(placed,), totals_of_one="hidden"))) == [
        ("bus", "4"),
        ("All of Line", "8"),
    ]


def test_a_child_without_figures_of_its_own_leaves_the_total() -> None:
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    placed = by("line", "mode", totals="none")
    document = question("boardings", rows=(placed,), filters=(trams,), openings=OPEN, totals_of_one="hidden")
    assert table(ask(document)) == [("tram", ""), (" 1", "2"), (" 2", "1"), ("All of Line", "3")]


def test_the_step_is_told() -> None:
    words = step_words(question("boardings"), SetTotalsOfOne(totals="shown"), STAR.model, STAR.members)
    assert words == "totals of one child too"
