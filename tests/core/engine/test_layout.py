"""Where the measures stand among the headers, and which headers a dimension breaks down."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Opening, PlacedDimension, PlacedMember, Under
from dastan.core.model.conditions import MemberFilter
from dastan.core.reading.window import window_of
from tests.core.asked import ask, by, question

MODES = by("line", "mode")
FARES = by("fare", "family")
OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)


def laid_out(document: Analysis) -> list[str]:
    """The rows with their figures, as they are read."""
    window = window_of(ask(document), 0, 99, 0, 99)
    found = []
    for row, values in zip(window.rows, window.values, strict=True):
        figures = " ".join("-" if each is None else f"{each:g}" for each in values)
        found.append(" " * row.indent + row.caption + (":" if row.is_heading else f" {figures}"))
    return found


def column_heads(document: Analysis) -> list[str]:
    result = ask(document)
    heads = []
    for each in window_of(result, 0, 1, 0, 99).columns:
        captions = [member.caption for member in each.members] or [each.caption]
        if each.measure is not None:
            captions.insert(each.outer if each.members else 0, result.measures[each.measure].caption)
        heads.append(" › ".join(captions))
    return heads


def two(**parts: object) -> Analysis:
    return question("boardings", "taps", **parts)


def test_on_columns_every_header_has_a_column_for_each_measure() -> None:
    document = two(rows=(MODES,), columns=(FARES,))
    assert laid_out(document) == [
        "bus - - 4 1 4 1", "tram 3 2 - - 3 2", "without a line - - 1 1 1 1", "All of Line 3 2 5 2 8 4",
    ]  # fmt: skip
    assert column_heads(document)[:3] == ["a › Boardings", "a › Taps", "b › Boardings"]
    window = window_of(ask(document), 0, 99, 1, 2)
    assert [each.measure for each in window.columns] == [1, 0]
    assert window.values[1] == (2, None)
    assert window.total_rows is not None
    assert window.total_rows.values == ((2, 5),)


def test_outside_the_columns_each_measure_heads_a_block_with_its_own_total() -> None:
    document = two(rows=(MODES,), columns=(FARES,), measures_at=0)
    assert laid_out(document)[-1] == "All of Line 3 5 8 2 2 4"
    window = window_of(ask(document), 0, 1, 0, 99)
    assert [(each.measure, each.outer, each.caption) for each in window.columns][:3] == [
        (0, 0, "a"), (0, 0, "b"), (0, 0, "All of Fare"),
    ]  # fmt: skip
    assert (window.outer_depth, window.inner_depth) == (0, 1)


def test_inside_the_rows_each_member_heads_its_measures() -> None:
    assert laid_out(two(rows=(MODES,), measures_on="rows")) == [
        "bus:", " Boardings 4", " Taps 1", "tram:", " Boardings 3", " Taps 2",
        "without a line:", " Boardings 1", " Taps 1", "All of Line:", " Boardings 8", " Taps 4",
    ]  # fmt: skip


def test_the_grand_total_s_rows_stay_together_in_view() -> None:
    window = window_of(ask(two(rows=(MODES,), measures_on="rows")), 0, 2, 0, 9)
    assert window.total_rows is not None
    assert [each.caption for each in window.total_rows.rows] == ["All of Line", "Boardings", "Taps"]
    assert (window.total_rows.start, window.total_rows.values) == (9, ((None,), (8,), (4,)))


def test_outside_the_rows_each_measure_heads_all_members() -> None:
    assert laid_out(two(rows=(MODES,), measures_on="rows", measures_at=0)) == [
        "Boardings:", " bus 4", " tram 3", " without a line 1", " All of Line 8",
        "Taps:", " bus 1", " tram 2", " without a line 1", " All of Line 4",
    ]  # fmt: skip
    first = two(rows=(MODES,), measures_on="rows", measures_at=0, row_total="before")
    assert laid_out(first)[:3] == ["Boardings 8", " bus 4", " tram 3"]


def test_between_two_hierarchies_of_the_rows() -> None:
    document = two(rows=(MODES, FARES), measures_on="rows", measures_at=1)
    assert laid_out(document)[:5] == ["bus:", " Boardings 4", "  b 4", " Taps 1", "  b 1"]
    after = replace(MODES, totals="after")
    document = two(rows=(after, FARES), measures_on="rows", measures_at=1)
    assert laid_out(document)[:5] == ["bus:", " Boardings:", "  b 4", "  total 4", " Taps:"]
    none = replace(MODES, totals="none")
    document = two(rows=(none, FARES), measures_on="rows", measures_at=1)
    assert laid_out(document)[:4] == ["bus:", " Boardings:", "  b 4", " Taps:"]


def test_an_open_member_outside_the_measures_is_a_block_of_its_own() -> None:
    document = two(rows=(MODES, FARES), measures_on="rows", measures_at=1, openings=OPEN)
    assert laid_out(document)[:8] == [
        "bus:", " Boardings 4", " Taps 1", " 1:", "  Boardings 4", "   b 4", "  Taps 1", "   b 1",
    ]  # fmt: skip


def test_one_measure_takes_no_rows_of_its_own() -> None:
    document = question("boardings", rows=(MODES,), measures_on="rows")
    assert laid_out(document) == ["bus 4", "tram 3", "without a line 1", "All of Line 8"]


def under(*paths: tuple[str | int, ...]) -> PlacedDimension:
    members = [(PlacedMember(dimension="line", hierarchy="line", path=path),) for path in paths]
    return replace(FARES, only_under=tuple(Under(members=each) for each in members))


def test_a_dimension_breaks_down_the_headers_that_it_names_only() -> None:
    document = question("boardings", rows=(MODES, under(("bus",))))
    assert laid_out(document) == ["bus 4", " b 4", "tram 3", "without a line 1", "All of Line 8"]
    assert laid_out(question("boardings", rows=(MODES, under()))) == laid_out(question("boardings", rows=(MODES,)))


def test_it_names_the_deepest_member_of_a_header() -> None:
    opened = question("boardings", rows=(MODES, under(("tram", 2))), openings=OPEN)
    assert laid_out(opened)[2:6] == ["tram 3", " 1 2", " 2 1", "  a 1"]
    waits = question("boardings", rows=(MODES, under(("tram", 2))))
    assert laid_out(waits) == ["bus 4", "tram 3", "without a line 1", "All of Line 8"]


def test_it_waits_while_what_it_names_stands_elsewhere() -> None:
    regions = by("area", "region", "line")
    document = question("boardings", rows=(regions, under(("bus",))), columns=(MODES,))
    assert not any(row.startswith(" ") for row in laid_out(document))


def test_an_axis_without_any_header_has_no_lines() -> None:
    gone = MemberFilter(dimension="line", hierarchy="line", members=(("ferry",),))
    document = two(rows=(MODES,), columns=(FARES,), column_total="none", filters=(gone,))
    assert window_of(ask(document), 0, 9, 0, 9).column_count == 0
