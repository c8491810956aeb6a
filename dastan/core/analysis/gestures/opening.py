"""Gestures that open members and levels, and close them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from dastan.core.analysis.captions import Members, level_caption, member_caption
from dastan.core.analysis.document import Analysis, Opening
from dastan.core.analysis.gestures.step import HierarchyStep
from dastan.core.analysis.openness import close_level, close_member, open_level, open_member, with_opening
from dastan.core.analysis.placing import hierarchy_of
from dastan.core.analysis.resolve import check_level, find_dimension
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import MemberPath


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenMember(HierarchyStep):
    """Opens one member."""

    dimension: str
    hierarchy: str
    path: MemberPath
    kind: Literal["open_member"] = "open_member"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_member(document, self, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"opened {member_caption(self.path, members(*self.own))}"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseMember(HierarchyStep):
    """Closes one member. What is open below it waits."""

    dimension: str
    hierarchy: str
    path: MemberPath
    kind: Literal["close_member"] = "close_member"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_member(document, self, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"closed {member_caption(self.path, members(*self.own))}"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenLevel(HierarchyStep):
    """Opens every member of a level."""

    dimension: str
    hierarchy: str
    level: str
    kind: Literal["open_level"] = "open_level"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_level(document, self, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"opened every {level_caption(find_dimension(model, self.dimension), self.level).lower()}"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseLevel(HierarchyStep):
    """Closes every member of a level."""

    dimension: str
    hierarchy: str
    level: str
    kind: Literal["close_level"] = "close_level"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        return _with_level(document, self, model)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"closed every {level_caption(find_dimension(model, self.dimension), self.level).lower()}"


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenAll(HierarchyStep):
    """Opens every member of a hierarchy that has others below it."""

    dimension: str
    hierarchy: str
    kind: Literal["open_all"] = "open_all"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        levels = tuple(hierarchy_of(model, *self.own).levels[:-1])
        return with_opening(document, Opening(dimension=self.dimension, hierarchy=self.hierarchy, levels=levels))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"opened all of {self.caption(model)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseAll(HierarchyStep):
    """Closes every member of a hierarchy."""

    dimension: str
    hierarchy: str
    kind: Literal["close_all"] = "close_all"
    is_looking: ClassVar[bool] = True

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        hierarchy_of(model, *self.own)
        return with_opening(document, Opening(dimension=self.dimension, hierarchy=self.hierarchy))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"closed all of {self.caption(model)}"


def _with_member(document: Analysis, gesture: OpenMember | CloseMember, model: SemanticModel) -> Analysis:
    change = open_member if isinstance(gesture, OpenMember) else close_member
    hierarchy = hierarchy_of(model, *gesture.own)
    if not 0 < len(gesture.path) < len(hierarchy.levels):
        raise InputError("There is nothing below this member.", "Open a member of a level above the last.")
    return with_opening(document, change(document.opening(*gesture.own), hierarchy, gesture.path))


def _with_level(document: Analysis, gesture: OpenLevel | CloseLevel, model: SemanticModel) -> Analysis:
    hierarchy = hierarchy_of(model, *gesture.own)
    check_level(find_dimension(model, gesture.dimension), hierarchy, gesture.level)
    if gesture.level == hierarchy.levels[-1]:
        raise InputError("There is nothing below this level.", "Open a level above it.")
    change = open_level if isinstance(gesture, OpenLevel) else close_level
    return with_opening(document, change(document.opening(*gesture.own), hierarchy, gesture.level))
