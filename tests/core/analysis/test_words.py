"""The sentence, the steps and the offers say in words just what the document holds."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given

from dastan.core.analysis.captions import listed
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import (
    CloseLevel,
    FilterMembers,
    Gesture,
    OpenLevel,
    OpenMember,
    PutDimension,
    PutMeasure,
    SetGrandTotal,
    SwapAxes,
    TakeDimension,
    TakeMeasure,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from tests.core.engine.test_oracle import analyses
from tests.core.named import HierarchyNamed
from tests.core.star import after, star

SOURCE = star()
LINE: HierarchyNamed = {"dimension": "line", "hierarchy": "line"}
FARE: HierarchyNamed = {"dimension": "fare", "hierarchy": "fare"}
TABLE = (PutMeasure(measure="boardings"), PutDimension(**LINE, axis="rows"), PutDimension(**FARE, axis="columns"))


def said(*gestures: Gesture) -> str:
    return sentence_of(after(SOURCE, *gestures), SOURCE.model, SOURCE.members).text


@pytest.mark.parametrize(
    ("gestures", "sentence"),
    [
        ((PutMeasure(measure="boardings"),), "Boardings"),
        (TABLE, "Boardings by Mode against Family"),
        ((*TABLE, PutMeasure(measure="taps"), PutMeasure(measure="cards")),
         "Boardings, Taps and Cards by Mode against Family"),
        ((*TABLE, OpenMember(**LINE, path=("tram",))), "Boardings by Mode › Team against Family"),
        ((*TABLE, PutDimension(dimension="band", hierarchy="band", axis="rows")),
         "Boardings by Mode then Band against Family"),
        ((*TABLE, FilterMembers(**FARE, action="keep", members=(("a",), ("b", 2)))),
         "Boardings by Mode against Family for a and 2 (fare)"),
        ((*TABLE, FilterMembers(**LINE, action="leave_out", members=((None,),))),
         "Boardings by Mode against Family, without those without a line (line)"),
        ((*TABLE, FilterMembers(**FARE, action="keep", members=(("z",),))),
         "Boardings by Mode against Family for z (not in the data) (fare)"),
        ((*TABLE, SetGrandTotal(axis="rows", totals="none"), SetGrandTotal(axis="columns", totals="none")),
         "Boardings by Mode against Family, no grand total row, no grand total column"),
        ((*TABLE, PutMeasure(measure="repairs"), FilterMembers(**FARE, action="keep", members=(("a",),))),
         "Boardings and Repairs by Mode against Family for a (fare; not for Repairs)"),
    ],
)  # fmt: skip
def test_the_sentence_tells_the_whole_question(gestures: tuple[Gesture, ...], sentence: str) -> None:
    assert said(*gestures) == sentence


@given(document=analyses())
def test_every_measure_dimension_and_filter_has_a_phrase_of_its_own(document: Analysis) -> None:
    phrases = sentence_of(document, SOURCE.model, SOURCE.members).phrases
    question = document.question
    assert [each.measure for each in phrases if each.kind == "measure"] == [each.measure for each in question.measures]
    placed = [each.hierarchy for each in (*question.rows, *question.columns)]
    assert [each.hierarchy for each in phrases if each.kind == "dimension"] == placed
    assert sorted(each.at or 0 for each in phrases if each.kind == "filter") == list(range(len(question.filters)))
    shown = [
        limit
        for each in (*question.rows, *question.columns)
        for limit in each.limits_in_force(SOURCE.model.dimension(each.dimension).hierarchy(each.hierarchy).levels)
    ]
    assert [each.level for each in phrases if each.kind == "limit"] == [each.level for each in shown]


@pytest.mark.parametrize(
    ("captions", "more", "words"),
    [(["Tram"], 0, "Tram"), (["Tram", "Bus"], 0, "Tram and Bus"), (["Tram", "Bus"], 7, "Tram, Bus and 7 more")],
)
def test_a_list_reads_as_people_write_it(captions: list[str], more: int, words: str) -> None:
    assert listed(captions, more) == words


@pytest.mark.parametrize(
    ("gesture", "words"),
    [
        (PutMeasure(measure="taps"), "Taps"),
        (PutMeasure(measure="boardings"), "moved Boardings"),
        (TakeMeasure(measure="boardings"), "took Boardings away"),
        (PutDimension(**LINE, level="team", axis="columns"), "against Team"),
        (TakeDimension(**LINE), "took Mode away"),
        (OpenMember(**LINE, path=("tram",)), "opened tram"),
        (OpenLevel(**LINE, level="mode"), "opened every mode"),
        (CloseLevel(**LINE, level="mode"), "closed every mode"),
        (FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",))), "kept tram and bus"),
        (FilterMembers(**LINE, action="leave_out", members=()), "lifted the filter on Line"),
        (SwapAxes(), "turned"),
    ],
)
def test_a_step_says_what_was_done(gesture: Gesture, words: str) -> None:
    assert step_words(after(SOURCE, *TABLE), gesture, SOURCE.model, SOURCE.members) == words


def offers(document: Analysis, **thing: object) -> list[tuple[str, int | None, str]]:
    found = offers_for(document, Thing(**thing), SOURCE.model, SOURCE.members)  # type: ignore[arg-type]
    return [(each.place, each.at, each.words) for each in found if not each.under]


def test_a_dimension_is_offered_every_gap_on_both_axes() -> None:
    assert offers(after(SOURCE, *TABLE), kind="dimension", dimension="band") == [
        ("rows", 0, "by Band, each broken down by Mode"),
        ("rows", 1, "by Mode, each broken down by Band"),
        ("columns", 0, "against Band, each broken down by Family"),
        ("columns", 1, "against Family, each broken down by Band"),
        ("menu", None, "Choose members of Band…"),
        ("menu", None, "Keep by a condition…"),
        ("menu", None, "Make a list by a rule…"),
        ("menu", None, "Lay out a statement…"),
        ("waiting", 0, "Keep Band at hand"),
    ]


def test_a_placed_dimension_is_offered_the_other_axis_its_levels_and_the_way_out() -> None:
    document = after(SOURCE, *TABLE, OpenMember(**LINE, path=("tram",)))
    found = offers_for(document, Thing(kind="dimension", **LINE), SOURCE.model, SOURCE.members)
    assert [each.words for each in found if not each.under] == [
        "against Mode, each broken down by Family", "against Family, each broken down by Mode",
        "Choose members of Line…", "Keep by a condition…", "Make a list by a rule…", "Lay out a statement…", "Keep Mode at hand", "Take Mode away",
    ]  # fmt: skip
    assert [each.words for each in found if each.under == "Open and close"] == [
        "Open every mode", "Open every team", "Close every mode", "Open all of Line", "Close all of Line",
    ]  # fmt: skip
    only = [each.words for each in found if each.under == "Only"]
    assert only[:3] == ["Modes", "Teams", "Lines"]
    assert {"Colours", "Regions"} <= set(only)


def test_levels_of_one_name_are_told_apart_by_their_hierarchies() -> None:
    line = SOURCE.model.dimension("line")
    attributes = tuple(replace(each, caption="Mode") if each.name == "region" else each for each in line.attributes)
    dimensions = (replace(line, attributes=attributes), *(each for each in SOURCE.model.dimensions if each != line))
    model = replace(SOURCE.model, dimensions=dimensions)
    found = offers_for(after(SOURCE, *TABLE), Thing(kind="dimension", **LINE), model, SOURCE.members)
    only = [each.words for each in found if each.under == "Only"]
    assert {"Teams", "Modes of Area"} <= set(only)
    assert len(only) == len(set(only))


def test_a_member_is_opened_or_closed_kept_or_left_out() -> None:
    document = after(SOURCE, *TABLE)
    member = {"kind": "member", **LINE, "path": ("tram",)}
    assert "Open tram" in [words for _, _, words in offers(document, **member)]
    opened = apply_gesture(document, OpenMember(**LINE, path=("tram",)), SOURCE.model)
    words = [words for _, _, words in offers(opened, **member)]
    assert "Close tram" in words
    assert "Open tram" not in words
    assert {"Keep only tram", "Leave out tram"} <= set(words)


def test_leaving_out_one_of_several_kept_members_keeps_the_others() -> None:
    document = after(SOURCE, *TABLE, FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",))))
    found = offers_for(document, Thing(kind="member", **LINE, path=("tram",)), SOURCE.model, SOURCE.members)
    gesture = next(each.gesture for each in found if each.words == "Leave out tram")
    assert gesture == FilterMembers(**LINE, action="keep", members=(("bus",),))


def test_an_offer_shows_the_header_and_first_members_that_would_appear() -> None:
    found = offers_for(
        after(SOURCE, *TABLE), Thing(kind="dimension", **LINE, level="team"), SOURCE.model, SOURCE.members
    )
    assert found[0].preview == ("Team", "1", "1", "2")
