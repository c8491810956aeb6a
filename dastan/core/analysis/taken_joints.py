"""Joint members of the model in an analysis: taken in by name, and told anew as the model tells them."""

from __future__ import annotations

from dataclasses import fields, replace

from dastan.core.analysis.captions import Members, listed, member_caption
from dastan.core.analysis.condition_words import MEMBERS_IN_FULL
from dastan.core.analysis.document import Analysis, Joint
from dastan.core.analysis.joints import joining_of, left_out_by
from dastan.core.analysis.member_paths import with_member_paths
from dastan.core.analysis.placing import with_question
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import ModelJoint, SemanticModel
from dastan.core.model.joints import told_joined
from dastan.core.model.parts import MemberPath


def taken(joint: ModelJoint) -> Joint:
    """A joint member of the model as an analysis has it."""
    return Joint(**{each.name: getattr(joint, each.name) for each in fields(ModelJoint)}, of_model=True)


def as_of_model(joint: Joint) -> ModelJoint:
    """A joint member of an analysis as a model has it."""
    return ModelJoint(**{each.name: getattr(joint, each.name) for each in fields(ModelJoint)})


def joint_words(joint: ModelJoint, members: Members) -> str:
    """What it is of those that are there: "joins Tram, Metro and 3 more", "is Tram less Metro"."""
    known = members(joint.dimension, joint.hierarchy)
    captions = [member_caption(path, known) for path in joint.members if known.find(path) is not None]
    if joint.how != "together" or len(captions) <= MEMBERS_IN_FULL + 1:
        return told_joined(captions, joint.how) if captions else "joins nothing that is in the data"
    shown = captions[:MEMBERS_IN_FULL]
    return f"joins {listed(shown, len(captions) - len(shown))}"


def with_joints_of_model(document: Analysis, model: SemanticModel) -> Analysis:
    """The document with what it took in as the model says it is now. What the model has no more stays, as the
    analysis's own; and what it made that the model has just so by now is the model's."""
    known = {each.name: each for each in model.joints}
    for each in document.joints:
        if not each.of_model and known.get(each.name) != as_of_model(each):
            continue
        theirs = known.get(each.name)
        now = replace(each, of_model=False) if theirs is None else taken(theirs)
        if now != each:
            document = retold(document, each, now, model)
    return document


def retold(document: Analysis, was: Joint, now: Joint, model: SemanticModel) -> Analysis:
    """The document with a joint member told anew: whatever names it follows, and so does what is left out in its
    favour."""
    after = replace(document, joints=tuple(now if each == was else each for each in document.joints))
    if not now.members or (now.members, now.name) == (was.members, was.name):
        return after
    own, old, new = (was.dimension, was.hierarchy), joining_of(was).path, joining_of(now).path

    def moved(dimension: str, hierarchy: str, path: MemberPath) -> MemberPath:
        is_its = (dimension, hierarchy) == own and path[: len(old)] == old
        return (*new, *path[len(old) :]) if is_its else path

    after = with_member_paths(after, model, moved)
    return with_question(after, filters=tuple(_left_out(each, was, now) for each in after.question.filters))


def _left_out(condition: Condition, was: Joint, now: Joint) -> Condition:
    """A filter that leaves out those that a joint member joined, with those that it joins now."""
    out = left_out_by(condition, was)
    if not isinstance(condition, MemberFilter) or not out or not set(was.members) <= set(out):
        return condition
    left = [path for path in out if path not in was.members]
    return replace(condition, members=tuple(dict.fromkeys((*left, *now.members))))
