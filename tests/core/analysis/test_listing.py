"""Gestures on lists of members, what is said and offered of them, and what they leave standing."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import pytest

from dastan.core.analysis.condition_words import list_words
from dastan.core.analysis.document import Analysis, Limit, MadeMeasure, PlacedMeasure
from dastan.core.analysis.drafted_list import drafted_list
from dastan.core.analysis.gestures import (
    ChangeList,
    FilterList,
    FilterMembers,
    ForgetList,
    ForgetMade,
    Gesture,
    MakeList,
    PutList,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import FormulaError, InputError
from dastan.core.language.completing import complete
from dastan.core.language.layout_rows import read_held
from dastan.core.language.reading import read_formula
from dastan.core.language.writing import write_formula
from dastan.core.model.conditions import AttributeFilter, LevelName, MeasureFilter, MemberFilter
from dastan.core.model.document import MemberList, Ranking
from dastan.core.model.expression import MeasureOf, Only
from dastan.core.reading.everything_made import everything_made
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.writing import write_words
from tests.core.asked import STAR, ask, by, question, table

LARGEST = MemberList(
    caption="Busiest", dimension="line", hierarchy="line", level="line", ranked=Ranking(measure="boardings", amount=2)
)
CHOSEN = MemberList(caption="Chosen", dimension="line", hierarchy="line", members=(("bus",), ("tram", 1)))
NAMED = AttributeFilter(dimension="line", attribute="line", operator="contains", values=("1",), on="caption")
AT_LINES = LevelName(dimension="line", hierarchy="line", level="line")
MANY = MeasureFilter(measure="boardings", at=(AT_LINES,), operator="at_least", values=(2,))
FAMILY = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
START = question("boardings", rows=(by("line", "mode"),))


def after(document: Analysis, *gestures: Gesture) -> Analysis:
    for each in gestures:
        document = apply_gesture(document, each, STAR.model)
    return document


def said(document: Analysis) -> str:
    """The sentence without what lists are in words, which stands in brackets."""
    return re.sub(r" \([^)]*\)", "", sentence_of(document, STAR.model, STAR.members).text)


def offered(document: Analysis, **thing: Any) -> list[str]:
    return [each.words for each in offers_for(document, Thing(**thing), STAR.model, STAR.members)]


def test_a_list_is_made_kept_left_out_and_lifted() -> None:
    document = after(START, MakeList(made=LARGEST))
    assert document.lists[0].name == "list_busiest"
    assert step_words(START, MakeList(made=LARGEST), STAR.model, STAR.members) == ("made the list Busiest")
    keep = FilterList(name="list_busiest", action="keep")
    kept = after(document, keep)
    assert said(kept) == "Boardings by Mode for Busiest"
    assert step_words(document, keep, STAR.model, STAR.members) == "kept Busiest"
    phrase = next(each for each in sentence_of(kept, STAR.model, STAR.members).phrases if each.kind == "filter")
    assert phrase.note == "the 2 largest lines by Boardings"
    # All filters hold together: one of members goes on beside it.
    members = after(kept, FilterMembers(dimension="line", hierarchy="line", action="keep", members=(("bus",),)))
    assert said(members) == "Boardings by Mode for Busiest, and for bus"
    assert said(after(members, FilterList(name="list_busiest", action="leave_out"))) == (
        "Boardings by Mode for bus, without Busiest"
    )
    assert said(after(kept, FilterList(name="list_busiest", action=None))) == "Boardings by Mode"
    assert said(after(START, MakeList(made=LARGEST, is_put=True))) == "Boardings by Mode for Busiest"


def test_a_list_is_put_on_an_axis_at_the_level_of_its_members() -> None:
    document = after(question("boardings"), MakeList(made=LARGEST), PutList(name="list_busiest", axis="columns", at=0))
    assert said(document) == "Boardings against Line for Busiest"
    assert [each.level for each in document.question.columns] == ["line"]
    chosen = after(question("boardings"), MakeList(made=CHOSEN), PutList(name="list_chosen", axis="rows", at=0))
    assert [each.level for each in chosen.question.rows] == ["mode"]
    assert table(ask(chosen))[-1] == ("All of Line", "6")


def test_what_names_a_list_follows_its_change_and_holds_it() -> None:
    document = after(START, MakeList(made=LARGEST, is_put=True))
    own = replace(document.lists[0], caption="The busiest", ranked=Ranking(measure="boardings", amount=1))
    changed = after(document, ChangeList(made=own))
    assert said(changed) == "Boardings by Mode for The busiest"
    assert step_words(document, ChangeList(made=own), STAR.model, STAR.members) == "called Busiest The busiest"
    assert table(ask(changed))[-1] == ("All of Line", "4")
    with pytest.raises(InputError, match="used by a filter"):
        after(document, ForgetList(name="list_busiest"))
    assert not after(document, FilterList(name="list_busiest", action=None), ForgetList(name="list_busiest")).lists
    with pytest.raises(InputError, match="of another hierarchy"):
        after(document, ChangeList(made=replace(own, hierarchy="area")))
    with pytest.raises(InputError, match="There is a list “busiest” already"):
        after(document, MakeList(made=replace(LARGEST, caption=" busiest ")))
    with pytest.raises(InputError, match="has no name"):
        after(document, MakeList(made=replace(LARGEST, caption=" ")))


def test_a_list_holds_the_measure_that_its_rule_is_by() -> None:
    made = MadeMeasure(name="twice", caption="Twice", formula=MeasureOf(measure="boardings"))
    document = replace(START, made=(made,))
    document = after(document, MakeList(made=replace(LARGEST, ranked=Ranking(measure="twice", amount=1))))
    with pytest.raises(InputError, match="the list “Busiest”"):
        after(document, ForgetMade(name="twice"))


@pytest.mark.parametrize(
    "text",
    [
        "boardings by mode for list Busiest",
        "boardings by mode for busiest",
        'boardings by mode for (any: list Busiest or bus) without list #"list_busiest"',
    ],
)
def test_a_list_is_typed_in_the_sentence(text: str) -> None:
    document = after(START, MakeList(made=LARGEST))
    vocabulary = Vocabulary(with_made(STAR.model, document), STAR.members)
    found = read_question(text, vocabulary).question
    assert found is not None
    leaves = [leaf for each in found.filters for leaf in getattr(each, "parts", (each,))]
    assert {leaf.list for leaf in leaves if isinstance(leaf, MemberFilter) and leaf.list} == {"list_busiest"}
    assert read_question(write_words(Analysis(model="star", question=found), vocabulary), vocabulary).question == found


def test_a_list_is_named_in_formulas_and_completed_there() -> None:
    document = after(START, MakeList(made=LARGEST))
    vocabulary = Vocabulary(with_made(STAR.model, document), STAR.members)
    text = '"Boardings" only "Line" in "Busiest"'
    found = read_formula(text, vocabulary).expression
    listed = MemberFilter(dimension="line", hierarchy="line", list="list_busiest")
    assert found == Only(of=MeasureOf(measure="boardings"), conditions=(listed,))
    assert write_formula(found, vocabulary) == text
    out = read_formula("boardings only line not in busiest", vocabulary).expression
    assert write_formula(out, vocabulary) == '"Boardings" only "Line" not in "Busiest"'
    before = "boardings only line in "
    assert [each.text for each in complete(before, len(before), vocabulary).found if each.kind == "list"] == [
        '"Busiest"'
    ]
    with pytest.raises(FormulaError, match="There is no list “Buzziest”") as miss:
        read_formula('boardings only line in "Buzziest"', vocabulary)
    assert "Busiest" in miss.value.hint
    with pytest.raises(FormulaError, match="lists members of Line, not of Fare"):
        read_formula("boardings only family in busiest", vocabulary)


def test_it_is_offered_where_members_are() -> None:
    document = after(START, MakeList(made=LARGEST))
    both = {"kind": "member", "dimension": "line", "hierarchy": "line", "path": ("bus",), "more": (("tram",),)}
    assert "Name them as a list…" in offered(document, **both)
    assert "Make a list by a rule…" in offered(document, kind="dimension", dimension="line")
    assert offered(document, kind="list", list="list_busiest") == [
        "Keep only Busiest", "Leave out Busiest", "by Busiest", "against Busiest", "Make a measure only for Busiest…",
        "Change the list…", "Forget Busiest",
    ]  # fmt: skip
    kept = after(document, FilterList(name="list_busiest", action="keep"))
    assert "Lift Busiest" in offered(kept, kind="list", list="list_busiest")
    assert "Forget Busiest" not in offered(kept, kind="list", list="list_busiest")


def test_a_list_begins_with_what_is_picked_or_with_what_the_table_shows() -> None:
    picked = drafted_list(START, "line", "line", (("bus",), ("tram",)), STAR.model, STAR.members)
    assert (picked.caption, picked.members, picked.is_rule) == ("bus and tram", (("bus",), ("tram",)), False)
    limit = Limit(level="line", amount=3, side="smallest", by=PlacedMeasure(measure="revenue"))
    family = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
    trams = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
    shown = question("boardings", rows=(by("line", "line", limits=(limit,)),), filters=(family, trams))
    made = drafted_list(shown, "line", "line", (), STAR.model, STAR.members)
    assert made.ranked == Ranking(measure="revenue", amount=3, side="smallest")
    assert (made.caption, made.level, made.over) == ("3 smallest lines by Revenue", "line", (family,))


def test_an_analysis_opens_without_a_list_that_has_lost_its_sense() -> None:
    named = AttributeFilter(dimension="line", attribute="gone", operator="contains", values=("x",))
    broken = replace(LARGEST, name="list_broken", caption="Broken", where=(named,))
    document = after(START, MakeList(made=LARGEST, is_put=True))
    opened, lost = fitted(replace(document, lists=(*document.lists, broken)), STAR.model)
    assert [each.name for each in opened.lists] == ["list_busiest"]
    assert any("gone" in each.text for each in lost)
    assert said(opened) == "Boardings by Mode for Busiest"
    # Without the list that its filter names it opens with the rest, and says which is gone.
    bare, missing = fitted(replace(document, lists=()), STAR.model)
    assert not bare.question.filters
    assert [each.text for each in missing] == ["List “list_busiest” is not in the model."]


def test_it_stands_in_the_list_of_all_that_is_made() -> None:
    document = after(START, MakeList(made=CHOSEN, is_put=True))
    found = next(each for each in everything_made(document, STAR.model, STAR.members) if each.kind == "list")
    assert (found.caption, found.of, found.says, found.used_by) == (
        "Chosen",
        "analysis",
        "lists bus and 1",
        ("a filter",),
    )


@pytest.mark.parametrize(
    ("made", "words"),
    [
        ({}, "the 2 largest lines by Boardings"),
        ({"ranked": Ranking(measure="boardings", amount=1)}, "the largest line by Boardings"),
        ({"where": (NAMED,)}, "the 2 largest by Boardings of lines containing “1”"),
        ({"ranked": None, "where": (NAMED, MANY)}, "all lines containing “1” and with at least 2 Boardings"),
        ({"ranked": None, "where": (replace(NAMED, attribute="colour", action="leave_out"),)}, "all lines without colour containing “1”"),
        ({"ranked": None, "members": (("bus",),), "over": (FAMILY,)}, "all lines below bus, over a"),
        ({"ranked": Ranking(measure="boardings", amount=80, count="percent_of_measure")}, "the largest that make 80 % of Boardings of lines"),
    ],
)  # fmt: skip
def test_a_rule_is_told_in_words(made: dict[str, Any], words: str) -> None:
    assert list_words(replace(LARGEST, **made), STAR.model, STAR.members) == words


def test_the_members_on_a_list_are_joined_into_one() -> None:
    document = after(START, MakeList(made=CHOSEN))
    offer = next(
        each
        for each in offers_for(document, Thing(kind="list", list="list_chosen"), STAR.model, STAR.members)
        if each.words == "Join them into one member, Chosen"
    )
    assert offer.gesture is not None
    # A bus and the first of the trams: L3 and L1.
    assert ("Chosen", "6") in table(ask(after(document, offer.gesture)))
    rule = after(START, MakeList(made=LARGEST))
    assert not [each for each in offered(rule, kind="list", list="list_busiest") if each.startswith("Join")]


def test_a_row_of_a_layout_has_the_members_that_are_on_a_list() -> None:
    document = after(after(START, MakeList(made=CHOSEN)), MakeList(made=LARGEST))
    vocabulary = Vocabulary(with_made(STAR.model, document), STAR.members)
    assert read_held('"Chosen", L9 to L99', "line", "line", vocabulary).members == CHOSEN.members
    with pytest.raises(FormulaError, match="“Busiest” has a rule"):
        read_held('"Busiest"', "line", "line", vocabulary)
    with pytest.raises(FormulaError, match="There is no “Chosen”"):
        read_held('"Chosen"', "line", "area", vocabulary)
