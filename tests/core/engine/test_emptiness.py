"""Rows and columns without any value are left out when asked."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import MadeMeasure, Opening
from dastan.core.analysis.gestures import HideEmpty, ShowAllMembers, SwapAxes, apply_gesture
from dastan.core.analysis.sentence import sentence_of
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.expression import MeasureOf, Only
from tests.core.asked import STAR, ask, by, heads, question, table
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS


def with_delays(*delays: float | None) -> object:
    """The four taps with these delays."""
    taps = [each | {"delay": delay} for each, delay in zip(ROWS["taps"], delays, strict=True)]
    return source_of(ROWS | {"taps": taps})


def test_what_has_records_but_no_value_is_hidden_with_all_that_is_below() -> None:
    source = with_delays(None, None, None, 2.0)
    opening = Opening(dimension="line", hierarchy="line", levels=("mode",))
    document = question("delay_total", rows=(by("line", "mode"),), openings=(opening,))
    shown = table(ask(document, source))  # type: ignore[arg-type]
    assert len([each for each in shown if each[1] == ""]) > 1
    hidden = apply_gesture(document, HideEmpty(axis="rows", is_hidden=True), STAR.model)
    left = table(ask(hidden, source))  # type: ignore[arg-type]
    assert left == [each for each in shown if each[1] != ""]
    assert len(left) > 1


def test_a_heading_stays_as_long_as_something_below_it_does() -> None:
    opening = Opening(dimension="line", hierarchy="line", levels=("mode",))
    document = question(
        "delay_total", rows=(by("line", "mode", totals="none"),), openings=(opening,), empty_rows="hidden"
    )
    left = table(ask(document, with_delays(2.0, None, None, None)))  # type: ignore[arg-type]
    assert [each[1] for each in left][-1] == "2"
    assert left[0][1] == ""
    assert left[1][0].startswith(" ")


def test_where_nothing_has_a_value_the_grand_total_is_left() -> None:
    document = question("delay_total", rows=(by("line", "mode"),), columns=(by("fare", "family"),),
                        empty_rows="hidden", empty_columns="hidden")  # fmt: skip
    result = ask(document, with_delays(None, None, None, None))  # type: ignore[arg-type]
    assert table(result) == [("All of Line", "")]
    assert heads(result) == ["All of Fare"]


def test_hiding_and_showing_members_without_records_take_each_other_back() -> None:
    document = question("boardings", rows=(by("line", "mode"),))
    every = apply_gesture(document, ShowAllMembers(dimension="line", hierarchy="line", is_shown=True), STAR.model)
    hidden = apply_gesture(every, HideEmpty(axis="rows", is_hidden=True), STAR.model)
    assert not hidden.question.rows[0].all_members
    assert sentence_of(hidden, STAR.model, STAR.members).text.endswith(", without empty rows")
    again = apply_gesture(hidden, ShowAllMembers(dimension="line", hierarchy="line", is_shown=True), STAR.model)
    assert again.question.empty_rows == "shown"
    turned = apply_gesture(hidden, SwapAxes(), STAR.model)
    assert (turned.question.empty_rows, turned.question.empty_columns) == ("shown", "hidden")


def test_a_count_under_its_own_condition_is_zero_where_there_are_records_of_which_none_fits() -> None:
    """Every tap is in the one band that other taps are not of."""
    document = question("other_taps", rows=(by("line", "mode", all_members=True),))
    assert table(ask(document)) == [("bus", "0"), ("tram", "0"), ("without a line", "0"), ("All of Line", "0")]
    first = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
    of_trams = replace(document, question=replace(document.question, filters=(first,)))
    assert table(ask(of_trams)) == [("bus", ""), ("tram", "0"), ("All of Line", "0")]


def test_a_slice_of_such_a_count_is_zero_inside_and_empty_elsewhere() -> None:
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    sliced = Only(of=MeasureOf(measure="other_taps"), conditions=(trams,))
    made = MadeMeasure(name="trams", caption="Trams", formula=sliced)
    document = question("trams", rows=(by("line", "mode", all_members=True),))
    shown = table(ask(replace(document, made=(made,))))
    assert shown == [("bus", ""), ("tram", "0"), ("All of Line", "0")]
