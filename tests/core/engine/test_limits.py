"""Limits: who is among the first, what the rest is, and what the totals are over."""

from __future__ import annotations

import pytest

from dastan.core.analysis.document import Opening, PlacedMeasure
from dastan.core.engine.limits import first_few
from dastan.core.errors import InputError
from dastan.core.values import Values
from tests.core.asked import ask, by, heads, limited, question, table
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS

import numpy as np  # isort: skip

OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode", "team")),)
LINES = by("line", "line")
MODES = by("line", "mode")


def test_the_largest_members_are_shown_and_the_total_is_over_everything_in_scope() -> None:
    shown = ask(question("boardings", rows=(limited(LINES, level="line", amount=2),)))
    assert table(shown) == [("L3", "4"), ("L1", "2"), ("All of Line", "8")]


def test_or_over_what_is_shown() -> None:
    rows = (limited(LINES, level="line", amount=2),)
    assert table(ask(question("boardings", rows=rows, totals_over="shown")))[-1] == ("All of Line", "6")


def test_the_rest_stands_as_one_member_whose_distinct_count_is_its_own() -> None:
    rows = (limited(LINES, level="line", amount=1, others=True),)
    # Cards: L3 has card 2; the rest have cards 1, 1 and 3: two different ones, and three in all.
    assert table(ask(question("cards", rows=rows))) == [("L3", "1"), ("others", "2"), ("All of Line", "3")]


def test_equal_values_are_decided_by_natural_order() -> None:
    # L2 and the member without a line have one boarding each.
    rows = (limited(LINES, level="line", amount=1, side="smallest"),)
    assert table(ask(question("boardings", rows=rows)))[0] == ("L2", "1")


def test_in_each_parent_and_over_the_whole() -> None:
    in_each = limited(MODES, level="line", amount=1)
    found = table(ask(question("boardings", rows=(in_each,), openings=OPEN)))
    assert [caption.strip() for caption, _ in found] == [
        "bus", "1", "L3", "tram", "1", "L1", "2", "L2", "without a line", "All of Line",
    ]  # fmt: skip
    over_all = limited(MODES, level="line", amount=2, per="whole")
    found = table(ask(question("boardings", rows=(over_all,), openings=OPEN)))
    assert [caption.strip() for caption, _ in found] == [
        "bus", "1", "L3", "tram", "1", "L1", "2", "without a line", "All of Line",
    ]  # fmt: skip


def test_the_parent_of_a_level_below_one_passed_over_is_the_level_above_it() -> None:
    placed = limited(by("line", "mode", skipped=("team",)), level="line", amount=1, others=True)
    found = table(ask(question("boardings", rows=(placed,), openings=OPEN)))
    assert found == [
        ("bus", "4"), (" L3", "4"), ("tram", "3"), (" L1", "2"), (" others", "1"), ("without a line", "1"),
        ("All of Line", "8"),
    ]  # fmt: skip


def test_vital_few_reach_their_share_and_no_more() -> None:
    # 4 + 2 of 8 are 75 %: for 80 % one more is needed, the first of two equal ones.
    at_75 = limited(LINES, level="line", count="percent_of_measure", amount=75)
    at_80 = limited(LINES, level="line", count="percent_of_measure", amount=80)
    assert [row[0] for row in table(ask(question("boardings", rows=(at_75,))))] == ["L3", "L1", "All of Line"]
    assert [row[0] for row in table(ask(question("boardings", rows=(at_80,))))] == ["L3", "L1", "L2", "All of Line"]


def test_shares_are_exact_beyond_what_a_float_can_tell() -> None:
    large = 2**61
    values = Values(np.array([large, large // 4, 1]), 0, np.ones(3, np.bool_))
    limit = limited(LINES, level="line", count="percent_of_measure", amount=80).limits[0]
    # 80 % of 1.25 large + 1 is a hair more than large.
    assert first_few(values, np.zeros(3, np.int64), np.arange(3), limit).tolist() == [0, 1]


def test_per_cent_of_members_rounds_up() -> None:
    rows = (limited(LINES, level="line", count="percent_of_members", amount=30),)
    assert [row[0] for row in table(ask(question("boardings", rows=rows)))] == ["L3", "L1", "All of Line"]


def test_each_axis_ignores_the_others_limit() -> None:
    fares = limited(by("fare", "family"), level="family", amount=1)
    rows = (limited(LINES, level="line", amount=2),)
    result = ask(question("boardings", rows=rows, columns=(fares,), totals_over="shown"))
    # By all fares L3 and L1 are the largest, though L1 has nothing in the largest family.
    assert heads(result) == ["b", "All of Fare"]
    assert table(result) == [("L3", "4", "4"), ("All of Line", "4", "4")]


def test_an_inner_limit_ranks_what_the_outer_one_leaves() -> None:
    outer = limited(MODES, level="mode", amount=1)
    inner = limited(by("fare", "product"), level="product", amount=1, per="whole")
    result = ask(question("boardings", rows=(outer, inner)))
    # Product 2 sells most everywhere; among buses, the largest mode, it is the only one.
    assert table(result) == [("bus", "4"), (" 2", "4"), ("All of Line", "8")]


def test_a_limit_by_a_measure_that_is_not_shown() -> None:
    rows = (limited(LINES, level="line", amount=1, side="smallest", by=PlacedMeasure(measure="revenue")),)
    assert table(ask(question("boardings", rows=rows)))[0] == ("without a line", "1")


def test_a_shown_total_above_an_open_member_is_over_what_its_own_members_show() -> None:
    """Found by the oracle: the limit stands under lines, and the mode above them is open."""
    inner = limited(by("fare", "product"), level="product", amount=1)
    rows = (by("line", "mode", skipped=("team",)), inner)
    shown = table(ask(question("boardings", rows=rows, totals_over="shown", openings=OPEN)))
    assert ("tram", "3") in shown
    assert shown[-1] == ("All of Line", "8")


def test_the_rest_of_an_outer_level_counts_in_a_shown_total_under_each_header_by_itself() -> None:
    """Found by the oracle: what one header hides, another may show."""
    families = limited(limited(by("fare", "family"), level="family", amount=1, others=True), level="product", amount=1)
    rows = (by("line", "mode"), families)
    opened = (Opening(dimension="fare", hierarchy="fare", levels=("family",)),)
    shown = table(ask(question("boardings", rows=rows, totals_over="shown", openings=opened)))
    assert shown == [
        ("bus", "4"), (" b", "4"), ("  2", "4"), ("tram", "3"), (" a", "3"), ("  1", "3"), ("without a line", "1"),
        (" b", "1"), ("  2", "1"), ("All of Line", "8"),
    ]  # fmt: skip


def test_a_limit_on_a_level_that_is_closed_bears_on_an_inner_one_over_all_the_same() -> None:
    """Found by the oracle: what is open has no part in a number."""
    # The largest line is L3, and product 2 alone is sold there; over all lines the smallest is product 1.
    lines = limited(MODES, level="line", amount=1, per="whole")
    products = limited(by("fare", "product"), level="product", amount=1, per="whole", side="smallest")
    rows = (lines, products)
    closed = table(ask(question("boardings", rows=rows)))
    assert closed == [
        ("bus", "4"),
        (" 2", "4"),
        ("tram", "3"),
        ("without a line", "1"),
        (" 2", "1"),
        ("All of Line", "8"),
    ]


def test_the_rest_stands_even_where_every_member_of_its_level_is_passed_over() -> None:
    """Found by the oracle."""
    source = source_of(ROWS | {"lines": [each | {"mode": None} for each in ROWS["lines"]]})
    nothing = PlacedMeasure(measure="delay_total")
    rows = (limited(by("tour", "mode", "line"), level="mode", amount=1, by=nothing, others=True),)
    assert table(ask(question("boardings", rows=rows), source)) == [("others", "8"), ("All of Line", "8")]


def test_two_limits_inside_overlapping_sets_are_refused_rather_than_guessed() -> None:
    families = limited(limited(by("fare", "family"), level="family", amount=1, others=True), level="product", amount=1)
    rows = (by("picks", "picks", "line"), families)
    with pytest.raises(InputError, match="inside a list"):
        ask(question("boardings", rows=rows, totals_over="shown"))


def test_an_empty_value_is_never_among_the_first() -> None:
    assert ROWS["taps"][0]["delay"] is None
    rows = (limited(LINES, level="line", amount=3, by=PlacedMeasure(measure="delay_total")),)
    assert [row[0] for row in table(ask(question("boardings", rows=rows)))] == ["All of Line"]
