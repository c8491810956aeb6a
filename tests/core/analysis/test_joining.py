"""Joint members: what they have, where they stand, how they are told, and what names them.

Boardings are 2 and 1 of the trams L1 and L2, 4 of the bus L3 and 1 of none; cards are 1 and 1, 2 and 3.
"""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import Analysis, Chart, Joint, MadeMeasure, Opening, PlacedMeasure
from dastan.core.analysis.gestures import (
    ChangeJoint,
    FilterMembers,
    ForgetJoint,
    MakeJoint,
    MakeMeasure,
    PutFilter,
    SwapAxes,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.sentence import sentence_of
from dastan.core.analysis.views import Change, CumulativeShare, Rank, RunningTotal, Share, View
from dastan.core.engine.answer import questioner_of
from dastan.core.engine.size import Budget
from dastan.core.errors import InputError, NotFoundError
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import LevelName, MeasureFilter, MemberFilter
from dastan.core.model.expression import NumberOf
from dastan.core.model.parts import MemberPath
from dastan.core.reading.account import account_of
from dastan.core.reading.backing import place_of
from dastan.core.reading.chart import chart_of
from dastan.core.reading.window import window_of
from dastan.core.words.reading import read_question
from dastan.core.words.vocabulary import Vocabulary
from dastan.core.words.writing import write_words
from dastan.documents.read import read_analysis, write_analysis
from tests.core.asked import EVERYTHING, STAR, ask, by, limited, question, table
from tests.core.star import TODAY

MODEL = STAR.model
TRAM, BUS, NONE = ("tram",), ("bus",), (None,)
TRAMS = ("tram", 1, "L1"), ("tram", 2, "L2")


def joint(caption: str, *members: MemberPath, hierarchy: str = "line", name: str = "") -> Joint:
    return Joint(name=name, caption=caption, dimension="line", hierarchy=hierarchy, members=members)


def joined(document: Analysis, caption: str, *members: MemberPath, alone: bool = False) -> Analysis:
    return apply_gesture(document, MakeJoint(joint=joint(caption, *members), alone=alone), MODEL)


def by_mode(*measures: str) -> Analysis:
    return question(*(measures or ("boardings",)), rows=(by("line", "mode"),))


def path_of(document: Analysis) -> MemberPath:
    made = document.joints[-1]
    return (f"joint:{made.name}",)


def test_it_has_the_records_of_all_that_it_joins_and_totals_count_each_once() -> None:
    document = joined(by_mode(), "All wheels", TRAM, BUS)
    assert table(ask(document)) == [
        ("bus", "4"), ("tram", "3"), ("All wheels", "7"), ("without a line", "1"), ("All of Line", "8"),
    ]  # fmt: skip
    assert [row[1] for row in table(ask(joined(by_mode("cards"), "All wheels", TRAM, BUS)))] == [
        "1",
        "1",
        "2",
        "1",
        "3",
    ]


def test_leaving_out_what_it_joins_takes_nothing_from_it_or_from_totals() -> None:
    document = joined(by_mode("boardings"), "All wheels", TRAM, BUS, alone=True)
    assert table(ask(document)) == [("All wheels", "7"), ("without a line", "1"), ("All of Line", "8")]
    only_bus = joined(by_mode(), "Rails", TRAM, alone=True)
    assert table(ask(only_bus))[:2] == [("bus", "4"), ("Rails", "3")]
    left_out = apply_gesture(
        document, FilterMembers(dimension="line", hierarchy="line", action="leave_out", members=(TRAM, BUS, path_of(document))), MODEL
    )  # fmt: skip
    assert table(ask(left_out)) == [("without a line", "1"), ("All of Line", "1")]


def test_where_some_members_are_kept_it_is_kept_with_them() -> None:
    kept = apply_gesture(
        by_mode(), FilterMembers(dimension="line", hierarchy="line", action="keep", members=(TRAM, BUS)), MODEL
    )
    beside = joined(kept, "Wheels", TRAM, BUS)
    assert [row[0] for row in table(ask(beside))] == ["bus", "tram", "Wheels", "All of Line"]
    alone = joined(kept, "Wheels", TRAM, BUS, alone=True)
    assert table(ask(alone)) == [("Wheels", "7"), ("All of Line", "7")]
    assert [row[0] for row in table(ask(apply_gesture(alone, ForgetJoint(name="wheels"), MODEL)))] == [
        "bus", "tram", "All of Line",
    ]  # fmt: skip


def test_it_opens_into_what_its_members_open_into() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS, alone=True)
    opened = replace(document, openings=(Opening(dimension="line", hierarchy="line", open=(path_of(document),)),))
    # Both have a team 1: each stands by itself.
    assert table(ask(opened)) == [
        ("Wheels", "7"), (" 1", "4"), (" 1", "2"), (" 2", "1"), ("without a line", "1"), ("All of Line", "8"),
    ]  # fmt: skip


def test_members_of_different_parents_stand_under_what_they_share() -> None:
    document = joined(question("boardings", rows=(by("line", "line"),)), "Chosen", TRAMS[0], ("bus", 1, "L3"))
    assert document.joints[0].members == (TRAMS[0], ("bus", 1, "L3"))
    assert ("Chosen", "6") in table(ask(replace(document, question=by_mode().question)))
    inside = joined(question("boardings", rows=(by("line", "mode"),)), "Team one's", ("tram", 1), ("tram", 2, "L2"))
    opened = replace(inside, openings=(Opening(dimension="line", hierarchy="line", levels=("mode",)),))
    assert (" Team one's", "3") in table(ask(opened))


def test_a_joint_member_of_one_equals_it_and_swapping_axes_transposes() -> None:
    document = joined(question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),)), "Same", TRAM)
    rows = {row[0]: row[1:] for row in table(ask(document))}
    assert rows["Same"] == rows["tram"]
    across = table(ask(apply_gesture(document, SwapAxes(), MODEL)))
    assert [row[1:] for row in across] == list(zip(*(row[1:] for row in table(ask(document))), strict=True))


def test_it_takes_part_in_limits_conditions_and_ranks() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    (placed,) = document.question.rows
    few = replace(document, question=replace(document.question, rows=(limited(placed, level="mode", amount=1),)))
    assert table(ask(few))[0] == ("Wheels", "7")
    rest = replace(
        document, question=replace(document.question, rows=(limited(placed, level="mode", amount=1, others=True),))
    )
    assert table(ask(rest)) == [("Wheels", "7"), ("others", "1"), ("All of Line", "8")]
    at = LevelName(dimension="line", hierarchy="line", level="mode")
    busy = MeasureFilter(measure="boardings", at=(at,), operator="more", values=(5,))
    assert table(ask(apply_gesture(document, PutFilter(condition=busy), MODEL)))[0] == ("Wheels", "7")


def test_runs_count_no_record_twice() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    views: tuple[View, ...] = (
        RunningTotal(along="rows"), Rank(along="rows"), CumulativeShare(along="rows"), Share(of="whole"),
    )  # fmt: skip
    for view, beside, alone in zip(
        views, (["4", "7", "", "8", "8"], ["1", "2", "", "3", ""], ["0.5", "0.875", "", "1", ""], ["0.5", "0.375", "0.875", "0.125", "1"]),
        (["7", "8", "8"], ["1", "2", ""], ["0.875", "1", ""], ["0.875", "0.125", "1"]), strict=True,
    ):  # fmt: skip
        measures = (PlacedMeasure(measure="boardings", view=view),)
        shown = replace(document, question=replace(document.question, measures=measures))
        assert [row[1] for row in table(ask(shown))] == beside, view
        out = apply_gesture(
            shown, FilterMembers(dimension="line", hierarchy="line", action="leave_out", members=(TRAM, BUS)), MODEL
        )
        assert [row[1] for row in table(ask(out))] == alone, view


def test_an_average_over_members_counts_what_it_joins_and_not_it_as_well() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    formula = read_formula('"Boardings" average over "Mode"', Vocabulary(MODEL, STAR.members)).expression
    made = apply_gesture(document, MakeMeasure(made=MadeMeasure(caption="Each", formula=formula)), MODEL)
    shown = replace(made, question=replace(made.question, measures=made.question.measures[1:]))
    # 4, 3 and 1, of which the mean is 8 / 3; what is joined is 7, one member of its level.
    assert [row[1] for row in table(ask(shown))] == ["4", "3", "7", "1", "2.66667"]


def test_a_measure_only_for_it_is_only_for_its_records() -> None:
    document = joined(question("boardings", rows=(by("band", "band"),)), "Wheels", TRAM, BUS)
    vocabulary = Vocabulary(MODEL, questioned(document).source.members)
    formula = read_formula('"Boardings" only "Line" = "Wheels"', vocabulary).expression
    made = apply_gesture(document, MakeMeasure(made=MadeMeasure(caption="On wheels", formula=formula)), MODEL)
    shown = replace(made, question=replace(made.question, measures=made.question.measures[1:]))
    assert [row[1] for row in table(ask(shown))] == ["7", "7"]
    with pytest.raises(InputError, match="is used by “On wheels”"):
        apply_gesture(made, ForgetJoint(name="wheels"), MODEL)
    lines = replace(shown, question=replace(shown.question, rows=(by("line", "mode"),)))
    assert [row[:2] for row in table(ask(lines))][:3] == [("bus", "4"), ("tram", "3"), ("Wheels", "7")]


def questioned(document: Analysis):  # type: ignore[no-untyped-def]
    return questioner_of(document, MODEL, STAR, EVERYTHING, TODAY, STAR.group, Budget())[0]


def test_the_sentence_says_what_it_joins_and_what_it_stands_for() -> None:
    beside, alone = joined(by_mode(), "Wheels", TRAM, BUS), joined(by_mode(), "Wheels", TRAM, BUS, alone=True)
    said = sentence_of(beside, MODEL, STAR.members)
    assert said.text == "Boardings by Mode, where Wheels joins tram and bus"
    assert (
        sentence_of(alone, MODEL, STAR.members).text == "Boardings by Mode, with Wheels in place of tram and bus (line)"
    )
    assert said.phrases[-1].path == path_of(beside)
    elsewhere = replace(beside, question=question("boardings", rows=(by("band", "band"),)).question)
    assert sentence_of(elsewhere, MODEL, STAR.members).text == "Boardings by Band"
    kept = apply_gesture(
        elsewhere, FilterMembers(dimension="line", hierarchy="line", action="keep", members=(path_of(beside),)), MODEL
    )
    assert (
        sentence_of(kept, MODEL, STAR.members).text
        == "Boardings by Band for Wheels (line), where Wheels joins tram and bus"
    )
    assert table(ask(kept))[-1] == ("All of Band", "7")


def test_it_can_be_typed_like_any_member_and_survives_the_document() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    kept = apply_gesture(
        document, FilterMembers(dimension="line", hierarchy="line", action="keep", members=(path_of(document),)), MODEL
    )
    vocabulary = Vocabulary(MODEL, questioned(document).source.members)
    text = write_words(kept, vocabulary)
    assert text.startswith("Boardings by Mode for Wheels")
    assert read_question(text, vocabulary).question == kept.question
    assert read_analysis(write_analysis(kept)) == kept


def test_steps_say_what_was_joined() -> None:
    document = by_mode()
    making = MakeJoint(joint=joint("Wheels", TRAM, BUS), alone=True)
    assert step_words(document, making, MODEL, STAR.members) == "joined tram and bus as Wheels, in their place"
    after = apply_gesture(document, making, MODEL)
    (made,) = after.joints
    renamed = ChangeJoint(joint=replace(made, caption="On wheels"))
    assert step_words(after, renamed, MODEL, STAR.members) == "called Wheels On wheels"
    assert step_words(after, ForgetJoint(name=made.name), MODEL, STAR.members) == "parted Wheels again"
    wider = apply_gesture(after, ChangeJoint(joint=replace(made, members=(TRAM, BUS, NONE))), MODEL)
    assert ("Wheels", "8") in table(ask(wider))


def test_offers_join_what_is_selected_and_part_it_again() -> None:
    document = by_mode()
    thing = Thing(kind="member", dimension="line", hierarchy="line", path=TRAM, more=(BUS,))
    assert [
        each.asks for each in offers_for(document, thing, MODEL, STAR.members) if each.words == "Join tram and bus…"
    ] == ["joint"]
    alone = joined(document, "Wheels", TRAM, BUS, alone=True)
    own = Thing(kind="member", dimension="line", hierarchy="line", path=path_of(alone))
    offered = {each.words: each.gesture for each in offers_for(alone, own, MODEL, STAR.members)}
    shown = apply_gesture(alone, offered["Show those that it joins beside it"], MODEL)  # type: ignore[arg-type]
    assert not shown.question.filters
    back = {each.words: each.gesture for each in offers_for(shown, own, MODEL, STAR.members)}
    assert apply_gesture(shown, back["Leave out those that it joins"], MODEL) == alone  # type: ignore[arg-type]
    parted = apply_gesture(alone, offered["Part Wheels again"], MODEL)  # type: ignore[arg-type]
    assert parted == document
    assert not [
        each for each in offers_for(document, replace(thing, more=()), MODEL, STAR.members) if each.asks == "joint"
    ]


def test_joining_a_joint_member_joins_its_members() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    wider = joined(document, "Everything", path_of(document), NONE, TRAMS[0])
    assert wider.joints[-1].members == (TRAM, BUS, NONE)
    assert ("Everything", "8") in table(ask(wider))


@pytest.mark.parametrize(
    ("bad", "message"),
    [
        (joint("", TRAM), "has no name"),
        (joint("Nothing"), "joins no members"),
        (joint("wheels", NONE), "Two joint members are called “wheels”"),
        (joint("Picked", ("rails",), hierarchy="picks"), "is a list"),
        (joint("Deep", ("tram", 1, "L1", "x")), "one key per level"),
        (joint("Far", TRAM, hierarchy="lime"), "lime"),
        (joint("Again", NONE, name="wheels"), "a joint member “wheels” already"),
    ],
)  # fmt: skip
def test_what_cannot_be_joined_says_why(bad: Joint, message: str) -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    with pytest.raises((InputError, NotFoundError), match=message):
        apply_gesture(document, MakeJoint(joint=bad), MODEL)


def test_one_whose_members_are_gone_leaves_the_rest_as_it_is() -> None:
    document = joined(by_mode(), "Gone", ("funicular",))
    assert table(ask(document)) == table(ask(by_mode()))
    assert fitted(document, MODEL) == (document, ())
    some = joined(by_mode(), "Some", ("funicular",), TRAM)
    assert ("Some", "3") in table(ask(some))


def test_its_header_names_what_it_joins_and_its_working_paper_agrees() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    running = replace(
        document,
        question=replace(
            document.question,
            measures=(
                PlacedMeasure(measure="boardings"),
                PlacedMeasure(measure="boardings", view=RunningTotal(along="rows")),
            ),
        ),
    )
    found = ask(running)
    rows = window_of(found, 0, 99, 0, 99).rows
    at = next(number for number, row in enumerate(rows) if row.caption == "Wheels")
    assert rows[at].members[-1].says == "joins tram and bus"
    asked = questioner_of(running, MODEL, STAR, EVERYTHING, TODAY, STAR.group, Budget())
    plain, runs = (
        account_of(found, place_of(found, at, column), *asked, asked[0].source.members, ()) for column in (0, 1)
    )
    assert (plain.value, plain.from_records, plain.agrees) == ("7", "7", True)
    assert plain.joins == ("Wheels joins tram and bus",)
    assert (runs.value, runs.why_no_value) == (
        None,
        "Wheels stands beside what it joins, which is counted in the row already.",
    )


def test_a_chart_adds_up_nothing_that_holds_the_same_records() -> None:
    beside, alone = joined(by_mode(), "Wheels", TRAM, BUS), joined(by_mode(), "Wheels", TRAM, BUS, alone=True)
    forms = [chart_of(ask(each), each.dress.chart, MODEL).forms for each in (beside, alone)]
    assert "ring" not in forms[0]
    assert "ring" in forms[1]


def test_it_stands_in_time_too_and_so_does_the_year_before() -> None:
    document = question("taps", rows=(by("calendar", "year"),))
    made = Joint(caption="Two", dimension="calendar", hierarchy="calendar", members=((2024,), NONE))
    rows = table(ask(apply_gesture(document, MakeJoint(joint=made), MODEL)))
    assert ("Two", "4") in rows


def test_a_filter_that_leaves_out_something_else_says_without() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    other = MemberFilter(dimension="line", hierarchy="line", action="leave_out", members=(TRAM,))
    after = apply_gesture(document, PutFilter(condition=other), MODEL)
    assert (
        sentence_of(after, MODEL, STAR.members).text
        == "Boardings by Mode, without tram (line), where Wheels joins tram and bus"
    )
    # The bus stands twice, in itself and in what is joined; the total has it once.
    assert table(ask(after)) == [("bus", "4"), ("Wheels", "7"), ("without a line", "1"), ("All of Line", "8")]


def gap(document: Analysis, one: MemberPath, other: MemberPath, alone: bool = False) -> Analysis:
    made = Joint(caption="Gap", dimension="line", hierarchy="line", members=(one, other), how="difference")
    return apply_gesture(document, MakeJoint(joint=made, alone=alone), MODEL)


def test_a_difference_is_the_first_less_the_second_in_every_column_and_adds_to_no_total() -> None:
    document = gap(question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),)), BUS, TRAM)
    # Fares: the bus has 4 of b, the trams 3 of a, and 1 without a line is of b.
    assert table(ask(document)) == [
        ("bus", "", "4", "4"), ("tram", "3", "", "3"), ("Gap", "-3", "4", "1"), ("without a line", "", "1", "1"),
        ("All of Line", "3", "5", "8"),
    ]  # fmt: skip
    across = table(ask(apply_gesture(document, SwapAxes(), MODEL)))
    assert across == [
        ("a", "", "3", "-3", "", "3"),
        ("b", "4", "", "4", "1", "5"),
        ("All of Fare", "4", "3", "1", "1", "8"),
    ]


def test_a_difference_is_of_what_is_shown_whatever_the_measure() -> None:
    # Cards are 1 and 1; fares 2.5 each for both.
    for measure, wanted in (("cards", "0"), ("fare_each", "0"), ("revenue", "2.5")):
        assert ("Gap", wanted) in table(ask(gap(by_mode(measure), BUS, TRAM)))


def test_a_difference_stays_what_it_is_where_its_two_are_left_out() -> None:
    document = gap(by_mode(), TRAM, BUS, alone=True)
    assert table(ask(document))[0] == ("Gap", "-1")
    assert (
        sentence_of(document, MODEL, STAR.members).text == "Boardings by Mode, with Gap in place of tram and bus (line)"
    )
    beside = gap(by_mode(), TRAM, BUS)
    assert sentence_of(beside, MODEL, STAR.members).text == "Boardings by Mode, where Gap is tram less bus"
    assert step_words(by_mode(), MakeJoint(joint=beside.joints[0]), MODEL, STAR.members) == "made Gap of tram less bus"


def test_a_difference_is_ranked_among_none_and_nothing_opens_it() -> None:
    document = gap(by_mode(), BUS, TRAM)
    (placed,) = document.question.rows
    few = replace(document, question=replace(document.question, rows=(limited(placed, level="mode", amount=2),)))
    assert [row[0] for row in table(ask(few))] == ["bus", "tram", "All of Line"]
    running = PlacedMeasure(measure="boardings", view=RunningTotal(along="rows"))
    runs = replace(document, question=replace(document.question, measures=(running,)))
    assert [row[1] for row in table(ask(runs))] == ["4", "7", "", "8", "8"]
    opened = replace(document, openings=(Opening(dimension="line", hierarchy="line", levels=("mode",)),))
    assert [row for row in table(ask(opened)) if row[0].strip() == "Gap"] == [("Gap", "1")]
    lower = replace(document, question=question("boardings", rows=(by("line", "line"),)).question)
    assert not [row for row in table(ask(lower)) if "Gap" in row[0]]


def test_a_difference_of_a_member_that_is_gone_has_no_place_and_one_of_one_is_refused() -> None:
    assert table(ask(gap(by_mode(), TRAM, ("funicular",)))) == table(ask(by_mode()))
    with pytest.raises(InputError, match="which is of two members"):
        apply_gesture(by_mode(), MakeJoint(joint=replace(joint("Gap", TRAM), how="difference")), MODEL)


def test_the_working_paper_of_a_difference_tells_both_numbers() -> None:
    document = gap(by_mode(), BUS, TRAM)
    found = ask(document)
    at = next(number for number, row in enumerate(window_of(found, 0, 99, 0, 99).rows) if row.caption == "Gap")
    asked = questioner_of(document, MODEL, STAR, EVERYTHING, TODAY, STAR.group, Budget())
    paper = account_of(found, place_of(found, at, 0), *asked, asked[0].source.members, ())
    assert (paper.value, paper.from_records, paper.agrees) == ("1", None, None)
    assert paper.why_not_compared == "Gap is bus less tram: 4 less 3. Behind it are the records of both."
    # Behind it are the records of both: three of them.
    assert [each.records for each in paper.operands] == [3]


def test_a_difference_that_its_name_tells_is_not_told_again() -> None:
    made = Joint(caption="bus less tram", dimension="line", hierarchy="line", members=(BUS, TRAM), how="difference")
    document = apply_gesture(by_mode(), MakeJoint(joint=made), MODEL)
    assert sentence_of(document, MODEL, STAR.members).text == "Boardings by Mode"
    assert step_words(by_mode(), MakeJoint(joint=made), MODEL, STAR.members) == "made bus less tram"
    found = ask(document)
    at = next(number for number, row in enumerate(window_of(found, 0, 99, 0, 99).rows) if row.caption == made.caption)
    asked = questioner_of(document, MODEL, STAR, EVERYTHING, TODAY, STAR.group, Budget())
    paper = account_of(found, place_of(found, at, 0), *asked, asked[0].source.members, ())
    assert (paper.joins, paper.why_not_compared) == ((), "bus less tram: 4 less 3. Behind it are the records of both.")


def share(document: Analysis, one: MemberPath, other: MemberPath, alone: bool = False) -> Analysis:
    made = Joint(caption="Share", dimension="line", hierarchy="line", members=(one, other), how="ratio")
    return apply_gesture(document, MakeJoint(joint=made, alone=alone), MODEL)


def test_a_ratio_is_the_first_by_the_second_in_every_column_and_adds_to_no_total() -> None:
    document = share(question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),)), TRAM, BUS)
    # Of fares b the trams have none, of a the bus: what is divided by nothing is empty.
    assert table(ask(document)) == [
        ("bus", "", "4", "4"), ("tram", "3", "", "3"), ("Share", "", "", "0.75"), ("without a line", "", "1", "1"),
        ("All of Line", "3", "5", "8"),
    ]  # fmt: skip
    assert table(ask(apply_gesture(document, SwapAxes(), MODEL)))[-1] == ("All of Fare", "4", "3", "0.75", "1", "8")
    assert sentence_of(document, MODEL, STAR.members).text.endswith("where Share is tram divided by bus")
    assert ("Share", "0.75") in table(ask(share(by_mode(), TRAM, BUS, alone=True)))
    headers = {each.caption: each for row in window_of(ask(document), 0, 9, 0, 9).rows for each in row.members}
    assert (headers["Share"].format, headers["tram"].format) == ("0.0 %", None)


def test_a_ratio_of_what_a_measure_was_earlier_stands_and_one_of_changes_does_not() -> None:
    shows = [
        PlacedMeasure(measure="boardings", view=view) for view in (None, Share(of="whole"), RunningTotal(along="rows"))
    ]
    document = share(by_mode(), TRAM, BUS)
    found = ask(replace(document, question=replace(document.question, measures=tuple(shows))))
    at = next(number for number, row in enumerate(window_of(found, 0, 99, 0, 99).rows) if row.caption == "Share")
    assert window_of(found, 0, 99, 0, 99).values[at] == (0.75, None, None)


def test_the_working_paper_of_a_ratio_tells_both_numbers_and_why_there_is_none() -> None:
    document = share(question("boardings", rows=(by("line", "mode"),), columns=(by("fare", "family"),)), TRAM, BUS)
    found = ask(document)
    at = next(number for number, row in enumerate(window_of(found, 0, 99, 0, 99).rows) if row.caption == "Share")
    asked = questioner_of(document, MODEL, STAR, EVERYTHING, TODAY, STAR.group, Budget())
    paper = account_of(found, place_of(found, at, 2), *asked, asked[0].source.members, ())
    assert (paper.value, paper.in_percent) == ("0.75", True)
    assert paper.why_not_compared == "Share is tram divided by bus: 3 divided by 4. Behind it are the records of both."


def test_a_ratio_is_left_out_of_charts_of_its_members() -> None:
    drawn = chart_of(ask(share(by_mode(), TRAM, BUS)), Chart(), MODEL)
    assert "Share" not in str(drawn.categories)


def test_a_difference_may_be_of_a_member_and_one_below_it() -> None:
    document = gap(by_mode(), TRAM, TRAMS[0])
    assert ("Gap", "1") in table(ask(document))


def test_lines_of_different_modes_stand_among_lines_and_wherever_these_would() -> None:
    lines = question("boardings", rows=(by("line", "line"),))
    document = joined(lines, "Chosen", TRAMS[0], ("bus", 1, "L3"), alone=True)
    # Among the lines, in the place of those that it joins.
    assert table(ask(document)) == [("L2", "1"), ("Chosen", "6"), ("without a line", "1"), ("All of Line", "8")]
    # Among the modes it stands beside them: the trams have a line left, the bus none.
    modes = replace(document, question=replace(document.question, rows=by_mode().question.rows))
    assert table(ask(modes)) == [("tram", "1"), ("Chosen", "6"), ("without a line", "1"), ("All of Line", "8")]
    opened = replace(modes, openings=(Opening(dimension="line", hierarchy="line", levels=("mode", "team")),))
    assert [row for row in table(ask(opened)) if row[0].strip() == "Chosen"] == [("Chosen", "6")]


def test_what_is_kept_by_what_it_stands_under_is_left_out_beside_that() -> None:
    kept = apply_gesture(
        question("boardings", rows=(by("line", "line"),)),
        FilterMembers(dimension="line", hierarchy="line", action="keep", members=(TRAM, BUS)), MODEL,
    )  # fmt: skip
    document = joined(kept, "Chosen", TRAMS[0], ("bus", 1, "L3"), alone=True)
    assert table(ask(document)) == [("L2", "1"), ("Chosen", "6"), ("All of Line", "7")]


def test_what_is_changed_is_followed_by_all_that_names_it_and_by_what_it_stands_for() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS, alone=True)
    wider = apply_gesture(document, ChangeJoint(joint=replace(document.joints[0], members=(TRAM, BUS, NONE))), MODEL)
    assert table(ask(wider)) == [("Wheels", "8"), ("All of Line", "8")]
    kept = apply_gesture(
        joined(by_mode(), "Wheels", TRAM, BUS),
        FilterMembers(dimension="line", hierarchy="line", action="keep", members=(("joint:wheels",),)), MODEL,
    )  # fmt: skip
    # Of two lines of different modes it stands further down, and is kept there.
    lower = replace(kept.joints[0], members=(TRAMS[0], ("bus", 1, "L3")))
    assert table(ask(apply_gesture(kept, ChangeJoint(joint=lower), MODEL))) == [("Wheels", "6"), ("All of Line", "6")]


def test_it_is_named_once_wherever_it_stands() -> None:
    document = joined(question("boardings", rows=(by("line", "line"),)), "Chosen", TRAMS[0], ("bus", 1, "L3"))
    vocabulary = Vocabulary(MODEL, with_made_members(STAR.members, gap(document, BUS, TRAM)))
    for path, words in ((("joint:chosen",) * 3, "for Chosen"), (("joint:gap",), "for Gap")):
        kept = apply_gesture(
            gap(document, BUS, TRAM),
            FilterMembers(dimension="line", hierarchy="line", action="keep", members=(path,)), MODEL,
        )  # fmt: skip
        text = write_words(kept, vocabulary)
        assert f"{words}, " in f"{text}, "
        assert read_question(text, vocabulary).question == kept.question


def test_a_name_that_a_member_beside_it_has_is_refused() -> None:
    making = MakeJoint(joint=joint("Bus", TRAM, NONE))
    with pytest.raises(InputError, match="has a member “Bus” already"):
        making.check_members(STAR.members)
    MakeJoint(joint=joint("L1", TRAM, NONE)).check_members(STAR.members)


def test_only_the_made_measures_that_name_it_use_it() -> None:
    document = joined(by_mode(), "Wheels", TRAM, BUS)
    on_it = Change(on="member", dimension="line", hierarchy="line", path=("joint:wheels",))
    shown = replace(
        document,
        question=replace(document.question, measures=(PlacedMeasure(measure="boardings", view=on_it),)),
        made=(MadeMeasure(name="made_two", caption="Two", formula=NumberOf(digits="2")),),
    )
    with pytest.raises(InputError, match="“Wheels” is used by a filter or a view"):
        apply_gesture(shown, ForgetJoint(name="wheels"), MODEL)
