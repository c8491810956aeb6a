"""Lists of members for the picker, with the joint ones of an analysis."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Joint
from dastan.core.analysis.made_members import with_made_members
from dastan.core.model.members import HierarchyMembers
from dastan.server.member_list import children_of, members_below, search_members
from tests.core.asked import STAR, question


def members() -> HierarchyMembers:
    """Chosen joins lines of different modes, and stands among lines; Gap is a difference of two modes."""
    chosen = Joint(
        name="chosen", caption="Chosen", dimension="line", hierarchy="line",
        members=(("tram", 1, "L1"), ("bus", 1, "L3")),
    )  # fmt: skip
    gap = Joint(
        name="gap", caption="Gap", dimension="line", hierarchy="line", members=(("bus",), ("tram",)), how="difference"
    )
    return with_made_members(STAR.members, replace(question("boardings"), joints=(chosen, gap)))("line", "line")


def test_a_joint_member_is_listed_once_where_it_stands_and_what_is_asked_for_a_difference_never() -> None:
    listed = children_of(members(), (), 0, lambda _: None).members
    assert [(each.caption, each.above, len(each.path)) for each in listed] == [
        ("bus", (), 1), ("tram", (), 1), ("Chosen", (), 3), ("Gap", (), 1), ("without a line", (), 1),
    ]  # fmt: skip
    assert [each.path for each in search_members(members(), "chosen", lambda _: None).members] == [
        ("joint:chosen",) * 3
    ]
    assert search_members(members(), "gap", lambda _: None).count == 1
    assert [each.caption for each in members_below(members(), (), "mode").members].count("Gap") == 1
