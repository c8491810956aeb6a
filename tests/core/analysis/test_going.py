"""Going down and across, setting aside, moving the measures, and asking on opening: nothing else is lost by any of it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dastan.core.analysis.document import Analysis, Limit, Opening, PlacedMeasure, PlacedMember, Question, Under
from dastan.core.analysis.gestures import (
    AnswerPrompt,
    AskOnOpening,
    BreakDown,
    CloseAll,
    FilterMembers,
    Gesture,
    GoInto,
    OpenAll,
    OpenLevel,
    PlaceMeasures,
    PutDimension,
    PutFilter,
    PutMeasure,
    Rewrite,
    SetAside,
    SetLimit,
    ShowLevel,
    StopAsking,
    StopBreakingDown,
    SwapAxes,
    TakeDimension,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.going import ways_back
from dastan.core.analysis.offer import Offer, Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.prompts import Answers, prompts_of
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import (
    AttributeFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PromptAnswer,
    PromptRef,
)
from tests.core.asked import by
from tests.core.engine.test_oracle import analyses
from tests.core.named import HierarchyNamed
from tests.core.star import after, star

SOURCE = star()
LINE: HierarchyNamed = {"dimension": "line", "hierarchy": "line"}
FARE: HierarchyNamed = {"dimension": "fare", "hierarchy": "fare"}
BAND: HierarchyNamed = {"dimension": "band", "hierarchy": "band"}
TABLE = (
    PutMeasure(measure="boardings"), PutMeasure(measure="taps"), PutDimension(**LINE, axis="rows"),
    PutDimension(**FARE, axis="columns"),
)  # fmt: skip
TRAM = Under(members=(PlacedMember(**LINE, path=("tram",)),))


def text(document: Analysis) -> str:
    return sentence_of(document, SOURCE.model, SOURCE.members).text


def words(document: Analysis, gesture: object) -> str:
    return step_words(document, gesture, SOURCE.model, SOURCE.members)  # type: ignore[arg-type]


def offered(document: Analysis, **thing: object) -> list[Offer]:
    return list(offers_for(document, Thing(**thing), SOURCE.model, SOURCE.members))  # type: ignore[arg-type]


def test_all_is_opened_and_closed() -> None:
    opened = after(SOURCE, *TABLE, OpenAll(**LINE))
    assert opened.opening("line", "line") == Opening(**LINE, levels=("mode", "team"))
    assert apply_gesture(opened, CloseAll(**LINE), SOURCE.model).opening("line", "line") == Opening(**LINE)


def test_one_level_alone_of_this_hierarchy_or_of_another() -> None:
    document = after(SOURCE, *TABLE, OpenLevel(**LINE, level="mode"))
    teams = apply_gesture(document, ShowLevel(**LINE, level="team"), SOURCE.model)
    assert text(teams) == "Boardings and Taps by Team against Family"
    regions = ShowLevel(dimension="line", hierarchy="area", level="region", instead_of="line")
    swapped = apply_gesture(teams, regions, SOURCE.model)
    assert text(swapped) == "Boardings and Taps by Region against Family"
    assert words(teams, regions) == "only regions"
    # What was open in the hierarchy that left is there when it comes back.
    assert swapped.opening("line", "line") == teams.opening("line", "line")
    with pytest.raises(InputError, match="stands twice"):
        apply_gesture(
            apply_gesture(swapped, PutDimension(**LINE, axis="rows"), SOURCE.model),
            replace(regions, hierarchy="line", level="mode", instead_of="area"), SOURCE.model,
        )  # fmt: skip


def test_into_a_member_and_back_along_the_path() -> None:
    document = after(SOURCE, *TABLE, FilterMembers(**FARE, action="leave_out", members=(("b",),)))
    inside = apply_gesture(document, GoInto(**LINE, path=("tram",)), SOURCE.model)
    assert text(inside) == "Boardings and Taps by Team against Family for tram (line), without b (fare)"
    (way,) = ways_back(inside, SOURCE.model, SOURCE.members)
    assert (way.captions, way.path) == (("All of Line", "tram"), ("tram",))
    deeper = apply_gesture(inside, GoInto(**LINE, path=("tram", 1)), SOURCE.model)
    assert ways_back(deeper, SOURCE.model, SOURCE.members)[0].captions == ("All of Line", "tram", "1")
    assert apply_gesture(deeper, GoInto(**LINE, path=("tram",)), SOURCE.model) == inside
    assert apply_gesture(inside, GoInto(**LINE), SOURCE.model) == document
    assert words(inside, GoInto(**LINE)) == "came back to all of Line"
    with pytest.raises(InputError, match="nothing below"):
        apply_gesture(document, GoInto(**LINE, path=("tram", 1, "L1")), SOURCE.model)
    # Several members that were kept before are still kept on the way back.
    several = apply_gesture(document, FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",))), SOURCE.model)
    through = apply_gesture(several, GoInto(**LINE, path=("tram",)), SOURCE.model)
    assert "for tram and bus (line), and for tram (line)" in text(through)
    assert apply_gesture(through, GoInto(**LINE), SOURCE.model) == several


def test_broken_down_here_only_then_for_all() -> None:
    here = BreakDown(**BAND, axis="rows", under=TRAM)
    document = after(SOURCE, *TABLE, here)
    assert text(document) == "Boardings and Taps by Mode then Band under tram only against Family"
    assert words(document, here) == "broke tram down by Band"
    bus = Under(members=(PlacedMember(**LINE, path=("bus",)),))
    both = apply_gesture(document, BreakDown(**BAND, axis="rows", under=bus), SOURCE.model)
    assert "under tram and bus only" in text(both)
    assert apply_gesture(both, StopBreakingDown(**BAND, under=bus), SOURCE.model) == document
    assert apply_gesture(document, StopBreakingDown(**BAND, under=TRAM), SOURCE.model) == after(SOURCE, *TABLE)
    everywhere = apply_gesture(both, BreakDown(**BAND, axis="rows"), SOURCE.model)
    assert text(everywhere) == "Boardings and Taps by Mode then Band against Family"
    with pytest.raises(InputError, match="stands in the table already"):
        apply_gesture(everywhere, here, SOURCE.model)


def test_a_member_s_menu_goes_in_breaks_down_and_takes_it_back() -> None:
    thing = {"kind": "member", **LINE, "path": ("tram",), "row": (PlacedMember(**LINE, path=("tram",)),)}
    document = after(SOURCE, *TABLE)
    found = offered(document, **thing)
    assert "Go into tram" in [each.words for each in found]
    under = {each.under: [one.words for one in found if one.under == each.under] for each in found if each.under}
    assert "Band" in under["Break tram down by"]
    assert "Fare" not in under["Break all down by"]
    broken = apply_gesture(document, BreakDown(**BAND, axis="rows", under=TRAM), SOURCE.model)
    assert "No longer break tram down by Band" in [each.words for each in offered(broken, **thing)]


def test_several_members_are_kept_or_left_out_together() -> None:
    found = offered(after(SOURCE, *TABLE), kind="member", **LINE, path=("tram",), more=(("bus",), ("ferry",)))
    gestures = {each.words: each.gesture for each in found}
    keep = gestures["Keep only tram, bus and 1 more"]
    assert keep == FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",), ("ferry",)))


def test_a_cell_narrows_orders_and_breaks_down() -> None:
    cell = {"row": (PlacedMember(**LINE, path=("tram",)),), "column": (PlacedMember(**FARE, path=("a",)),)}
    found = [each.words for each in offered(after(SOURCE, *TABLE), kind="cell", measure="taps", **cell)]
    orders = {"Modes largest first in a", "Families largest first in tram"}
    assert {"Keep only tram", "Keep only a"} | orders <= set(found)
    assert "Band" in found


def test_what_stands_outside_is_ordered_too_from_a_cell_and_from_the_measure() -> None:
    nested = after(SOURCE, *TABLE, PutDimension(**BAND, axis="rows"))
    cell = {"row": (PlacedMember(**LINE, path=("tram",)), PlacedMember(**BAND, path=("x",)))}
    for thing in ({"kind": "cell", "measure": "taps", **cell}, {"kind": "measure", "measure": "taps"}):
        orders = {each.words: each.gesture for each in offered(nested, **thing) if each.under == "Order by it"}
        assert {"Modes largest first", "Bands largest first"} <= set(orders)
        largest_first = orders["Modes largest first"]
        assert largest_first is not None
        assert text(apply_gesture(nested, largest_first, SOURCE.model)).endswith("Mode ordered by Taps, largest first")


def test_set_aside_just_as_it_stood_and_put_back_so() -> None:
    limit = Limit(level="mode", amount=1, by=PlacedMeasure(measure="taps"))
    document = after(SOURCE, *TABLE, SetLimit(**LINE, level="mode", limit=limit))
    aside = apply_gesture(document, SetAside(**LINE), SOURCE.model)
    assert text(aside) == "Boardings and Taps against Family; at hand Mode"
    assert apply_gesture(aside, PutDimension(**LINE, axis="rows"), SOURCE.model) == document
    assert apply_gesture(aside, TakeDimension(**LINE), SOURCE.model).question.waiting == ()
    assert apply_gesture(aside, SetAside(**BAND), SOURCE.model).question.waiting[1] == by("band", "band")


def test_the_measures_move_as_a_group_and_stay_among_the_hierarchies() -> None:
    document = after(SOURCE, *TABLE, PutDimension(**BAND, axis="rows"), PlaceMeasures(axis="rows", at=1))
    assert text(document).endswith("against Family, the measures on rows outside Band")
    assert document.question.outside_measures == 1
    # A hierarchy put outside them pushes them in; one taken from outside lets them out.
    outer = apply_gesture(document, PutDimension(dimension="line", hierarchy="area", axis="rows", at=0), SOURCE.model)
    assert outer.question.outside_measures == 2
    assert apply_gesture(outer, TakeDimension(**LINE), SOURCE.model).question.outside_measures == 1
    turned = apply_gesture(document, SwapAxes(), SOURCE.model)
    assert (turned.question.measures_on, turned.question.outside_measures) == ("columns", 1)
    places = {each.words for each in offered(document, kind="measures")}
    assert places == {
        "Measures on rows", "Measures on rows outside Mode", "Measures on columns", "Measures on columns outside Family",
    }  # fmt: skip
    with pytest.raises(InputError, match="before the first place"):
        apply_gesture(document, PlaceMeasures(axis="rows", at=-1), SOURCE.model)


def test_members_or_a_value_are_asked_for_on_opening_and_fixed_again() -> None:
    kept = after(SOURCE, *TABLE, FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",))))
    asked = apply_gesture(kept, AskOnOpening(at=0, caption=" Which modes? "), SOURCE.model)
    (prompt,) = prompts_of(asked.question, SOURCE.model)
    assert (prompt.caption, prompt.members, prompt.many) == ("Which modes?", (("tram",), ("bus",)), True)
    assert "for tram and bus (line; asked on opening)" in text(asked)
    answer = AnswerPrompt(answer=PromptAnswer(prompt=prompt.name, members=(("bus",),)))
    answered = apply_gesture(asked, answer, SOURCE.model)
    fixed = apply_gesture(answered, StopAsking(at=0), SOURCE.model)
    assert fixed.question.filters == (MemberFilter(**LINE, members=(("bus",),)),)
    assert (fixed.question.prompts, fixed.question.answers) == ((), ())
    level = LevelName(dimension="line", hierarchy="line", level="mode")
    many = MeasureFilter(measure="taps", at=(level,), operator="more", values=(3,))
    document = after(SOURCE, *TABLE, PutFilter(condition=many))
    asked = apply_gesture(document, AskOnOpening(at=0, caption="More than?", many=False), SOURCE.model)
    assert asked.question.filters[0].values == (PromptRef(prompt="asked_1"),)  # type: ignore[union-attr]
    assert (asked.question.prompts[0].type, asked.question.prompts[0].values) == ("number", (3,))
    with pytest.raises(InputError, match="needs words"):
        apply_gesture(document, AskOnOpening(at=0, caption=" "), SOURCE.model)
    with pytest.raises(InputError, match="no such filter"):
        apply_gesture(document, StopAsking(at=4), SOURCE.model)


def test_one_answer_is_enough_where_one_is_asked_for() -> None:
    kept = after(SOURCE, *TABLE, FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",))))
    asked = apply_gesture(kept, AskOnOpening(at=0, caption="Which mode?", many=False), SOURCE.model)
    assert asked.question.prompts[0].members == (("tram",),)
    two = AnswerPrompt(answer=PromptAnswer(prompt="asked_1", members=(("tram",), ("bus",))))
    answered = apply_gesture(asked, two, SOURCE.model)
    with pytest.raises(InputError, match="takes one answer"):
        Answers(answered.question, SOURCE.model).members("asked_1")


def test_a_rewritten_question_is_checked_and_what_is_open_stays() -> None:
    document = after(SOURCE, *TABLE, OpenLevel(**LINE, level="mode"))
    question = Question(measures=(PlacedMeasure(measure="taps"),), rows=(by("line", "mode"),))
    rewritten = apply_gesture(document, Rewrite(question=question), SOURCE.model)
    assert rewritten.question == question
    assert rewritten.openings == document.openings
    with pytest.raises(NotFoundError):
        apply_gesture(document, Rewrite(question=Question(measures=(PlacedMeasure(measure="gone"),))), SOURCE.model)
    unreached = Question(measures=(PlacedMeasure(measure="repairs"),), rows=(by("fare", "family"),))
    with pytest.raises(InputError, match="does not reach"):
        apply_gesture(document, Rewrite(question=unreached), SOURCE.model)


def test_a_condition_on_an_attribute_can_be_left_out_instead() -> None:
    red = AttributeFilter(dimension="line", attribute="colour", operator="equal", values=("red",))
    document = after(SOURCE, *TABLE, PutFilter(condition=red))
    found = {each.words: each for each in offered(document, kind="filter", at=0)}
    assert found["Change this filter…"].asks == "condition"
    turned = apply_gesture(document, found["Leave these out instead"].gesture, SOURCE.model)  # type: ignore[arg-type]
    assert turned.question.filters == (replace(red, action="leave_out"),)


@given(analyses(), st.sampled_from(["rows", "columns"]), st.sampled_from([None, 0, 1]))
def test_going_down_and_across_loses_nothing_that_was_set(document: Analysis, axis: str, at: int | None) -> None:
    """Whatever the document: filters, orders and limits are still there, but for the one that a gesture is about."""
    question = document.question
    gestures: list[Gesture] = [PlaceMeasures(axis=axis, at=at), SwapAxes()]  # type: ignore[arg-type]
    for placed in (*question.rows, *question.columns):
        own: HierarchyNamed = {"dimension": placed.dimension, "hierarchy": placed.hierarchy}
        gestures += [OpenAll(**own), CloseAll(**own), SetAside(**own)]
    for gesture in gestures:
        done = apply_gesture(document, gesture, SOURCE.model).question
        assert done.filters == question.filters
        assert done.measures == question.measures
        kept = {each.hierarchy: each for each in (*done.rows, *done.columns, *done.waiting)}
        assert kept == {each.hierarchy: each for each in (*question.rows, *question.columns)}
