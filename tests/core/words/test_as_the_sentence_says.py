"""Everything that the sentence shows can be typed as it stands there, and means what it is shown for."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import pytest

from dastan.core.analysis.condition_words import period_words
from dastan.core.analysis.document import (
    Analysis,
    Dress,
    Joint,
    Limit,
    MadeMeasure,
    NumberDress,
    Opening,
    Order,
    PlacedMeasure,
    Question,
)
from dastan.core.analysis.gestures import Rewrite, apply_gesture
from dastan.core.analysis.made import with_made
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.sentence import sentence_of
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
)
from dastan.core.words.reading import read_question
from dastan.core.words.tried import tried
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.writing import write_words
from tests.core.asked import by
from tests.core.words.test_words_and_back import SOURCE, VOCABULARY, read, understood

BOARDINGS, TAPS = (PlacedMeasure(measure=each) for each in ("boardings", "taps"))
MODE_OPEN = Opening(dimension="line", hierarchy="line", levels=("mode", "team"))


def document(**asked: object) -> Analysis:
    return Analysis(model="star", question=Question(measures=(BOARDINGS,), **asked))  # type: ignore[arg-type]


def rewritten(text: str, before: Analysis) -> Analysis:
    reading = read(text)
    assert reading.question is not None, (text, reading.fault)
    asked = Rewrite(question=reading.question, levels_seen=reading.levels_seen, numbers=reading.numbers)
    return apply_gesture(before, asked, SOURCE.model)


TRAM = MemberFilter(dimension="line", hierarchy="line", members=(("tram",),))
IN_2024 = MemberFilter(dimension="calendar", hierarchy="calendar", members=((2024,),))
IN_X = MemberFilter(dimension="band", hierarchy="band", members=(("x",),))
MODE = LevelName(dimension="line", hierarchy="line", level="mode")
CONDITIONS: list[tuple[Condition, str]] = [
    (TRAM, "for tram"),
    (replace(TRAM, level="team"), "for every team below tram"),
    (AttributeFilter(dimension="line", attribute="colour", operator="equal", values=("red", "Blue")), "for colour “red” or “Blue”"),
    (AttributeFilter(dimension="line", attribute="team", operator="between", values=(1, 2)), "for team from 1 to 2"),
    (AttributeFilter(dimension="line", attribute="team", operator="not_equal", values=(1, 2, 1000)), "for team other than 1, 2 or 1,000"),
    (AttributeFilter(dimension="line", attribute="colour", operator="contains", values=("ed",), action="leave_out"), ", without colour containing “ed”"),
    (KeyFilter(dimension="line", state="left_blank"), "for line left blank"),
    (KeyFilter(dimension="fare", state="key_unknown", action="leave_out"), ", without fare not known"),
    (MeasureFilter(measure="taps", at=(MODE,), operator="at_least", values=(10_000,)), "for modes with at least 10,000 Taps"),
    (MeasureFilter(measure="taps", at=(MODE,), operator="between", values=(1, 2.5),
                   per=LevelName(dimension="calendar", hierarchy="calendar", level="year")),
     "for modes with from 1 to 2.5 Taps a year on average"),
    (FilterGroup(join="any", parts=(TRAM, IN_X)), "for either tram or x"),
    (FilterGroup(join="any", parts=(TRAM, AttributeFilter(dimension="line", attribute="colour", operator="equal", values=("red", "Blue")))),
     "for either tram or (colour “red” or “Blue”)"),
    (FilterGroup(join="all", parts=(replace(TRAM, members=(("tram",), ("bus",))), replace(IN_X, action="leave_out"))),
     "for both (tram and bus) and not x"),
    (FilterGroup(join="all", parts=(TRAM, IN_X, FilterGroup(join="any", parts=(TRAM, IN_X)))),
     "for all of tram, x and (either tram or x)"),
]  # fmt: skip


@pytest.mark.parametrize(("condition", "words"), CONDITIONS, ids=[words for _, words in CONDITIONS])
def test_conditions_are_read_as_they_are_shown(condition: Condition, words: str) -> None:
    own = document(rows=(by("line", "mode"),), filters=(condition,))
    shown = sentence_of(own, SOURCE.model, SOURCE.members).text
    assert shown.split(" (")[0] == f"Boardings by Mode{'' if words.startswith(',') else ' '}{words}".split(" (")[0]
    for text in (f"Boardings by Mode {words}", shown):
        assert understood(text).filters == (condition,), text
    assert write_words(own, VOCABULARY) == f"Boardings by Mode{'' if words.startswith(',') else ' '}{words}"


UNITS = ["day", "week", "month", "quarter", "year", "financial_quarter", "financial_year"]
SPANS = [(0, 0), (-1, -1), (1, 1), (-3, -3), (2, 2), (-4, -1), (-4, 0), (-3, -2), (-1, 1), (0, 2), (1, 3), (-500, 0)]


@pytest.mark.parametrize("to_date", [False, True])
@pytest.mark.parametrize("anchor", ["today", "newest"])
def test_periods_are_read_as_they_are_shown(to_date: bool, anchor: str) -> None:
    for unit, (first, last) in product(UNITS, SPANS):
        own = PeriodFilter(
            dimension="calendar", unit=unit, first=first, last=last, to_date=to_date, anchor=anchor  # type: ignore[arg-type]
        )  # fmt: skip
        words = period_words(own)
        if to_date and (last > 0 or (unit == "day" and last == 0)):
            continue  # a part of what is to come, or of a day, is none
        assert understood(f"boardings for {words}").filters == (own,), words
        assert understood(f"boardings for {words} (calendar)").filters == (own,), words


def test_a_whole_sentence_is_what_the_box_begins_with() -> None:
    limit = Limit(level="team", amount=2, by=BOARDINGS, others=True)
    order = Order(by="measure", measure=BOARDINGS, descending=True)
    own = document(
        rows=(replace(by("line", "mode"), limits=(limit,), order=order), replace(by("fare", "family"), only_under=())),
        columns=(replace(by("calendar", "year"), order=Order(by="natural", descending=True)),),
        filters=(IN_X, replace(TRAM, action="leave_out")),
        empty_rows="hidden",
        column_total="none",
    )
    dress = Dress(numbers=(NumberDress(measure=BOARDINGS, scale="thousands", is_turned=True),))
    own = replace(own, openings=(replace(MODE_OPEN, levels=("mode",)),), dress=dress)
    words = write_words(own, VOCABULARY)
    assert words == (
        "Boardings in thousands with the sign turned by Mode › Team then Family where opened against Year for x, "
        "without tram, the 2 largest teams in each mode by Boardings, the rest as others, Mode ordered by Boardings, "
        "largest first, Year ordered in natural order reversed, without empty rows, no grand total column"
    )
    shown = sentence_of(own, SOURCE.model, SOURCE.members).text
    for text in (words, shown):
        assert rewritten(text, own) == own, text


def test_an_order_by_one_column_and_headers_that_are_opened_are_read_as_shown() -> None:
    found = understood("boardings by mode against year, Mode ordered by Boardings in 2024, largest first")
    assert found.rows[0].order.column.members == ((2024,),)
    # What does not stand across is a filter.
    found = understood("boardings by mode sorted by boardings in 2024 (calendar)")
    assert (found.rows[0].order.column.members, found.filters) == ((), (IN_2024,))
    found = understood("boardings by mode then year then family under tram › 2024 and bus only")
    assert [[each.path for each in one.members] for one in found.rows[2].only_under or ()] == [
        [("tram",), (2024,)], [("bus",)],
    ]  # fmt: skip


def test_levels_are_opened_and_closed_by_naming_them() -> None:
    closed = document(rows=(by("line", "mode"),))
    opened = rewritten("boardings by mode › team", closed)
    assert opened.opening("line", "line").levels == ("mode",)
    assert rewritten("boardings by mode > team > line", closed).opening("line", "line").levels == ("mode", "team")
    assert rewritten("boardings by mode", opened).opening("line", "line").levels == ()
    assert rewritten("boardings by mode › team, Mode ordered by name reversed", closed).openings == opened.openings
    # A level between that is not named is passed over.
    assert rewritten("boardings by mode › line", closed).question.rows[0].skipped == ("team",)
    # What is seen so far already stays as it is, member by member.
    by_hand = replace(closed, openings=(Opening(dimension="line", hierarchy="line", open=(("tram",),)),))
    assert rewritten("taps by mode › team", by_hand).openings == by_hand.openings
    assert read("boardings by mode › year").question is None
    assert read("boardings by team › mode").question is None


def test_scale_and_sign_are_typed_and_what_else_dresses_the_numbers_stays() -> None:
    before = document(rows=(by("line", "mode"),))
    numbers = (
        NumberDress(measure=BOARDINGS, scale="millions", in_cell="bar"),
        NumberDress(measure=TAPS, scale="millions"),
    )
    before = replace(before, dress=Dress(numbers=numbers))
    after = rewritten("boardings in thousands by mode", before)
    assert after.dress.numbers == (NumberDress(measure=BOARDINGS, scale="thousands", in_cell="bar"), numbers[1])
    after = rewritten("boardings with the sign turned and taps by mode", before)
    assert after.dress.numbers == (NumberDress(measure=BOARDINGS, is_turned=True, in_cell="bar"),)
    # A gesture that says nothing of numbers leaves them.
    assert apply_gesture(before, Rewrite(question=after.question), SOURCE.model).dress == before.dress


def test_a_note_may_have_brackets_in_it() -> None:
    assert understood("boardings by mode for tram (line; not for Cards (all)), without x").filters == (
        TRAM, replace(IN_X, action="leave_out"),
    )  # fmt: skip


def test_one_beside_another_that_are_alternatives() -> None:
    bands = [replace(each, alternatives=each.name == "band") for each in SOURCE.model.dimensions]
    known = Vocabulary(replace(SOURCE.model, dimensions=tuple(bands)), SOURCE.members)
    beside = read_question("boardings, x against x by mode", known)
    assert beside.question is not None
    assert [each.dimension for each in beside.question.columns] == ["band"]
    assert [each.members for each in beside.question.filters] == [(("x",), ("x",))]  # type: ignore[union-attr]
    assert read("boardings, x against x by mode").question is None  # no alternatives


def test_a_name_with_a_comma_needs_no_quotes() -> None:
    captions = {"taps": "Boardings, counted", "cards": "Cards (all)"}
    measures = tuple(replace(each, caption=captions.get(each.name, each.caption)) for each in SOURCE.model.measures)
    known = Vocabulary(replace(SOURCE.model, measures=measures), SOURCE.members)

    def named(text: str) -> list[str]:
        found = read_question(text, known).question
        assert found is not None, text
        return [each.measure for each in found.measures]

    assert named("boardings, counted by line") == ["taps"]
    assert named("boardings, cards (all) by line") == ["boardings", "cards"]
    assert named("boardings by line") == ["boardings"]


def test_what_would_be_refused_is_said_before_it_is_asked() -> None:
    before = document()
    fine = tried(read("boardings by mode"), before, SOURCE.model)
    assert fine.refusal == ""
    twice = tried(read("boardings by mode then mode"), before, SOURCE.model)
    assert twice.refusal == "Line stands twice in the table. Keep one of the two."
    assert tried(read("boardings by nothing"), before, SOURCE.model).refusal == ""  # it is not understood at all


@pytest.mark.parametrize("named", ["mode tram", "line tram", "Mode is tram", "mode = Tram"])
def test_members_may_stand_behind_the_name_of_what_they_are_of(named: str) -> None:
    assert understood(f"boardings by team for {named}").filters == (TRAM,)


def test_a_number_below_nothing_has_a_minus_and_is_read_back() -> None:
    condition = AttributeFilter(dimension="line", attribute="colour", operator="more", values=(-1200,))
    document = Analysis(model="star", question=replace(understood("boardings by mode"), filters=(condition,)))
    text = sentence_of(document, SOURCE.model, SOURCE.members).text
    assert "colour more than −1,200" in text
    assert understood(text).filters == (condition,)


def with_things_made() -> Analysis:
    """Fares of one's own, by modes of which two are joined and one is a difference of two."""
    formula = read_formula("boardings + taps", VOCABULARY).expression
    made = MadeMeasure(name="both", caption="Both", formula=formula)
    road = Joint(name="road", caption="Road", dimension="line", hierarchy="line", members=(("tram",), ("bus",)))
    joints = (road, replace(road, name="edge", caption="Edge", how="difference"))
    question = Question(measures=(PlacedMeasure(measure="both"),), rows=(by("line", "mode"),))
    return Analysis(model="star", question=question, made=(made,), joints=joints)


def test_what_was_made_is_explained_behind_the_question_and_read_back() -> None:
    document = with_things_made()
    known = Vocabulary(with_made(SOURCE.model, document), with_made_members(SOURCE.members, document))
    text = sentence_of(document, SOURCE.model, SOURCE.members, ("the tram desk",)).text
    assert text == (
        "Both by Mode, where Both is Boardings plus Taps; and Road joins tram and bus; and Edge is tram less bus, "
        "as far as the tram desk may see"
    )
    assert read_question(text, known).question == document.question
    # What is not so is not passed over: the explanation makes nothing.
    for wrong in ("Both is Boardings less Taps", "Road joins tram", "Loss is Taps", ""):
        found = read_question(f"Both by Mode, where {wrong}", known)
        assert found.question is None, wrong
    assert read(text).question is None
