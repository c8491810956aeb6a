"""Names that lead nowhere and places that no member can have are told before anything is done with them."""

from __future__ import annotations

from typing import Any

import pytest

from dastan.core.analysis.document import Limit, NumberDress, Order, PlacedMeasure, PlacedMember, Under
from dastan.core.analysis.gestures import (
    AskOnOpening,
    BreakDown,
    DressNumbers,
    FilterMembers,
    GoInto,
    OpenMember,
    PutFilter,
    PutMeasure,
    SetAggregate,
    SetLimit,
    SetOrder,
    ShowLevel,
    StopBreakingDown,
    TakeFilter,
    apply_gesture,
)
from dastan.core.analysis.names import check_names
from dastan.core.analysis.offer import Thing
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import (
    AttributeFilter,
    FilterGroup,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
)
from dastan.core.model.pattern import is_number_pattern
from tests.core.asked import STAR, by, question
from tests.core.named import HierarchyNamed

BY_LINE = question("boardings", rows=(by("line", "mode"),))
LINE: HierarchyNamed = {"dimension": "line", "hierarchy": "line"}
UNDER = Under(members=(PlacedMember(dimension="lime", hierarchy="line", path=("tram",)),))
GROUP = FilterGroup(
    join="any",
    parts=(FilterGroup(join="all", parts=(MemberFilter(dimension="line", hierarchy="lime", members=(("tram",),)),)),),
)


@pytest.mark.parametrize(
    "gesture",
    [
        PutMeasure(measure="bordings"),
        OpenMember(dimension="lime", hierarchy="line", path=("tram",)),
        OpenMember(dimension="line", hierarchy="lime", path=("tram",)),
        FilterMembers(dimension="line", hierarchy="lime", action="keep", members=(("tram",),)),
        ShowLevel(**LINE, level="moed"),
        ShowLevel(**LINE, level="mode", instead_of="lime"),
        BreakDown(dimension="fare", hierarchy="fare", axis="rows", under=UNDER),
        StopBreakingDown(**LINE, under=UNDER),
        PutFilter(condition=GROUP),
        PutFilter(condition=AttributeFilter(dimension="line", attribute="colur", operator="equal", values=("red",))),
        PutFilter(
            condition=MeasureFilter(
                measure="bordings", at=(LevelName(**LINE, level="mode"),), operator="more", values=(1,)
            )
        ),
        SetLimit(**LINE, level="mode", limit=Limit(level="mode", amount=1, by=PlacedMeasure(measure="bordings"))),
        SetOrder(**LINE, order=Order(by="measure", measure=PlacedMeasure(measure="bordings"))),
        DressNumbers(numbers=NumberDress(measure=PlacedMeasure(measure="bordings"))),
    ],
)
def test_a_name_that_is_not_there_is_told_with_the_nearest(gesture: Any) -> None:
    with pytest.raises(NotFoundError) as caught:
        apply_gesture(BY_LINE, gesture, STAR.model)
    assert caught.value.code == "missing-name"
    assert "Did you mean" in caught.value.hint or "There is" in caught.value.hint


@pytest.mark.parametrize(
    "gesture",
    [
        OpenMember(**LINE, path=("tram", 1, "L1", "x")),
        GoInto(**LINE, path=("tram", 1, "L1")),
        FilterMembers(**LINE, action="keep", members=((),)),
        TakeFilter(at=-1),
        TakeFilter(at=0),
        AskOnOpening(at=-1, caption="Which?"),
        PutFilter(condition=MemberFilter(**LINE, members=(("tram",),)), at=-1),
        SetLimit(**LINE, level="mode", limit=Limit(level="line", amount=1, by=PlacedMeasure(measure="boardings"))),
        SetAggregate(placed=PlacedMeasure(measure="boardings"), aggregate="percentile", percentile=150.0),
        PutMeasure(measure="boardings", aggregate="percentile", percentile=-1.0),
        PutFilter(condition=PeriodFilter(dimension="line", unit="year", first=0, last=0)),
        PutFilter(condition=PeriodFilter(dimension="calendar", unit="day", first=0, last=10**30)),
        PutFilter(condition=PeriodFilter(dimension="calendar", unit="day", first=-(10**30), last=0)),
    ],
)
def test_a_place_or_amount_that_cannot_be_is_told(gesture: Any) -> None:
    with pytest.raises(InputError) as caught:
        apply_gesture(BY_LINE, gesture, STAR.model)
    assert caught.value.hint


def test_a_document_that_names_what_is_gone_is_told_before_its_gesture() -> None:
    with pytest.raises(NotFoundError, match="“fars” is not in"):
        apply_gesture(question("boardings", rows=(by("fars", "family"),)), PutMeasure(measure="revenue"), STAR.model)


def test_what_a_menu_is_about_is_looked_up_too() -> None:
    with pytest.raises(NotFoundError):
        check_names(
            Thing(kind="cell", row=(PlacedMember(dimension="line", hierarchy="no", path=("tram",)),)), STAR.model
        )
    check_names(Thing(kind="cell", row=(PlacedMember(dimension="line", hierarchy="line", path=("tram",)),)), STAR.model)


@pytest.mark.parametrize("text", ["#," + "," * 24_000, "#" * 24_000, "x" * 24_000 + "0", "0" * 61])
def test_no_pattern_is_so_long_that_reading_it_takes_a_while(text: str) -> None:
    assert not is_number_pattern(text)


@pytest.mark.parametrize("text", ["#,##0", "#,##0.00", "0.0 %", "0", "#", "¤ #,##0.00;(¤ #,##0.00)", "#,##0.0# km"])
def test_patterns_are_read_as_before(text: str) -> None:
    assert is_number_pattern(text)
