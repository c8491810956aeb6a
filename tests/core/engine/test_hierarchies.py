"""Hierarchies of every shape: parents and children, lists, levels passed over, members without records."""

from __future__ import annotations

import pytest

from dastan.core.analysis.document import Opening
from dastan.core.errors import ModelError
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.parent_child import paths_from_top, unknown_parents
from tests.core.asked import ask, by, heads, limited, question, table
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS

TREE = Opening(dimension="account", hierarchy="tree", levels=("tree_1", "tree_2", "tree_3"))
ACCOUNTS: list[dict[str, object]] = [
    {"account": account, "parent": parent}
    for account, parent in [("A0", None), ("A1", "A0"), ("A2", "A1"), ("A3", "A2"), ("B", "A0"), ("C", "gone")]
]


def on_accounts(*accounts: str | None) -> object:
    """The four taps, of 2, 1, 4 and 1 boardings, on these accounts."""
    taps = [each | {"account_id": account} for each, account in zip(ROWS["taps"], accounts, strict=True)]
    return source_of(ROWS | {"accounts": ACCOUNTS, "taps": taps})


def test_a_parents_own_records_stand_beside_its_childrens() -> None:
    source = on_accounts("A1", "A3", "B", None)
    result = ask(question("boardings", rows=(by("tree", "tree_1", "account"),), openings=(TREE,)), source)  # type: ignore[arg-type]
    assert table(result) == [
        ("A0", "7"), (" A1", "3"), ("  A2", "1"), ("   A3", "1"), ("  A1 itself", "2"), (" B", "4"),
        ("without an account", "1"), ("All of Account", "8"),
    ]  # fmt: skip


def test_a_parent_that_no_row_has_makes_its_row_a_top_one() -> None:
    source = on_accounts("C", "C", "C", "C")
    result = ask(question("boardings", rows=(by("tree", "tree_1", "account"),)), source)  # type: ignore[arg-type]
    assert table(result) == [("C", "8"), ("All of Account", "8")]
    assert unknown_parents(["A", "C"], [None, "gone"]) == ["gone"]


def test_a_branch_is_filtered_with_everything_below_it() -> None:
    source = on_accounts("A1", "A3", "B", None)
    branch = MemberFilter(dimension="account", hierarchy="tree", members=(("A0", "A1"),))
    assert ask(question("boardings", filters=(branch,)), source).values[0].at(0) == 3  # type: ignore[arg-type]
    own = MemberFilter(dimension="account", hierarchy="tree", members=(("A0", "A1", None),))
    assert ask(question("boardings", filters=(own,)), source).values[0].at(0) == 2  # type: ignore[arg-type]


def test_parents_that_go_round_are_named() -> None:
    with pytest.raises(ModelError, match="“a” is below “b” is below “a”"):
        paths_from_top(["a", "b"], ["b", "a"], "Account")


def test_a_record_counts_in_every_set_that_holds_it_and_once_in_the_total() -> None:
    # Rails hold L1 and L2; first teams L1 and L3; the east every line at depot 1, that is L1 and L2.
    result = ask(question("boardings", rows=(by("picks", "picks", "line"),)))
    assert table(result) == [
        ("Rails", "3"), ("First teams", "6"), ("East", "3"), ("in no picks", "1"), ("All of Line", "8"),
    ]  # fmt: skip


def test_sets_are_broken_down_and_filtered_like_members() -> None:
    first = MemberFilter(dimension="line", hierarchy="picks", members=(("first",),))
    assert ask(question("boardings", filters=(first,))).values[0].at(0) == 6
    result = ask(question("cards", rows=(by("picks", "picks", "line"), by("line", "line")), filters=(first,)))
    assert table(result)[:4] == [("Rails", "1"), (" L1", "1"), ("First teams", "2"), (" L3", "1")]
    assert table(result)[-1] == ("All of Line", "2")


def test_an_attribute_in_no_hierarchy_is_a_level_of_its_own() -> None:
    result = ask(question("boardings", columns=(by("colour", "colour", "line"),)))
    assert heads(result) == ["Blue", "red", "without a line", "All of Line"]


def test_a_level_can_be_passed_over() -> None:
    opened = Opening(dimension="line", hierarchy="line", levels=("mode",))
    result = ask(question("boardings", rows=(by("line", "mode", skipped=("team",)),), openings=(opened,)))
    assert table(result) == [
        ("bus", "4"), (" L3", "4"), ("tram", "3"), (" L1", "2"), (" L2", "1"), ("without a line", "1"),
        ("All of Line", "8"),
    ]  # fmt: skip


def test_a_blank_between_levels_is_passed_over_where_the_model_says_so() -> None:
    lines = [each | {"team": None} if each["line"] == "L1" else each for each in ROWS["lines"]]
    source = source_of(ROWS | {"lines": lines})

    def rows(hierarchy: str) -> list[str]:
        opened = Opening(dimension="line", hierarchy=hierarchy, open=(("tram",),))
        found = table(ask(question("boardings", rows=(by(hierarchy, "mode", "line"),), openings=(opened,)), source))
        return [caption for caption, _ in found if caption.startswith(" ")]

    assert rows("line") == [" 2", " without a team"]
    assert rows("tour") == [" 2", " L1"]


def test_members_without_records_are_shown_on_purpose_as_the_filters_on_their_own_dimension_leave_them() -> None:
    lines = [*ROWS["lines"], ROWS["lines"][0] | {"line": "L9"}, ROWS["lines"][2] | {"line": "L8"}]
    source = source_of(ROWS | {"lines": lines})
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    every = by("line", "line", all_members=True)
    assert table(ask(question("boardings", rows=(every,), filters=(trams,)), source)) == [
        ("L1", "2"), ("L9", ""), ("L2", "1"), ("All of Line", "3"),
    ]  # fmt: skip


def test_members_without_records_stand_under_every_outer_member() -> None:
    rows = (by("line", "mode"), by("fare", "family", all_members=True))
    found = table(ask(question("boardings", rows=rows)))
    assert found[:5] == [("bus", "4"), (" a", ""), (" b", "4"), ("tram", "3"), (" a", "3")]


def test_a_blank_stands_over_the_members_without_records_that_it_holds() -> None:
    """Found by the oracle: they stood there without it."""
    lines = [*ROWS["lines"], ROWS["lines"][0] | {"line": "L9", "team": None}]
    opened = Opening(dimension="line", hierarchy="line", levels=("mode", "team"))
    rows = (by("line", "mode", all_members=True),)
    found = table(ask(question("boardings", rows=rows, openings=(opened,)), source_of(ROWS | {"lines": lines})))
    assert (" without a team", "") in found
    assert ("  L9", "") in found


def test_a_blank_does_not_stand_over_members_that_a_limit_hides() -> None:
    """Found by the oracle."""
    lines = [*ROWS["lines"], ROWS["lines"][0] | {"line": "L9", "team": None}]
    opened = Opening(dimension="line", hierarchy="line", levels=("mode", "team"))
    rows = (limited(by("line", "mode", all_members=True), level="line", amount=1),)
    found = table(ask(question("boardings", rows=rows, openings=(opened,)), source_of(ROWS | {"lines": lines})))
    assert " without a team" not in [caption for caption, _ in found]
