"""Gestures on ready-made filters, on lists of members, on joint members, and on roles."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError
from dastan.core.model.document import MemberList, ModelJoint, ReadyMade, Role, SemanticModel
from dastan.core.model.gestures.pruning import also_words, pruned
from dastan.core.model.gestures.step import ModelStep, check_caption, has_named, put_named


@dataclass(frozen=True, slots=True, kw_only=True)
class PutReadyMade(ModelStep):
    """Makes a ready-made filter, or puts it in place of the one of its name."""

    filter: ReadyMade
    kind: Literal["put_ready_made"] = "put_ready_made"

    def applied(self, model: SemanticModel) -> SemanticModel:
        check_caption(self.filter.caption, "A filter")
        return replace(model, filters=put_named(model.filters, self.filter))

    def words(self, before: SemanticModel) -> str:
        is_known = has_named(before.filters, self.filter.name)
        return f"{'changed' if is_known else 'made'} the filter {self.filter.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutReadyMade(ModelStep):
    """Takes a ready-made filter away, and what is made of it."""

    name: str
    kind: Literal["leave_out_ready_made"] = "leave_out_ready_made"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        own = next(each for each in before.filters if each.name == self.name)
        return f"left out the filter {own.caption}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        kept = tuple(each for each in model.filters if each.name != self.name)
        if len(kept) == len(model.filters):
            raise InputError(f"There is no filter “{self.name}”.", "Load the page anew.")
        return pruned(replace(model, filters=kept))


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMemberList(ModelStep):
    """Makes a list of members, or puts it in place of the one of its name."""

    list: MemberList
    kind: Literal["put_member_list"] = "put_member_list"

    def applied(self, model: SemanticModel) -> SemanticModel:
        check_caption(self.list.caption, "A list")
        return replace(model, lists=put_named(model.lists, self.list))

    def words(self, before: SemanticModel) -> str:
        is_known = has_named(before.lists, self.list.name)
        return f"{'changed' if is_known else 'made'} the list {self.list.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutMemberList(ModelStep):
    """Takes a list of members away, and what is made of it."""

    name: str
    kind: Literal["leave_out_member_list"] = "leave_out_member_list"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        own = next((each for each in before.lists if each.name == self.name), None)
        called = own.caption if own is not None else self.name
        return f"left out the list {called}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        kept = tuple(each for each in model.lists if each.name != self.name)
        if len(kept) == len(model.lists):
            raise InputError(f"There is no list “{self.name}”.", "Load the page anew.")
        return pruned(replace(model, lists=kept))


@dataclass(frozen=True, slots=True, kw_only=True)
class PutJoint(ModelStep):
    """Makes a joint member, or puts it in place of the one of its name."""

    joint: ModelJoint
    kind: Literal["put_joint"] = "put_joint"

    def applied(self, model: SemanticModel) -> SemanticModel:
        check_caption(self.joint.caption, "A joint member")
        return replace(model, joints=put_named(model.joints, self.joint))

    def words(self, before: SemanticModel) -> str:
        is_known = has_named(before.joints, self.joint.name)
        return f"{'changed' if is_known else 'made'} the joint member {self.joint.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutJoint(ModelStep):
    """Takes a joint member away. Analyses that have taken it in keep it as one of their own."""

    name: str
    kind: Literal["leave_out_joint"] = "leave_out_joint"

    def applied(self, model: SemanticModel) -> SemanticModel:
        kept = tuple(each for each in model.joints if each.name != self.name)
        if len(kept) == len(model.joints):
            raise InputError(f"There is no joint member “{self.name}”.", "Load the page anew.")
        return replace(model, joints=kept)

    def words(self, before: SemanticModel) -> str:
        own = next((each for each in before.joints if each.name == self.name), None)
        return f"left out the joint member {own.caption if own is not None else self.name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutRole(ModelStep):
    """Makes a role, or puts it in place of the one of its name."""

    role: Role
    kind: Literal["put_role"] = "put_role"

    def applied(self, model: SemanticModel) -> SemanticModel:
        if not self.role.conditions:
            raise InputError(
                "A role says which records its people see.", "Give it a condition; without a role people see all."
            )
        check_caption(self.role.caption, "A role")
        return replace(model, roles=put_named(model.roles, self.role))

    def words(self, before: SemanticModel) -> str:
        is_known = has_named(before.roles, self.role.name)
        return f"{'changed' if is_known else 'made'} the role {self.role.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutRole(ModelStep):
    """Takes a role away. Whoever has it sees nothing of the model until they are given another."""

    name: str
    kind: Literal["leave_out_role"] = "leave_out_role"

    def applied(self, model: SemanticModel) -> SemanticModel:
        kept = tuple(each for each in model.roles if each.name != self.name)
        if len(kept) == len(model.roles):
            raise InputError(f"There is no role “{self.name}”.", "Load the page anew.")
        return replace(model, roles=kept)

    def words(self, before: SemanticModel) -> str:
        own = next((each for each in before.roles if each.name == self.name), None)
        return f"left out the role {own.caption if own is not None else self.name}"
