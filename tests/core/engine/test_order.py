"""In which order members stand, and where totals do."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from dastan.core.analysis.document import HeaderPath, Opening, Order, PlacedMeasure
from tests.core.asked import ask, by, heads, question, table
from tests.core.star import ROWS

from tests.core.engine.random_model import source_of  # isort: skip

OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
FARES = (by("fare", "product"),)


def ordered(order: Order, level: str = "line", **parts: object) -> list[str]:
    rows = (by("line", level, order=order),)
    return [caption for caption, *_ in table(ask(question("boardings", rows=rows, **parts)))]


def by_boardings(**more: object) -> Order:
    return Order(by="measure", measure=PlacedMeasure(measure="boardings"), **more)  # type: ignore[arg-type]


def test_by_a_measure_at_the_total_equal_ones_in_natural_order() -> None:
    assert ordered(by_boardings(descending=True)) == ["L3", "L1", "L2", "without a line", "All of Line"]
    assert ordered(by_boardings()) == ["L2", "without a line", "L1", "L3", "All of Line"]


def test_by_a_measure_at_one_column_empty_ones_last_both_ways() -> None:
    at_1 = HeaderPath(members=(("a", 1),))
    # Product 1 was bought on L1 (2) and L2 (1) only.
    assert ordered(by_boardings(column=at_1), columns=FARES) == ["L2", "L1", "L3", "without a line", "All of Line"]
    found = ordered(by_boardings(column=at_1, descending=True), columns=FARES)
    assert found == ["L1", "L2", "L3", "without a line", "All of Line"]


def test_an_order_by_a_column_that_is_not_there_now_waits() -> None:
    gone = HeaderPath(members=(("a", 77),))
    assert ordered(by_boardings(column=gone, descending=True), columns=FARES)[0] == "L3"
    assert ordered(replace(by_boardings(), measure=PlacedMeasure(measure="revenue")))[0] == "L3"


def test_inside_the_parent_and_across_it() -> None:
    inside = ordered(by_boardings(), "mode", openings=OPEN)
    assert inside == ["without a line", "tram", " 2", " 1", "bus", " 1", "All of Line"]
    across = ordered(by_boardings(across=True), "mode", openings=OPEN)
    assert across == ["tram › 2", "without a line", "tram › 1", "bus › 1", "All of Line"]


def test_by_name_and_by_key() -> None:
    lines = [each | {"line": name} for each, name in zip(ROWS["lines"], ("l10", "L2", "l9"), strict=True)]
    taps = [each | {"line_id": name} for each, name in zip(ROWS["taps"], ("l10", "L2", "l9", None), strict=True)]
    source = source_of(ROWS | {"lines": lines, "taps": taps})

    def rows(order: Order) -> list[str]:
        found = table(ask(question("boardings", rows=(by("line", "line", order=order),)), source))
        return [caption for caption, *_ in found[:-1]]

    assert rows(Order(by="caption")) == ["l10", "L2", "l9", "without a line"]
    assert rows(Order(by="caption", descending=True)) == ["l9", "L2", "l10", "without a line"]
    assert rows(Order(by="key")) == ["L2", "l10", "l9", "without a line"]


def test_natural_order_goes_through_hidden_parents_and_can_be_reversed() -> None:
    """Found by the oracle: shown from the line down, a blank team still stands last in its own mode."""
    assert ordered(Order()) == ["L3", "L1", "L2", "without a line", "All of Line"]
    assert ordered(Order(descending=True)) == ["L2", "L1", "L3", "without a line", "All of Line"]


def test_reversed_across_turns_the_outer_order_round_as_well() -> None:
    """Found by the oracle."""
    rows = (by("fare", "family"), by("line", "line", order=Order(across=True, descending=True)))
    found = [caption for caption, _ in table(ask(question("boardings", rows=rows)))]
    assert found == ["b › L3", "a › L2", "a › L1", "b › without a line", "All of Fare"]


def test_subtotals_stand_before_after_or_not_at_all() -> None:
    def rows(totals: str) -> list[tuple[str, ...]]:
        return table(ask(question("boardings", rows=(by("line", "mode", totals=totals),), openings=OPEN)))

    assert rows("after")[:3] == [(" 1", "4"), ("bus", "4"), (" 1", "2")]
    # Without totals a row keeps its heading, to stand over what is below it, and has no figures.
    assert rows("none")[:5] == [("bus", ""), (" 1", "4"), ("tram", ""), (" 1", "2"), (" 2", "1")]
    # A member with nothing below it keeps its own.
    assert rows("none")[-2:] == [("without a line", "1"), ("All of Line", "8")]


def test_columns_have_their_totals_after_and_lose_them_whole() -> None:
    def columns(**totals: Any) -> list[str]:
        return heads(ask(question("boardings", columns=(by("line", "mode", **totals),), openings=OPEN)))

    assert columns() == ["bus › 1", "bus", "tram › 1", "tram › 2", "tram", "without a line", "All of Line"]
    assert columns(totals="none") == ["bus › 1", "tram › 1", "tram › 2", "without a line", "All of Line"]
    assert columns(totals="before")[:2] == ["bus", "bus › 1"]


def test_the_grand_total_stands_first_last_or_not_at_all() -> None:
    rows = (by("line", "mode"),)
    for where, expected in (("before", 0), ("after", 3), ("none", None)):
        result = ask(question("boardings", rows=rows, row_total=where))
        assert result.rows.total == expected
    assert table(ask(question("boardings", row_total="none"))) == [("Total", "8")]
