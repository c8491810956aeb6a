"""Joint members of a model in an analysis: taken in, told anew as the model tells them, kept where it has them no more.

Boardings are 2 and 1 of the trams L1 and L2, 4 of the bus L3 and 1 of none.
"""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.following import effect_on
from dastan.core.analysis.gestures import ChangeJoint, FilterMembers, ForgetJoint, TakeInJoint, apply_gesture
from dastan.core.analysis.lost import fitted
from dastan.core.analysis.moving import moved
from dastan.core.analysis.taken_joints import with_joints_of_model
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import MemberFilter
from dastan.core.model.differences import differences, touched
from dastan.core.model.document import ModelJoint, SemanticModel
from dastan.core.model.gestures import LeaveOutDimension, LeaveOutJoint, PutJoint, apply_to_model
from tests.core.analysis.test_joining import BUS, NONE, TRAM, joined
from tests.core.asked import STAR, ask, by, question, table

MODEL = STAR.declared

WHEELS = ModelJoint(name="wheels", caption="Wheels", dimension="line", hierarchy="line", members=(TRAM, BUS))
SHARED = apply_to_model(MODEL, PutJoint(joint=WHEELS))
LINES = question("boardings", rows=(by("line", "mode"),))


def taken_in(model: SemanticModel = SHARED, alone: bool = False) -> Analysis:
    return apply_gesture(LINES, TakeInJoint(name="wheels", alone=alone), model)


def rows(document: Analysis) -> dict[str, str]:
    return {each[0]: each[-1] for each in table(ask(document))}


def test_it_is_the_models_and_follows_it() -> None:
    document = taken_in()
    (joint,) = document.joints
    assert (joint.of_model, joint.members) == (True, (TRAM, BUS))
    assert rows(document)["Wheels"] == "7"
    narrower = apply_to_model(SHARED, PutJoint(joint=replace(WHEELS, caption="Rails", members=(TRAM,))))
    after, lost = fitted(document, narrower)
    assert (after.joints[0].caption, after.joints[0].members, lost) == ("Rails", (TRAM,), ())
    assert rows(after)["Rails"] == "3"


def kept_of(document: Analysis) -> list[tuple[object, ...]]:
    """The members of every filter of a document, all of which are of members."""
    return [each.members if isinstance(each, MemberFilter) else () for each in document.question.filters]


def test_what_is_left_out_in_its_favour_and_what_keeps_it_follow() -> None:
    document = taken_in(alone=True)
    assert kept_of(document) == [(TRAM, BUS)]
    wider = apply_to_model(SHARED, PutJoint(joint=replace(WHEELS, members=(TRAM, BUS, NONE))))
    after = with_joints_of_model(document, wider)
    assert kept_of(after) == [(TRAM, BUS, NONE)]
    assert rows(after) == {"All of Line": "8", "Wheels": "8"}
    # From the modes to the trams' lines it stands elsewhere, and a filter that keeps it follows it there.
    kept = apply_gesture(
        taken_in(), FilterMembers(dimension="line", hierarchy="line", action="keep", members=(("joint:wheels",),)), SHARED
    )  # fmt: skip
    lower = apply_to_model(SHARED, PutJoint(joint=replace(WHEELS, members=(("tram", 1), ("tram", 2)))))
    after = with_joints_of_model(kept, lower)
    assert kept_of(after) == [(("tram", "joint:wheels"),)]


def test_one_that_the_model_has_no_more_stays_with_the_same_numbers() -> None:
    document = taken_in()
    without = apply_to_model(SHARED, LeaveOutJoint(name="wheels"))
    after, lost = fitted(document, without)
    assert (after.joints[0].of_model, lost) == (False, ())
    assert rows(after) == rows(document)
    with pytest.raises(NotFoundError, match="no joint member “wheels” any more"):
        taken_in(without)


def test_one_that_was_made_here_is_the_models_once_it_is_moved_and_another_is_never_mistaken_for_it() -> None:
    document = joined(LINES, "Wheels", TRAM, BUS)
    (own,) = document.joints
    (gesture,) = moved(document, MODEL, "joint member", own.name)
    model = apply_to_model(MODEL, gesture)
    assert [(each.caption, each.members) for each in model.joints] == [("Wheels", (TRAM, BUS))]
    assert with_joints_of_model(document, model).joints[0].of_model
    # One of the same name that joins others stays what it is.
    other = replace(document, joints=(replace(own, members=(TRAM, NONE)),))
    assert with_joints_of_model(other, model) is other
    with pytest.raises(InputError, match="another joint member of the name of “Wheels”"):
        moved(other, model, "joint member", own.name)
    with pytest.raises(InputError):
        apply_gesture(other, TakeInJoint(name=own.name), model)


def test_changed_here_it_becomes_one_of_the_analysis() -> None:
    document = taken_in()
    changed = apply_gesture(document, ChangeJoint(joint=replace(document.joints[0], members=(TRAM, NONE))), SHARED)
    (own,) = changed.joints
    assert (own.of_model, own.members) == (False, (TRAM, NONE))
    assert own.name != "wheels"
    assert with_joints_of_model(changed, SHARED) is changed
    assert apply_gesture(document, ForgetJoint(name="wheels"), SHARED) == LINES


def test_a_model_says_what_is_wrong_with_one() -> None:
    for wrong, words in (
        (replace(WHEELS, members=()), "joins no members"),
        (replace(WHEELS, members=(("joint:other",),)), "joins a joint member"),
        (replace(WHEELS, hierarchy="lien"), "no hierarchy “lien”"),
        (replace(WHEELS, dimension="lien"), "Dimension “lien” is not in the model"),
        (replace(WHEELS, how="ratio", members=(TRAM, BUS, NONE)), "is of two members"),
        (replace(WHEELS, name="again"), "Two joint members are called “Wheels”"),
        (replace(WHEELS, members=((1, 2, 3, 4),)), "too many keys"),
    ):
        with pytest.raises(InputError, match=words):
            apply_to_model(SHARED, PutJoint(joint=wrong))


def test_what_a_publication_does_to_analyses_that_took_it_in() -> None:
    document = taken_in()
    changed = apply_to_model(SHARED, PutJoint(joint=replace(WHEELS, members=(TRAM,))))
    found = differences(SHARED, changed)
    assert [each.words for each in found] == ["The joint member Wheels is changed: its members."]
    touches = touched(SHARED, changed)
    effect = effect_on(document, SHARED, changed, found, touches)
    assert effect is not None
    assert (effect.kind, effect.words) == ("changes", ("Wheels",))
    assert effect_on(LINES, SHARED, changed, found, touches) is None
    # A dimension that goes takes it along, and says so.
    without_roles = replace(SHARED, roles=())
    assert apply_to_model(without_roles, LeaveOutDimension(name="line")).joints == ()
