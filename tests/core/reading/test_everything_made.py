"""All that is made, in one list."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Joint, MadeMeasure, WayDown, WayStep
from dastan.core.analysis.gestures import AskOnOpening, MakeJoint, MakeMeasure, PutFilter, apply_gesture
from dastan.core.language.reading import read_formula
from dastan.core.model.conditions import MemberFilter, ReadyFilter
from dastan.core.reading.everything_made import MadeThing, everything_made
from dastan.core.words.vocabulary import Vocabulary
from tests.core.asked import STAR, by, question

MODEL = STAR.model


def listed(document: Analysis) -> dict[tuple[str, str], MadeThing]:
    return {(each.kind, each.caption): each for each in everything_made(document, MODEL, STAR.members)}


def document() -> Analysis:
    found = question("boardings", rows=(by("line", "mode"),))
    formula = read_formula('"Revenue" / "Boardings"', Vocabulary(MODEL, STAR.members)).expression
    found = apply_gesture(found, MakeMeasure(made=MadeMeasure(caption="A head", formula=formula)), MODEL)
    members = (("tram",), ("funicular",))
    joint = Joint(caption="Rails", dimension="line", hierarchy="line", members=members)
    return apply_gesture(found, MakeJoint(joint=joint), MODEL)


def test_the_analysis_s_own_come_first_with_what_they_are_and_where_they_are_used() -> None:
    found = listed(document())
    head = found["measure", "A head"]
    assert (head.of, head.says, head.text) == ("analysis", "Revenue per Boardings", '"Revenue" / "Boardings"')
    assert head.used_by == ("the table",)
    rails = found["joint member", "Rails"]
    assert (rails.says, rails.used_by) == ("joins tram and funicular (not in the data)", ("the table",))
    assert rails.fault == "1 of 2 are not in the data"
    assert rails.path == ("joint:rails",)
    assert [each.of for each in found.values()] == sorted(each.of for each in found.values())


def test_the_model_s_measures_filters_and_sets_stand_there_too() -> None:
    found = listed(document())
    boardings = found["measure", "Boardings"]
    assert (boardings.of, boardings.says) == ("model", "the sum of boardings in taps")
    assert set(boardings.used_by) == {"the table", "“A head”", "“Fare each”"}
    assert found["measure", "Fare each"].says == "Revenue ÷ Boardings"
    assert found["filter", "rails"].says == "for tram line"
    assert found["sets", "Picks"].says == "of Rails, First teams and East"
    named = apply_gesture(document(), PutFilter(condition=ReadyFilter(name="rails_only")), MODEL)
    assert listed(named)["filter", "rails"].used_by == ("a filter",)


def test_questions_and_ways_down_are_made_as_well() -> None:
    found = replace(
        document(),
        ways_down=(
            WayDown(
                caption="Down", steps=(
                    WayStep(dimension="line", hierarchy="line", level="mode"),
                    WayStep(dimension="fare", hierarchy="fare", level="family"),
                ),
            ),
        ),
    )  # fmt: skip
    kept = MemberFilter(dimension="fare", hierarchy="fare", members=(("a",),))
    asked = apply_gesture(
        apply_gesture(found, PutFilter(condition=kept), MODEL), AskOnOpening(at=0, caption="Which?"), MODEL
    )
    things = listed(asked)
    assert things["way down", "Down"].says == "goes through 2 hierarchies"
    assert (things["question", "Which?"].used_by, things["question", "Which?"].at) == (("the filter on a",), 0)
