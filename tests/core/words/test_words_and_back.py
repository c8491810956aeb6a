"""A question written in words and read back is the same question, and people's shorter words are understood."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, Dress, Limit, NumberDress, PlacedMeasure, Question
from dastan.core.analysis.views import (
    Balance,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    Step,
    ToDate,
    View,
)
from dastan.core.model.conditions import AttributeFilter, LevelName, MeasureFilter, MemberFilter, PeriodFilter, Prompt
from dastan.core.words.meaning import meaning_of, meaning_of_reading
from dastan.core.words.reading import Reading, read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.writing import write_words
from tests.core.asked import by
from tests.core.engine.oracle_conditions import dimension
from tests.core.engine.oracle_sql import LEVELS
from tests.core.engine.test_oracle import analyses
from tests.core.engine.test_views import views
from tests.core.star import star

SOURCE = star()
MODE = Share(of="level", level=LevelName(dimension="line", hierarchy="line", level="mode"))
VOCABULARY = Vocabulary(SOURCE.model, SOURCE.members)


def read(text: str) -> Reading:
    return read_question(text, VOCABULARY)


def understood(text: str) -> Question:
    reading = read(text)
    assert reading.fault is None, (text, reading.fault)
    assert reading.question is not None
    return reading.question


def write_question(question: Question, vocabulary: Vocabulary = VOCABULARY) -> str:
    return write_words(Analysis(model="star", question=question), vocabulary)


@st.composite
def documents(draw: st.DrawFn) -> Analysis:
    """Random documents, with all that the engine's own random analyses leave out."""
    document = draw(analyses())
    question = document.question
    if draw(st.booleans()):
        shown = [replace(each, view=draw(views(document))) for each in question.measures]
        question = replace(question, measures=(*question.measures[:1], *shown))
    asked = Prompt(name="asked_1", caption="Which “modes”?", type="members", dimension="line", hierarchy="line",
                   members=(("tram", None),), many=draw(st.booleans()))  # fmt: skip
    is_asking = draw(st.booleans())
    some = draw(st.lists(st.sampled_from(["band", "colour", "fare"]), max_size=2, unique=True))
    question = replace(
        question,
        measures_on=draw(st.sampled_from(["rows", "columns"])),
        measures_at=draw(st.sampled_from([None, 0, 1])),
        waiting=tuple(by(each, LEVELS[each][-1], dimension(each)) for each in some),
        prompts=(asked,) if is_asking else (),
        filters=(*question.filters, MemberFilter(dimension="line", hierarchy="line", prompt="asked_1"))
        if is_asking
        else question.filters,
    )
    numbers = [
        NumberDress(measure=each, scale=draw(st.sampled_from(["one", "thousands", "millions"])), is_turned=draw(st.booleans()))
        for each in dict.fromkeys(question.measures)
    ]  # fmt: skip
    dress = Dress(numbers=tuple(each for each in numbers if draw(st.booleans())))
    return replace(document, question=question, dress=dress)


@settings(max_examples=120)
@given(documents())
def test_words_lead_back_to_the_question(document: Analysis) -> None:
    words = write_words(document, VOCABULARY)
    reading = read(words)
    assert reading.fault is None, (words, reading.fault)
    assert meaning_of_reading(reading, VOCABULARY) == meaning_of(document, VOCABULARY), words


@pytest.mark.parametrize(
    ("text", "views"),
    [
        ("boardings and its share of the row", [None, Share(of="row")]),
        ("boardings, its value to date in the year",
         [None, ToDate(level=LevelName(dimension="calendar", hierarchy="calendar", level="year"))]),
        ("boardings, their change on the year before", [None, Change(on="year", dimension="calendar", shows="difference")]),
        ("share of the mode of boardings", [MODE]),
        ("boardings, its share of the mode of line", [None, MODE]),
        ("boardings, its running total down the rows in each group and its rank among the columns",
         [None, RunningTotal(along="rows", restarts=True), Rank(along="columns")]),
        ("boardings, its moving average of 3 across the columns and its moving sum of 12 down the rows in each group",
         [None, Moving(along="columns", count=3), Moving(along="rows", count=12, shows="sum", restarts=True)]),
        ("boardings, their change on the same part of the year before",
         [None, Change(on="year", dimension="calendar", same_part=True, shows="difference")]),
        ("boardings, their difference from taps, their ratio to cards, their percentage of taps",
         [None, Beside(measure="taps"), Beside(measure="cards", shows="ratio"), Beside(measure="taps", shows="percent")]),
        ("boardings, its change on the one before across the columns, its value in the one before down the rows in each group",
         [None, Step(along="columns", shows="difference"), Step(along="rows", shows="earlier", restarts=True)]),
        ("boardings, its opening balance, its movement and its closing balance",
         [None, *(Balance(shows=each) for each in ("opening", "movement", "closing"))]),
        ("difference from taps of boardings", [Beside(measure="taps")]),
        ("boardings, its index across the columns, its cumulative share among the rows",
         [None, Index(along="columns"), CumulativeShare(along="rows")]),
        ("change in per cent on the period before along calendar of average of boardings", [Change(on="period", dimension="calendar")]),
    ],
)  # fmt: skip
def test_views_of_measures_as_people_write_them(text: str, views: list[View | None]) -> None:
    assert [each.view for each in understood(f"{text} by line against year").measures] == views


def test_a_change_on_a_member_is_read_and_written_with_its_hierarchy() -> None:
    own = Change(on="member", dimension="line", hierarchy="line", path=("tram",), shows="difference")
    question = understood("boardings and their change on tram by line")
    assert question.measures[1].view == own
    words = write_question(question, VOCABULARY)
    assert words == "Boardings and its change on tram by Line"
    assert understood(words) == question
    assert read("boardings and their change on nobody by line").fault is not None


def test_its_needs_a_measure_before_it() -> None:
    assert read("its share of the row by line").fault is not None


def test_an_empty_question_is_no_words() -> None:
    assert write_question(Question(), VOCABULARY) == ""
    assert understood("") == Question()


def test_as_people_write_it() -> None:
    found = understood("boardings and taps by mode against Family for TRAM, bus")
    assert [each.measure for each in found.measures] == ["boardings", "taps"]
    assert found.rows == (by("line", "mode"),)
    assert found.columns == (by("fare", "family"),)
    assert found.filters == (MemberFilter(dimension="line", hierarchy="line", members=(("tram",), ("bus",))),)
    assert understood("boardings by teams of line").rows == (by("line", "team"),)


def test_a_name_of_a_level_means_that_level_and_of_a_hierarchy_alone_its_top() -> None:
    # "Line" is a level and a hierarchy, "week" too; no level is called "area" or "calendar".
    found = understood("boardings by line then area against calendar")
    assert [(each.hierarchy, each.level) for each in (*found.rows, *found.columns)] == [
        ("line", "line"), ("area", "region"), ("calendar", "year"),
    ]  # fmt: skip
    assert understood("boardings by weeks").rows == (by("week", "week", "line"),)
    assert understood("boardings by week year").rows == (by("week", "week_year", "line"),)
    assert write_question(found, VOCABULARY).startswith("Boardings by Line then Region against Year")
    # The same level of another hierarchy is told by that one's name.
    team = replace(found, rows=(by("tour", "line", "line"),), columns=())
    assert write_question(team, VOCABULARY) == "Boardings by Line of Tour"
    # A limit on a level above the named one is on what stands then.
    limited = understood("boardings by line, the 2 largest modes by boardings").rows[0]
    assert (limited.level, limited.limits[0].level) == ("mode", "mode")


def test_dimensions_are_nested_by_then_and_or_a_comma() -> None:
    nested = understood("boardings by line then fare against calendar")
    assert nested.rows == (by("line", "line"), by("fare", "family"))
    assert understood("boardings by line and fare against calendar") == nested
    assert understood("boardings by line, fare against calendar") == nested
    limited = understood("boardings by line, fare, the 2 largest modes by boardings")
    assert [each.dimension for each in limited.rows] == ["line", "fare"]
    assert [each.amount for each in limited.rows[0].limits] == [2]


def test_a_limit_is_by_the_only_measure_where_none_is_named() -> None:
    whole = understood("boardings by line, the 2 largest modes by boardings with others")
    assert understood("boardings by line, the 2 largest modes with others") == whole
    several = read("boardings and taps by line, the 2 largest modes")
    assert several.question is None
    assert several.completions[-2:] == tuple(
        f"boardings and taps by line, the 2 largest modes {w}" for w in ("of", "by")
    )


def test_limits_are_understood_as_the_sentence_says_them() -> None:
    found = understood("boardings by line, the 2 largest modes by taps with others").rows[0].limits
    by_taps = PlacedMeasure(measure="taps")
    assert found == (Limit(level="mode", amount=2, by=by_taps, others=True),)
    found = (
        understood("boardings by line, the largest modes that make 80 % of Boardings, the rest as others")
        .rows[0]
        .limits
    )
    assert (found[0].count, found[0].amount, found[0].others) == ("percent_of_measure", 80, True)


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("boardings per line in 2024", "boardings by line for 2024"),
        ("boardings by line last year", "boardings by line for last year"),
        ("boardings by line this year so far", "boardings by line for this year so far"),
        ("boardings by line, top 2 lines", "boardings by line, the 2 largest lines by boardings"),
        ("boardings by line, bottom 10 % of lines", "boardings by line, the smallest 10 % of lines by boardings"),
        ("boardings by line, bottom 10 % lines", "boardings by line, the smallest 10 % of lines by boardings"),
        ("boardings by mode, the largest of the modes by taps", "boardings by mode, the 1 largest modes by taps"),
        ("boardings by mode, the 2 largest lines in each team by taps", "boardings by mode, the 2 largest lines by taps"),
        ("boardings by line then fare sorted by boardings",
         "boardings by line then fare (ordered by measure boardings largest first)"),
        ("boardings by line then fare, Line ordered by boardings, smallest first",
         "boardings by line (ordered by measure boardings) then fare"),
        ("boardings by line sorted by name reversed", "boardings by line (ordered by name reversed)"),
        ("boardings against line sorted by name", "boardings against line (ordered by name)"),
    ],
)  # fmt: skip
def test_what_people_type_at_once_is_understood(said: str, meant: str) -> None:
    assert understood(said) == understood(meant)


@pytest.mark.parametrize(
    "text",
    ["boardings by line sorted by taps", "boardings by mode, the 2 largest lines in each family by taps",
     "boardings by mode, the 2 largest modes in each line by taps"],
)  # fmt: skip
def test_what_would_do_nothing_or_something_else_is_not_understood(text: str) -> None:
    assert read(text).question is None


def test_what_may_follow_is_what_can_be_written_and_nothing_twice() -> None:
    follow = [each.removeprefix("boardings by line").strip() for each in read("boardings by line ").completions]
    assert {"by", "against", "for", "without", "largest"} <= set(follow)
    assert not {"in", "per", "last", "a number", "line", "the", "hide empty"} & set(follow)
    assert {each.split()[-1] for each in read("boardings by line, the 3 ").completions} == {"largest", "smallest"}


def test_conditions_and_periods() -> None:
    (found,) = understood('taps without where colour of line is "red" or "Blue"').filters
    assert found == AttributeFilter(
        dimension="line", attribute="colour", operator="equal", values=("red", "Blue"), action="leave_out"
    )
    (found,) = understood("taps for where boardings is more than 2.5 at mode of line").filters
    assert isinstance(found, MeasureFilter)
    assert (found.operator, found.values, found.at[0].level) == ("more", (2.5,), "mode")
    (found,) = understood("taps for the last 4 quarters").filters
    assert found == PeriodFilter(dimension="calendar", unit="quarter", first=-4, last=-1)
    (found,) = understood("taps for this year so far").filters
    assert found == PeriodFilter(dimension="calendar", unit="year", first=0, last=0, to_date=True)


@pytest.mark.parametrize(
    ("text", "wrong", "near"),
    [
        ("bordings by line", "bordings", "Boardings"),
        ("boardings by lnie", "lnie", "Line"),
        ("boardings by line for tramm", "tramm", "tram"),
        ("boardings by line agianst fare", "agianst", "against"),
    ],
)
def test_what_is_not_understood_is_pointed_at_with_the_nearest_names(text: str, wrong: str, near: str) -> None:
    reading = read(text)
    assert reading.question is None
    assert reading.fault is not None
    assert text[reading.fault.start : reading.fault.end] == wrong
    assert near in reading.fault.near


def test_a_text_goes_on_as_the_grammar_allows() -> None:
    assert "Boardings" in [each.strip() for each in read("boar").completions]
    assert "boardings by Line" in read("boardings by li").completions
    on = {" ".join(each.split()) for each in read("boardings ").completions}
    assert {"boardings by", "boardings against", "boardings for"} <= on
    assert "boardings for tram" in read("boardings for tr").completions
    # Where nothing is begun, the members that are in the table come first.
    assert read("boardings by line for ").completions[:2] == ("boardings by line for bus", "boardings by line for tram")


def test_members_are_understood_as_the_sentence_shows_them() -> None:
    for text in ("boardings for 2024 calendar, tram line", "boardings by line, for 2024 Calendar and tram Line"):
        found = understood(text).filters
        assert [each.hierarchy for each in found] == ["calendar", "line"]  # type: ignore[union-attr]
        assert [each.members for each in found] == [((2024,),), (("tram",),)]  # type: ignore[union-attr]
    (without,) = understood("boardings without tram line").filters
    assert isinstance(without, MemberFilter)
    assert without.action == "leave_out"
    # A dimension that has no such member is no part of it.
    assert read("boardings for tram calendar").question is None


def test_that_there_is_no_grand_total_is_typed_as_the_sentence_says_it() -> None:
    found = understood("boardings by line against year, no grand total row, no grand total column")
    assert (found.row_total, found.column_total) == ("none", "none")
    assert write_question(found, VOCABULARY).endswith(", no grand total row, no grand total column")


def test_names_are_written_as_in_formulas() -> None:
    captions = {
        "boardings": 'Boardings, "counted"',
        "taps": "Taps [old]",
        "cards": "Line by line",
        "delays": "boardings",
    }
    measures = tuple(replace(each, caption=captions.get(each.name, each.caption)) for each in SOURCE.model.measures)
    named = Vocabulary(replace(SOURCE.model, measures=measures), SOURCE.members)
    question = Question(measures=tuple(PlacedMeasure(measure=each) for each in captions))
    words = write_question(question, named)
    assert words == '"Boardings, ""counted""", "Taps [old]", Line by line and boardings'
    assert read_question(words, named).question == question
    # In quotes a technical name will do; where something else is called so, it stands behind a sign.
    assert read_question('"taps"', named).question == Question(measures=(PlacedMeasure(measure="taps"),))
    assert read_question('#"boardings" and "boardings"', named).question == Question(
        measures=(PlacedMeasure(measure="boardings"), PlacedMeasure(measure="delays"))
    )
    assert read_question('"line b', named).completions == ('"Line by line"',)


def test_several_conditions_after_one_word_may_be_of_several_hierarchies() -> None:
    found = understood("boardings for 2024 (Calendar), tram, bus and a").filters
    assert [each.hierarchy for each in found] == ["calendar", "line", "fare"]  # type: ignore[union-attr]
    assert found[1].members == (("tram",), ("bus",))  # type: ignore[union-attr]


@settings(max_examples=150)
@given(documents(), st.data())
def test_no_text_whatever_is_more_than_not_understood(document: Analysis, data: st.DataObject) -> None:
    """Written questions with a piece cut out, doubled or put in: read or pointed at, never an error."""
    text = write_words(document, VOCABULARY)
    start = data.draw(st.integers(0, len(text)))
    end = data.draw(st.integers(start, min(len(text), start + 12)))
    piece = data.draw(
        st.sampled_from(["", "#", "[", "#[1", '#{"a": 1}', "#[[[1]]]", "NaN", "(", "“", "› ", " and", ",", "-7"])
    )
    changed = text[:start] + piece + text[end:]
    reading = read(changed)
    assert (reading.question is None) == (reading.fault is not None)
    if reading.fault is not None:
        assert 0 <= reading.fault.start <= reading.fault.end <= len(changed)


@pytest.mark.parametrize(
    "text",
    [
        "boardings for #[1, [2]]", "boardings asks #3", 'boardings asks #{"name": "x"}', 'boardings asks #{"name": 1, "caption": "", "type": "text"}',
        'boardings answering #{"prompt": "x", "values": [[1]]}', "boardings by line (ordered by name at #4)", "boardings by line (only under #[1])",
        "boardings for where team of line is NaN", "boardings for " + "(all: " * 4000, "boardings for #" + "[" * 9000,
    ],
)  # fmt: skip
def test_what_does_not_fit_is_pointed_at(text: str) -> None:
    reading = read(text)
    assert reading.question is None
    assert reading.fault is not None
