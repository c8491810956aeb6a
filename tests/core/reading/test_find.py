"""Jumping to a header by its name."""

from __future__ import annotations

from dastan.core.analysis.document import Opening
from dastan.core.reading.find import find_line
from dastan.core.reading.sections import column_sections
from tests.core.asked import ask, by, question

OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)


def test_the_next_header_that_begins_so_then_one_that_holds_it_then_a_column() -> None:
    result = ask(question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),), openings=OPEN))
    # bus, 1, tram, 1, 2, without a line, the total.
    assert find_line(result, "TR", 0).line == 2
    assert [find_line(result, "1", start).line for start in (0, 1, 2, 4)] == [1, 1, 3, 1]
    assert find_line(result, "out", 0).caption == "without a line"
    found = find_line(result, "b", 3)
    assert (found.axis, found.line) == ("rows", 0)
    assert (find_line(result, "a", 0).axis, find_line(result, "a", 0).line) == ("rows", 2)
    assert find_line(result, "ferry", 0).line is None
    assert find_line(result, " ", 0).line is None


def test_with_measures_on_the_rows_it_is_the_heading_that_is_found() -> None:
    result = ask(question("boardings", "taps", rows=(by("line", "mode"),), measures_on="rows"))
    found = find_line(result, "tram", 0)
    assert (found.line, found.caption) == (3, "tram")


def test_wide_columns_are_parted_by_their_outermost_header() -> None:
    columns = (by("line", "mode"), by("fare", "family"))
    result = ask(question("boardings", "taps", columns=columns, openings=OPEN))
    # Each mode's total and the families below each of its teams, for two measures.
    found = [(each.caption, each.start, each.count) for each in column_sections(result)]
    assert found == [("bus", 0, 6), ("tram", 6, 10), ("without a line", 16, 4), ("All of Line", 20, 2)]
    outside = ask(question("boardings", "taps", columns=columns[:1], measures_at=0))
    assert [each.caption for each in column_sections(outside)] == ["Boardings", "Taps"]
