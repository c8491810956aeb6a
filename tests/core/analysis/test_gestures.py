"""Gestures are pure: each makes the document that a person would expect, and loses nothing else."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, Opening, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.gestures import (
    CloseLevel,
    CloseMember,
    DropMissing,
    FilterMembers,
    OpenLevel,
    OpenMember,
    PutDimension,
    PutMeasure,
    SwapAxes,
    TakeDimension,
    TakeMeasure,
    apply_gesture,
)
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import MemberFilter
from tests.core.engine.test_oracle import analyses
from tests.core.named import HierarchyNamed
from tests.core.star import after, star

SOURCE = star()
LINE: HierarchyNamed = {"dimension": "line", "hierarchy": "line"}
FARE: HierarchyNamed = {"dimension": "fare", "hierarchy": "fare"}


def names(document: Analysis) -> tuple[list[str], list[str], list[str]]:
    question = document.question
    return (
        [each.measure for each in question.measures],
        [each.hierarchy for each in question.rows],
        [each.hierarchy for each in question.columns],
    )


def test_measures_are_put_before_the_one_at_the_place_and_moved_not_doubled() -> None:
    document = after(
        SOURCE, PutMeasure(measure="boardings"), PutMeasure(measure="taps"), PutMeasure(measure="revenue", at=1)
    )
    assert names(document)[0] == ["boardings", "revenue", "taps"]
    assert names(apply_gesture(document, PutMeasure(measure="boardings", at=3), SOURCE.model))[0] == [
        "revenue",
        "taps",
        "boardings",
    ]
    assert names(apply_gesture(document, TakeMeasure(measure="revenue"), SOURCE.model))[0] == ["boardings", "taps"]


def test_a_dimension_is_nested_at_the_place_and_moved_across_axes() -> None:
    document = after(
        SOURCE,
        PutDimension(**LINE, axis="rows"),
        PutDimension(**FARE, axis="rows", at=0),
        PutDimension(dimension="band", hierarchy="band", axis="columns"),
    )
    assert names(document)[1:] == (["fare", "line"], ["band"])
    moved = apply_gesture(document, PutDimension(**LINE, axis="columns", at=0), SOURCE.model)
    assert names(moved)[1:] == (["fare"], ["line", "band"])
    assert names(apply_gesture(moved, TakeDimension(**FARE), SOURCE.model))[1:] == ([], ["line", "band"])


def test_moving_a_dimension_keeps_the_level_it_starts_from() -> None:
    document = after(SOURCE, PutDimension(**LINE, level="team", axis="rows"), PutDimension(**LINE, axis="columns"))
    assert document.question.columns == (PlacedDimension(**LINE, level="team"),)


def test_open_members_wait_while_their_dimension_is_away() -> None:
    opened = after(SOURCE, PutDimension(**LINE, axis="rows"), OpenMember(**LINE, path=("tram",)))
    back = after(
        SOURCE,
        PutDimension(**LINE, axis="rows"),
        OpenMember(**LINE, path=("tram",)),
        TakeDimension(**LINE),
        PutDimension(**LINE, axis="rows"),
    )
    assert back == opened


def test_closing_a_member_of_an_open_level_closes_only_that_one() -> None:
    document = after(SOURCE, OpenLevel(**LINE, level="mode"), CloseMember(**LINE, path=("bus",)))
    assert document.openings == (Opening(**LINE, levels=("mode",), closed=(("bus",),)),)
    again = apply_gesture(document, OpenMember(**LINE, path=("bus",)), SOURCE.model)
    assert again.openings == (Opening(**LINE, levels=("mode",)),)


def test_opening_a_level_opens_those_above_it_and_closing_it_leaves_them_open() -> None:
    document = after(SOURCE, OpenLevel(**LINE, level="team"))
    assert document.openings[0].levels == ("mode", "team")
    assert apply_gesture(document, CloseLevel(**LINE, level="team"), SOURCE.model).openings[0].levels == ("mode",)


def test_keeping_and_leaving_out_stand_side_by_side_unless_one_is_to_be_alone() -> None:
    document = after(
        SOURCE,
        FilterMembers(**LINE, action="keep", members=(("tram",),)),
        FilterMembers(**LINE, action="leave_out", members=(("tram", 2), ("tram", 2))),
    )
    keep = MemberFilter(**LINE, action="keep", members=(("tram",),))
    assert document.question.filters == (keep, MemberFilter(**LINE, action="leave_out", members=(("tram", 2),)))
    alone = FilterMembers(**LINE, action="leave_out", members=(("bus",),), is_alone=True)
    assert [each.action for each in apply_gesture(document, alone, SOURCE.model).question.filters] == ["leave_out"]
    lifted = apply_gesture(document, FilterMembers(**LINE, action="leave_out", members=()), SOURCE.model)
    assert lifted.question.filters == (keep,)


@given(document=analyses())
def test_turning_twice_is_nothing_and_turning_once_keeps_all_but_the_axes(document: Analysis) -> None:
    turned = apply_gesture(document, SwapAxes(), SOURCE.model)
    assert apply_gesture(turned, SwapAxes(), SOURCE.model) == document
    assert (turned.question.filters, turned.openings) == (document.question.filters, document.openings)
    assert (turned.question.rows, turned.question.columns) == (document.question.columns, document.question.rows)


@pytest.mark.parametrize(
    ("gesture", "words"),
    [
        (PutMeasure(measure="bordings"), "Did you mean “boardings”"),
        (PutDimension(dimension="lyne", hierarchy="line", axis="rows"), "Dimension “lyne” is not in model “Star”."),
        (PutDimension(**LINE, level="modes", axis="rows"), "Level “modes” is not in hierarchy “line”"),
        (OpenMember(**LINE, path=("tram", 1, "L1")), "There is nothing below this member."),
        (OpenLevel(**LINE, level="line"), "There is nothing below this level."),
        (FilterMembers(**LINE, action="keep", members=((),)), "A member's path has one key per level"),
    ],
)
def test_what_cannot_be_done_is_said_and_changes_nothing(gesture: object, words: str) -> None:
    with pytest.raises((NotFoundError, InputError)) as caught:
        apply_gesture(Analysis(model="star"), gesture, SOURCE.model)  # type: ignore[arg-type]
    assert words in str(caught.value)


def test_what_the_model_no_longer_has_can_be_dropped_and_the_rest_stays() -> None:
    stale = Analysis(
        model="star",
        question=Question(
            measures=(PlacedMeasure(measure="gone"), PlacedMeasure(measure="taps")),
            rows=(PlacedDimension(**LINE, level="mode"), PlacedDimension(dimension="gone", hierarchy="x", level="y")),
            filters=(MemberFilter(**FARE, action="keep", members=(("a",),)),),
        ),
        openings=(Opening(**LINE, levels=("mode",)),),
    )
    with pytest.raises(NotFoundError, match="Measure “gone”"):
        apply_gesture(stale, SwapAxes(), SOURCE.model)
    mended = apply_gesture(stale, DropMissing(), SOURCE.model)
    assert names(mended) == (["taps"], ["line"], [])
    assert (mended.question.filters, mended.openings) == (stale.question.filters, stale.openings)


def test_a_dimension_that_reaches_no_measure_is_not_put_in_but_stays_when_the_measures_change() -> None:
    band = PutDimension(dimension="band", hierarchy="band", axis="rows")
    with pytest.raises(InputError, match="Dimension “Band” does not reach the records of “Repairs”"):
        after(SOURCE, PutMeasure(measure="repairs"), band)
    document = after(
        SOURCE, PutMeasure(measure="taps"), band, PutMeasure(measure="repairs"), TakeMeasure(measure="taps")
    )
    assert names(document) == (["repairs"], ["band"], [])


def test_default_members_come_in_with_the_records_they_reach_and_go_with_them() -> None:
    model = replace(
        SOURCE.model,
        dimensions=tuple(
            replace(each, default=(("a",),)) if each.name == "fare" else each for each in SOURCE.model.dimensions
        ),
    )
    fare = MemberFilter(**FARE, action="keep", members=(("a",),))
    document = apply_gesture(Analysis(model="star"), PutMeasure(measure="repairs"), model)
    assert document.question.filters == ()
    document = apply_gesture(document, PutMeasure(measure="taps"), model)
    assert document.question.filters == (fare,)
    lifted = apply_gesture(document, FilterMembers(**FARE, action="keep", members=()), model)
    assert apply_gesture(lifted, PutMeasure(measure="revenue"), model).question.filters == ()
    assert apply_gesture(document, TakeMeasure(measure="taps"), model).question.filters == ()


@given(st.integers(0, 5))
def test_a_place_beyond_the_end_is_the_end(at: int) -> None:
    document = after(SOURCE, PutMeasure(measure="taps"), PutMeasure(measure="revenue", at=1 + at))
    assert names(document)[0] == ["taps", "revenue"]
