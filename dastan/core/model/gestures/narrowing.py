"""Gestures on what people choose records by: ready-made filters, lists of members, joint members, and roles."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

from dastan.core.errors import InputError
from dastan.core.model.document import MemberList, ModelJoint, ReadyMade, Role, SemanticModel
from dastan.core.model.gestures.pruning import also_words, pruned
from dastan.core.model.gestures.step import ModelStep, check_caption, has_named, put_named


class _Put(ModelStep):
    """Makes a part, or puts it in place of the one of its name."""

    __slots__ = ()
    section: ClassVar[str]
    called: ClassVar[str]

    @property
    @abstractmethod
    def part(self) -> Any:
        """What is put."""

    def applied(self, model: SemanticModel) -> SemanticModel:
        check_caption(self.part.caption, f"A {self.called}")
        return _with(model, self.section, put_named(getattr(model, self.section), self.part))

    def words(self, before: SemanticModel) -> str:
        is_known = has_named(getattr(before, self.section), self.part.name)
        return f"{'changed' if is_known else 'made'} the {self.called} {self.part.caption}"


class _LeaveOut(ModelStep):
    """Takes a part away, and what is made of it."""

    __slots__ = ()
    section: ClassVar[str]
    called: ClassVar[str]
    name: str

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        own = next((each for each in getattr(before, self.section) if each.name == self.name), None)
        caption = own.caption if own is not None else self.name
        return f"left out the {self.called} {caption}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        parts = getattr(model, self.section)
        kept = tuple(each for each in parts if each.name != self.name)
        if len(kept) == len(parts):
            raise InputError(f"There is no {self.called} “{self.name}”.", "Load the page anew.")
        return pruned(_with(model, self.section, kept))


def _with(model: SemanticModel, section: str, parts: tuple[Any, ...]) -> SemanticModel:
    changed: dict[str, Any] = {section: parts}
    return replace(model, **changed)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutReadyMade(_Put):
    """Makes a ready-made filter, or puts it in place of the one of its name."""

    section, called = "filters", "filter"
    filter: ReadyMade
    kind: Literal["put_ready_made"] = "put_ready_made"

    @property
    def part(self) -> ReadyMade:
        return self.filter


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutReadyMade(_LeaveOut):
    """Takes a ready-made filter away, and what is made of it."""

    section, called = "filters", "filter"
    name: str
    kind: Literal["leave_out_ready_made"] = "leave_out_ready_made"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMemberList(_Put):
    """Makes a list of members, or puts it in place of the one of its name."""

    section, called = "lists", "list"
    list: MemberList
    kind: Literal["put_member_list"] = "put_member_list"

    @property
    def part(self) -> MemberList:
        return self.list


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutMemberList(_LeaveOut):
    """Takes a list of members away, and what is made of it."""

    section, called = "lists", "list"
    name: str
    kind: Literal["leave_out_member_list"] = "leave_out_member_list"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutJoint(_Put):
    """Makes a joint member, or puts it in place of the one of its name."""

    section, called = "joints", "joint member"
    joint: ModelJoint
    kind: Literal["put_joint"] = "put_joint"

    @property
    def part(self) -> ModelJoint:
        return self.joint


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutJoint(_LeaveOut):
    """Takes a joint member away. Analyses that have taken it in keep it as one of their own."""

    section, called = "joints", "joint member"
    name: str
    kind: Literal["leave_out_joint"] = "leave_out_joint"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutRole(_Put):
    """Makes a role, or puts it in place of the one of its name."""

    section, called = "roles", "role"
    role: Role
    kind: Literal["put_role"] = "put_role"

    @property
    def part(self) -> Role:
        return self.role

    def applied(self, model: SemanticModel) -> SemanticModel:
        if not self.role.conditions:
            raise InputError(
                "A role says which records its people see.", "Give it a condition; without a role people see all."
            )
        return _Put.applied(self, model)


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutRole(_LeaveOut):
    """Takes a role away. Whoever has it sees nothing of the model until they are given another."""

    section, called = "roles", "role"
    name: str
    kind: Literal["leave_out_role"] = "leave_out_role"
