"""Comparing two steps: what the documents differ in, and the numbers."""

from __future__ import annotations

import pytest

from dastan.core.analysis.differences import differences
from dastan.core.analysis.document import Analysis, Opening
from dastan.core.model.conditions import MemberFilter
from dastan.core.reading import compare
from dastan.core.reading.compare import compare_answers
from tests.core.asked import STAR, ask, by, question

MODES = by("line", "mode")
BUSES_OUT = MemberFilter(dimension="line", hierarchy="line", action="leave_out", members=(("bus",),))


def said(before: Analysis, after: Analysis) -> list[tuple[str, str, str]]:
    return [(each.side, each.part, each.text) for each in differences(before, after, STAR.model, STAR.members)]


def test_a_filter_takes_cells_away_and_changes_the_total() -> None:
    before, after = question("boardings", rows=(MODES,)), question("boardings", rows=(MODES,), filters=(BUSES_OUT,))
    found = compare_answers(ask(before), ask(after))
    assert found is not None
    assert (found.same, found.changed, found.only_before, found.only_after) == (2, 1, 1, 0)
    (total,) = found.largest
    assert (total.caption, total.measure, total.before, total.after, total.difference) == (
        "All of Line", "Boardings", 8, 4, -4.0,
    )  # fmt: skip
    assert said(before, after) == [("after", "without", "bus (line)")]


def test_turning_changes_no_number() -> None:
    before = question("boardings", "taps", rows=(MODES,), columns=(by("fare", "family"),))
    after = question("boardings", "taps", rows=(by("fare", "family"),), columns=(MODES,), measures_on="rows")
    found = compare_answers(ask(before), ask(after))
    assert found is not None
    assert (found.changed, found.only_before, found.only_after) == (0, 0, 0)
    assert ("before", "by", "Mode") in said(before, after)
    assert ("after", "against", "Mode") in said(before, after)


def test_what_is_open_and_the_order_of_parts_are_told() -> None:
    one = question("boardings", rows=(MODES,))
    opened = question(
        "boardings", rows=(MODES,), openings=(Opening(dimension="line", hierarchy="line", levels=("mode",)),)
    )
    assert ("after", "open", "other members are open") in said(one, opened)
    assert said(question("boardings", "taps"), question("taps", "boardings"))[0][1] == "layout"
    assert said(one, question("boardings", rows=(MODES,), row_total="none"))[0][1] == "layout"
    # Two filters whose first members are the same, and which count the others, are not the same.
    few = [("bus",), ("tram",), ("ferry",), (None,), ("a",), ("b",), ("c",)]
    many = [
        MemberFilter(dimension="line", hierarchy="line", members=tuple(each)) for each in (few, [*few[:6], ("other",)])
    ]
    kept, others = (question("boardings", rows=(MODES,), filters=(each,)) for each in many)
    assert [side for side, *_ in said(kept, others)] == ["before", "after"]
    assert said(one, one) == []


def test_very_large_answers_are_not_compared(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(compare, "MOST_CELLS", 3)
    result = ask(question("boardings", rows=(MODES,)))
    assert compare_answers(result, result) is None
