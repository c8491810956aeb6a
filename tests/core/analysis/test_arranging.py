"""Limits, orders, totals and conditions as gestures: with their words, and nothing else lost."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings

from dastan.core.analysis.document import Analysis, HeaderPath, Limit, Order, PlacedMeasure, PlacedMember
from dastan.core.analysis.gestures import (
    DropMissing,
    Gesture,
    OpenLevel,
    OpenMember,
    PutDimension,
    PutFilter,
    PutMeasure,
    SetAggregate,
    SetGrandTotal,
    SetLimit,
    SetOrder,
    SetTotals,
    SetTotalsOver,
    ShowAllMembers,
    SkipLevel,
    SwapAxes,
    TakeFilter,
    TakeMeasure,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import InputError
from dastan.core.model.conditions import (
    AttributeFilter,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    ReadyFilter,
)
from tests.core.asked import STAR, by, question
from tests.core.engine.test_oracle import analyses
from tests.core.named import HierarchyNamed
from tests.core.star import after, star

SOURCE = star()
LINE: HierarchyNamed = {"dimension": "line", "hierarchy": "line"}
BOARDINGS = PlacedMeasure(measure="boardings")
TABLE: tuple[Gesture, ...] = (
    PutMeasure(measure="boardings"), PutDimension(**LINE, axis="rows"),
    PutDimension(dimension="fare", hierarchy="fare", axis="columns"),
)  # fmt: skip
LINES = LevelName(**LINE, level="line")


def limit(**parts: Any) -> SetLimit:
    own: dict[str, Any] = {"level": "mode", "amount": 2, "by": BOARDINGS} | parts
    return SetLimit(**LINE, level=own["level"], limit=Limit(**own))


def period(**parts: Any) -> PutFilter:
    return PutFilter(condition=PeriodFilter(dimension="calendar", **parts))


def attribute(*values: Any, **parts: Any) -> PutFilter:
    return PutFilter(condition=AttributeFilter(dimension="line", attribute="team", values=values, **parts))


@pytest.mark.parametrize(
    ("gesture", "said", "step"),
    [
        (limit(), ", the 2 largest modes by Boardings, totals over everything in scope", "showed the 2 largest modes by Boardings"),
        (limit(others=True, side="smallest"), ", the 2 smallest modes by Boardings, the rest as others", None),
        (limit(level="line", amount=1), ", the largest of the lines in each team by Boardings, totals over everything in scope", None),
        (limit(level="line", per="whole", count="percent_of_members", amount=10, others=True), ", the largest 10 % of lines of all by Boardings, the rest as others", None),
        (limit(count="percent_of_measure", amount=80, others=True), ", the largest modes that make 80 % of Boardings, the rest as others", None),
        (SetOrder(**LINE, order=Order(by="measure", measure=BOARDINGS, descending=True)), ", Mode ordered by Boardings, largest first", "ordered Mode by Boardings, largest first"),
        (SetOrder(**LINE, order=Order(by="measure", measure=BOARDINGS, column=HeaderPath(members=(("a",),)))), ", Mode ordered by Boardings in a, smallest first", None),
        (SetOrder(**LINE, order=Order(by="caption", across=True)), ", Mode ordered by name across all", "ordered Mode by name"),
        (ShowAllMembers(**LINE, is_shown=True), None, "showed members of Mode without records"),
        (SkipLevel(**LINE, level="team", is_skipped=True), "", "passed over teams"),
        (SetTotals(**LINE, totals="none"), "", "no subtotals of Mode"),
        (SetGrandTotal(axis="columns", totals="before"), "", "grand total column first"),
        (SetTotalsOver(over="shown"), "", "totals over what is shown"),
        (SetAggregate(placed=BOARDINGS, aggregate="median"), None, "showed Median of boardings"),
        (attribute(2, operator="more"), " for team more than 2 (line)", "kept team more than 2"),
        (attribute(1, 2, operator="between", action="leave_out"), ", without team from 1 to 2 (line)", "left out team from 1 to 2"),
        (attribute("a", "b", operator="contains"), " for team containing “a” or “b” (line)", None),
        (period(unit="year", first=0, last=0, to_date=True), " for this year so far (calendar", None),
        (period(unit="quarter", first=-4, last=-1, anchor="newest"), " for the last 4 quarters, counted from the newest data (calendar", None),
        (period(unit="day", first=-500, last=0), " for the 500 days up to now (calendar", None),
        (period(unit="financial_year", first=-1, last=-1, to_date=True), " for the same part of last financial year (calendar", None),
        (PutFilter(condition=KeyFilter(dimension="line", state="left_blank")), " for line left blank (records)", None),
        (PutFilter(condition=MeasureFilter(measure="boardings", at=(LINES,), operator="more", values=(10_000,), per=LevelName(dimension="calendar", hierarchy="calendar", level="month"))),
         " for lines with more than 10,000 Boardings a month on average", None),
        (PutFilter(condition=ReadyFilter(name="busy")), " for busy (teams with more than 2.37 Taps)", "kept busy"),
        (PutFilter(condition=MemberFilter(**LINE, members=(("tram",),), level="line")), " for every line below tram (line)", None),
        (PutFilter(condition=FilterGroup(join="any", parts=(MemberFilter(**LINE, members=(("tram",),)), KeyFilter(dimension="fare", state="key_unknown", action="leave_out")))),
         " for either tram or not fare not known", "kept either tram or not fare not known"),
    ],
)  # fmt: skip
def test_a_gesture_has_its_phrase_and_its_step(gesture: Gesture, said: str | None, step: str | None) -> None:
    before = after(SOURCE, *TABLE)
    sentence = sentence_of(apply_gesture(before, gesture, SOURCE.model), SOURCE.model, SOURCE.members).text
    if said is not None:
        assert sentence.startswith(f"Boardings by Mode against Family{said}")
    if step is not None:
        assert step_words(before, gesture, SOURCE.model, SOURCE.members) == step


def test_a_limit_and_an_order_are_changed_in_their_place_and_lifted() -> None:
    document = after(SOURCE, *TABLE, limit(), limit(amount=5))
    assert [each.amount for each in document.question.rows[0].limits] == [5]
    lifted = apply_gesture(document, SetLimit(**LINE, level="mode"), SOURCE.model)
    assert lifted.question.rows[0].limits == ()


def test_a_limit_inside_another_dimension_says_under_what_it_stands() -> None:
    """Seen in the application: groups were open, and the sentence said "in each mode"."""
    fares = PutDimension(dimension="fare", hierarchy="fare", axis="rows")
    own = Limit(level="family", amount=2, by=BOARDINGS, others=True)
    inside = SetLimit(dimension="fare", hierarchy="fare", level="family", limit=own)
    document = after(SOURCE, *TABLE, fares, inside)

    def said(document: Analysis) -> str:
        return sentence_of(document, SOURCE.model, SOURCE.members).text

    assert "the 2 largest families in each mode by Boardings" in said(document)
    one = apply_gesture(document, OpenMember(**LINE, path=("tram",)), SOURCE.model)
    assert "in each mode or team by Boardings" in said(one)
    every = apply_gesture(document, OpenLevel(**LINE, level="mode"), SOURCE.model)
    assert "in each team by Boardings" in said(every)


def test_a_limit_on_a_level_that_is_no_longer_shown_waits() -> None:
    document = after(SOURCE, *TABLE, limit(), PutDimension(**LINE, level="team", axis="rows"))
    assert document.question.rows[0].limits
    assert "largest" not in sentence_of(document, SOURCE.model, SOURCE.members).text
    back = apply_gesture(document, PutDimension(**LINE, level="mode", axis="rows"), SOURCE.model)
    assert "the 2 largest modes" in sentence_of(back, SOURCE.model, SOURCE.members).text


@given(document=analyses())
def test_turning_twice_changes_nothing_and_moving_an_axis_keeps_what_was_set_on_it(document: Analysis) -> None:
    turned = apply_gesture(document, SwapAxes(), SOURCE.model)
    assert apply_gesture(turned, SwapAxes(), SOURCE.model) == document
    for placed in document.question.rows:
        move = PutDimension(dimension=placed.dimension, hierarchy=placed.hierarchy, axis="columns", at=0)
        assert apply_gesture(document, move, SOURCE.model).question.columns[0] == placed


@given(document=analyses())
def test_taking_a_measure_away_and_putting_it_back_keeps_order_and_limits(document: Analysis) -> None:
    own = document.question.measures[-1]
    gone = apply_gesture(document, TakeMeasure(measure=own.measure, aggregate=own.aggregate), SOURCE.model)
    back = apply_gesture(gone, PutMeasure(measure=own.measure, aggregate=own.aggregate), SOURCE.model)
    assert (back.question.rows, back.question.columns) == (document.question.rows, document.question.columns)
    assert back.question.measures == document.question.measures


def test_filters_are_put_changed_and_lifted_by_their_place() -> None:
    first, second = attribute(1, operator="equal"), attribute(2, operator="more")
    document = after(SOURCE, *TABLE, first, second)
    changed = apply_gesture(document, replace(attribute(3, operator="less"), at=0), SOURCE.model)
    assert [each.values for each in changed.question.filters] == [(3,), (2,)]  # type: ignore[union-attr]
    assert apply_gesture(changed, TakeFilter(at=0), SOURCE.model).question.filters == (second.condition,)
    for wrong in (TakeFilter(at=2), replace(first, at=9)):
        with pytest.raises(InputError, match="no such filter"):
            apply_gesture(document, wrong, SOURCE.model)


@pytest.mark.parametrize(
    ("gesture", "words"),
    [
        (limit(amount=0), "at least one member"), (SkipLevel(**LINE, level="line", is_skipped=True), "between the first"),
        (SetLimit(dimension="band", hierarchy="band", level="band"), "not in the table"),
        (SetOrder(**LINE, order=Order(by="measure")), "does not say which"),
        (SetAggregate(placed=PlacedMeasure(measure="taps"), aggregate="sum"), "not in the table"),
        (SetLimit(dimension="fare", hierarchy="fare", level="family", limit=Limit(level="family", amount=1, by=PlacedMeasure(measure="repairs"))), "cannot rank"),
    ],
)  # fmt: skip
def test_what_cannot_be_arranged_is_refused_with_what_to_do(gesture: Gesture, words: str) -> None:
    with pytest.raises(InputError, match=words) as error:
        apply_gesture(after(SOURCE, *TABLE), gesture, SOURCE.model)
    assert error.value.hint


def test_what_the_model_lost_goes_and_the_rest_of_the_arrangement_stays() -> None:
    document = after(SOURCE, *TABLE, limit(by=PlacedMeasure(measure="revenue")), SetTotals(**LINE, totals="after"))
    poorer = replace(SOURCE.model, measures=tuple(each for each in SOURCE.model.measures if each.name != "revenue"))
    left = apply_gesture(document, DropMissing(), poorer)
    assert left.question.rows[0].limits == ()
    assert left.question.rows[0].totals == "after"


@settings(max_examples=40)
@given(document=analyses())
def test_every_offer_for_anything_in_a_document_can_be_taken(document: Analysis) -> None:
    question = document.question
    things = [Thing(kind="measure", measure=each.measure, aggregate=each.aggregate) for each in question.measures]
    things += [Thing(kind="dimension", dimension=each.dimension, hierarchy=each.hierarchy) for each in question.rows]
    things += [Thing(kind="filter", at=at) for at in range(len(question.filters))]
    for thing in things:
        for offer in offers_for(document, thing, SOURCE.model, SOURCE.members):
            assert offer.words
            if offer.gesture is not None:
                changed = apply_gesture(document, offer.gesture, SOURCE.model)
                assert step_words(document, offer.gesture, SOURCE.model, SOURCE.members)
                assert sentence_of(changed, SOURCE.model, SOURCE.members).phrases


def test_a_filter_that_is_not_there_offers_nothing() -> None:
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    filtered = question("boardings", rows=(by("line", "mode"),), filters=(trams,))
    assert offers_for(filtered, Thing(kind="filter", at=0), STAR.model, STAR.members)
    for at in (-1, 1, 7):
        assert offers_for(filtered, Thing(kind="filter", at=at), STAR.model, STAR.members) == ()


def test_each_phrase_that_narrows_or_orders_has_a_short_menu_and_is_lifted_away() -> None:
    tram = MemberFilter(**LINE, members=(("tram",),))
    limit = Limit(level="line", count="members", amount=2, side="largest", by=BOARDINGS)
    order = Order(by="measure", measure=BOARDINGS, descending=True)
    document = after(
        SOURCE, *TABLE, PutFilter(condition=tram), OpenLevel(**LINE, level="mode"),
        SetLimit(**LINE, level="line", limit=limit), SetOrder(**LINE, order=order),
    )  # fmt: skip

    def menu(thing: Thing) -> list[str]:
        return [
            each.words for each in offers_for(document, thing, SOURCE.model, SOURCE.members) if not each.is_drop_only
        ]

    def dropped(thing: Thing, place: str) -> Analysis:
        found = offers_for(document, thing, SOURCE.model, SOURCE.members)
        (gesture,) = [each.gesture for each in found if each.place == place]
        assert gesture is not None
        return apply_gesture(document, gesture, SOURCE.model)

    filtered, limited = Thing(kind="filter", at=0), Thing(kind="limit", **LINE, level="line")
    ordered = Thing(kind="order", **LINE)
    assert menu(filtered) == [
        "Choose members…", "Leave these out instead", "Ask for it on opening…", "Lift this filter",
    ]  # fmt: skip
    assert dropped(filtered, "away").question.filters == ()
    assert menu(limited) == ["Change this limit…", "Totals over what is shown", "Show all lines again"]
    assert dropped(limited, "away").question.rows[0].limits == ()
    # A dimension that is dragged away is taken away, whatever narrows it.
    away = dropped(Thing(kind="dimension", **LINE), "away").question
    assert ([each.dimension for each in away.rows], away.filters) == ([], (tram,))
    assert menu(ordered) == ["Smallest first", "In natural order again"]
    assert dropped(ordered, "away").question.rows[0].order == Order()
    # On an axis its dimension stands, and what it keeps is kept.
    bare = replace(document, question=replace(document.question, rows=()))
    (down,) = [each for each in offers_for(bare, filtered, SOURCE.model, SOURCE.members) if each.place == "rows"]
    assert (down.words, down.is_drop_only) == ("by Mode", True)
    assert down.gesture is not None
    put = apply_gesture(bare, down.gesture, SOURCE.model).question
    assert ([each.dimension for each in put.rows], put.filters) == (["line"], (tram,))


def test_hierarchies_that_begin_alike_are_told_apart_by_their_own_names() -> None:
    # A tour begins with the mode, as lines do.
    document = question("boardings", rows=(by("band", "band"),))
    row = (PlacedMember(dimension="band", hierarchy="band", path=("x",)),)
    thing = Thing(kind="member", dimension="band", hierarchy="band", path=("x",), row=row)
    found = [each for each in offers_for(document, thing, STAR.model, STAR.members) if each.under]
    words = [(each.under, each.words) for each in found]
    # Both hierarchies of accounts have that name in the model.
    assert {each for _, each in words if [word for _, word in words].count(each) > 2} == {"Account"}
    assert {"Mode", "Tour"} <= {word for _, word in words}
    tour = PutDimension(dimension="line", hierarchy="tour", axis="rows")
    assert step_words(document, tour, STAR.model, STAR.members) == "by Tour"
