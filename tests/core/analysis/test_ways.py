"""Ways down: hierarchies made on the spot, of dimensions nested in the table."""

from __future__ import annotations

import pytest

from dastan.core.analysis.document import Analysis, Under, WayDown, WayStep
from dastan.core.analysis.gestures import (
    BreakDown,
    DropMissing,
    ForgetWayDown,
    Gesture,
    MakeWayDown,
    PutWayDown,
    StopBreakingDown,
    SwapAxes,
    TakeDimension,
    apply_gesture,
)
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.errors import InputError, NotFoundError
from dastan.core.reading.window import MemberHeader, window_of
from tests.core.asked import STAR, ask, by, question, table
from tests.core.named import HierarchyNamed

NESTED = question("boardings", rows=(by("line", "mode"), by("fare", "family")))


def after(document: Analysis, *gestures: Gesture) -> Analysis:
    for each in gestures:
        document = apply_gesture(document, each, STAR.model)
    return document


def row(document: Analysis, caption: str) -> MemberHeader:
    found = next(each for each in window_of(ask(document), 0, 99, 0, 9).rows if each.caption == caption)
    assert found.member is not None
    return found.member


def opened(document: Analysis, caption: str) -> Analysis:
    """As a click on the header does it."""
    into = row(document, caption).opens_into
    assert into is not None
    under: HierarchyNamed = {"dimension": into.dimension, "hierarchy": into.hierarchy}
    return after(document, BreakDown(**under, axis="rows", under=Under(members=into.members)))


def test_nested_dimensions_become_one_way_that_opens_member_by_member() -> None:
    whole = [each[0] for each in table(ask(NESTED))]
    made = after(NESTED, MakeWayDown(axis="rows"))
    assert made.ways_down[0].caption == "Mode › Family"
    closed = table(ask(made))
    assert [each[0] for each in closed] == [each for each in whole if not each.startswith(" ")]
    first = closed[0][0]
    member = row(made, first)
    assert (member.can_open, member.is_open) == (True, False)
    inside = opened(made, first)
    assert row(inside, first).is_open
    shown = [each[0] for each in table(ask(inside))]
    assert shown == whole[: whole.index(closed[1][0])] + [each[0] for each in closed[1:]]
    # A member of the last step opens into nothing further of the way.
    assert row(inside, shown[1].strip()).opens_into is None


def test_the_way_stays_when_its_last_member_closes_and_when_the_table_turns() -> None:
    made = after(NESTED, MakeWayDown(axis="rows", caption="Who pays how"))
    first = table(ask(made))[0][0]
    inside = opened(made, first)
    (under,) = inside.question.rows[1].only_under or ()
    closed = after(inside, StopBreakingDown(dimension="fare", hierarchy="fare", under=under))
    assert closed == made
    turned = after(inside, SwapAxes())
    assert turned.question.columns == inside.question.rows
    assert [each.caption for each in turned.ways_down] == ["Who pays how"]


def test_a_way_is_put_again_closed_and_forgotten() -> None:
    made = after(NESTED, MakeWayDown(axis="rows", caption="Who pays how"))
    taken = after(
        made,
        TakeDimension(dimension="fare", hierarchy="fare"),
        TakeDimension(dimension="line", hierarchy="line"),
    )
    assert not taken.question.rows
    again = after(taken, PutWayDown(caption="Who pays how", axis="columns"))
    assert [(each.hierarchy, each.only_under) for each in again.question.columns] == [("line", None), ("fare", ())]
    offers = offers_for(taken, Thing(kind="way", way="Who pays how"), STAR.model, STAR.members)
    assert [each.words for each in offers] == ["by Who pays how", "against Who pays how", "Forget Who pays how"]
    gone = after(again, ForgetWayDown(caption="Who pays how"))
    assert gone.ways_down == ()
    assert gone.question == again.question
    with pytest.raises(NotFoundError, match="no way down called"):
        after(gone, PutWayDown(caption="Who pays how", axis="rows"))


def test_what_cannot_be_a_way_is_refused() -> None:
    with pytest.raises(InputError, match="two hierarchies or more"):
        after(question("boardings", rows=(by("line", "mode"),)), MakeWayDown(axis="rows"))
    made = after(NESTED, MakeWayDown(axis="rows"))
    with pytest.raises(InputError, match="already"):
        after(made, MakeWayDown(axis="rows"))


def test_a_way_through_what_the_model_no_longer_has_is_dropped_alone() -> None:
    broken = WayDown(
        caption="Gone",
        steps=(
            WayStep(dimension="line", hierarchy="line", level="mode"),
            WayStep(dimension="livery", hierarchy="livery", level="livery"),
        ),
    )
    made = after(NESTED, MakeWayDown(axis="rows"))
    found = Analysis(model="star", question=made.question, ways_down=(*made.ways_down, broken))
    with pytest.raises(NotFoundError, match="livery"):
        ask(found)
    assert after(found, DropMissing()) == made
