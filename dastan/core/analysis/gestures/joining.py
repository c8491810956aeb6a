"""Gestures on joint members."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members, listed, member_caption
from dastan.core.analysis.document import Analysis, Joint
from dastan.core.analysis.gestures.filters import plain_filter
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.joints import check_name, find_joint, joining_of, joint_used_by, named_joint
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.taken_joints import retold, taken
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import SemanticModel
from dastan.core.model.joints import told_of_two
from dastan.core.model.parts import MemberPath

_NAMED = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeJoint(Step):
    """Joins members into one that has the records of all, each once. With `alone` those that it joins are left out of
    the table, which takes nothing from it."""

    joint: Joint
    alone: bool = False
    kind: Literal["make_joint"] = "make_joint"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        joint = named_joint(self.joint, document, model)
        after = replace(document, joints=(*document.joints, joint))
        if not joint.members:
            return after
        path, own = joining_of(joint).path, (joint.dimension, joint.hierarchy)
        filters: list[Condition] = []
        is_out, at, left_out = False, None, joint.members
        for each in document.question.filters:
            plain = plain_filter(each, own)
            if plain is not None and plain.action == "keep" and not _holds(plain, path):
                kept = [one for one in plain.members if not self.alone or one not in joint.members]
                still = any(_holds(replace(plain, members=tuple(kept)), one) for one in joint.members)
                plain, is_out = replace(plain, members=(*kept, path)), self.alone and not still
            elif plain is not None and plain.action == "leave_out":
                at, left_out = len(filters), tuple(dict.fromkeys((*plain.members, *joint.members)))
            filters.append(plain or each)
        if self.alone and not is_out:
            at = len(filters) if at is None else at
            filters[at : at + 1] = [
                MemberFilter(dimension=own[0], hierarchy=own[1], action="leave_out", members=left_out)
            ]
        return with_question(after, filters=tuple(filters))

    def check_members(self, members: Members) -> None:
        check_name(self.joint, members)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        known = members(self.joint.dimension, self.joint.hierarchy)
        alone = ", in their place" if self.alone else ""
        if self.joint.how != "together":
            between = told_of_two([member_caption(path, known) for path in self.joint.members], self.joint.how)
            of = "" if between == self.joint.caption else f" of {between}"
            return f"made {self.joint.caption}{of}{alone}"
        shown = [member_caption(path, known) for path in self.joint.members[:_NAMED]]
        joined = listed(shown, len(self.joint.members) - len(shown))
        return f"joined {joined} as {self.joint.caption}{alone}"


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeInJoint(Step):
    """Takes in a joint member of the model. With `alone` those that it joins are left out of the table."""

    name: str
    alone: bool = False
    kind: Literal["take_in_joint"] = "take_in_joint"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return self._making(model).applied(document, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        caption = self._making(model).joint.caption
        return f"took in {caption}{', in place of those that it joins' if self.alone else ''}"

    def _making(self, model: SemanticModel) -> MakeJoint:
        found = next((each for each in model.joints if each.name == self.name), None)
        if found is None:
            raise NotFoundError(
                f"The model has no joint member “{self.name}” any more.", "Look at the catalogue for those there are."
            )
        return MakeJoint(joint=taken(found), alone=self.alone)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeJoint(Step):
    """Tells a joint member anew: what it is called, and the members that it joins. Whatever names it follows, and so
    does what is left out in its favour."""

    joint: Joint
    kind: Literal["change_joint"] = "change_joint"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        was = find_joint(document, self.joint.name)
        others = replace(document, joints=tuple(each for each in document.joints if each != was))
        # What the model tells is changed there; here it becomes one of the analysis's own.
        own = replace(self.joint, name="" if was.of_model else was.name, of_model=False)
        return retold(document, was, named_joint(own, others, model), model)

    def check_members(self, members: Members) -> None:
        check_name(self.joint, members)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        was = find_joint(before, self.joint.name).caption
        return f"changed {was}" if was == self.joint.caption else f"called {was} {self.joint.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetJoint(Step):
    """Parts a joint member again. Those that it joined stand in the table as before it was made."""

    name: str
    kind: Literal["forget_joint"] = "forget_joint"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        joint = find_joint(document, self.name)
        path, own = joining_of(joint).path, (joint.dimension, joint.hierarchy)
        filters: list[Condition] = []
        for each in document.question.filters:
            plain = plain_filter(each, own)
            if plain is not None:
                left = [one for one in plain.members if one != path]
                if plain.action == "leave_out":
                    left = [one for one in left if one not in joint.members]
                elif path in plain.members:
                    left = list(dict.fromkeys((*left, *joint.members)))
                plain = replace(plain, members=tuple(left))
                if not left:
                    continue
            filters.append(plain or each)
        after = with_question(document, filters=tuple(filters))
        users = list(joint_used_by(after, self.name, model))
        if users:
            raise InputError(f"“{joint.caption}” is used by {', '.join(users)}.", "Change that first.")
        return replace(after, joints=tuple(each for each in document.joints if each != joint))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        joint = find_joint(before, self.name)
        return f"took out {joint.caption}" if joint.of_model else f"parted {joint.caption} again"


def _holds(kept: MemberFilter, path: MemberPath) -> bool:
    """Whether a filter keeps a member, or what it stands under."""
    return any(path[: len(each)] == each for each in kept.members)
