"""A source with the joint members of an analysis: to whoever asks, they are members like others.

No source knows of joint members. A request is parted into what is asked of the model's own members and, for each joint
member, what is asked of its records: added up from the groups of its members where that can be done, and asked once
where it cannot. So a record counts for each member that holds it, and in a total once.

A condition on members is about a member: leaving out those that a joint member joins takes them from the table, and
nothing from the joint member. What remains of a total are the records of all members that remain below it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dastan.core.engine.rolling import Rolled, rolled_up
from dastan.core.engine.source_above import SourceAbove, no_groups, one_after_another, with_records
from dastan.core.engine.waist import (
    Condition,
    Conditions,
    Groups,
    GroupSet,
    Joined,
    LevelRef,
    MemberSet,
    Not,
    Request,
    group_set,
)
from dastan.core.model.joints import Branch, JoinedMembers, Joining, joined_members
from dastan.core.model.members import HierarchyMembers

_ALL = Joined("all", ())
_NONE = Joined("any", ())


@dataclass(frozen=True, slots=True)
class OfRecords(Joined):
    """Conditions on records, whichever member these are looked at through: told in the model's own members."""


@dataclass(frozen=True, slots=True, eq=False)
class JoinedSource(SourceAbove):
    """Args: `joinings` are the joint members of each hierarchy."""

    joinings: dict[tuple[str, str], tuple[Joining, ...]]
    _members: dict[tuple[str, str], HierarchyMembers] = field(default_factory=dict, init=False)

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        own = (dimension, hierarchy)
        if own not in self._members:
            found = self.source.members(*own)
            self._members[own] = joined_members(found, self.joinings[own]) if own in self.joinings else found
        return self._members[own]

    def group(self, request: Request) -> Groups:
        return self._group(request, self._hierarchies())

    def of_records(self, condition: Conditions) -> Conditions:
        """Conditions on records, whichever member these are looked at through."""
        told = condition
        for members in self._hierarchies():
            told = tuple(_of_records(each, members) for each in told)
        return (OfRecords("all", told),) if condition else ()

    def codes_left(
        self, dimension: str, hierarchy: str, depth: int, condition: Conditions, allowed: np.ndarray
    ) -> np.ndarray:
        """The codes at a level, ascending, of the members that conditions on their dimension alone leave; of what
        belongs nowhere none. Args: `allowed` are the dimension rows that may be, `(n_rows + 2,) bool`."""
        members = self.members(dimension, hierarchy)
        branches = members.branches if isinstance(members, JoinedMembers) else ()
        found = []
        for branch in (None, *branches):
            own = tuple(_within(each, members, branch) for each in condition)
            for other in self._hierarchies():
                own = _remaining(own, other, other.branches) if other is not members else own
            rows = self.source.allowed_rows(dimension, own) & allowed
            rows[-2:] = False
            if branch is None:
                base = members.base if isinstance(members, JoinedMembers) else members
                found.append(base.codes_in(rows, depth))
            else:
                codes = np.unique(members.code_by_row[depth][rows & branch.rows])
                found.append(codes if depth < branch.depth else branch.here(codes, depth))
        left = np.unique(np.concatenate(found))
        return left[left >= 0]

    def _hierarchies(self) -> list[JoinedMembers]:
        found = (self.members(*own) for own in self.joinings)
        return [each for each in found if isinstance(each, JoinedMembers)]

    def told(self, condition: Conditions) -> Conditions:
        for members in self._hierarchies():
            condition = _remaining(condition, members, members.branches)
        return condition

    def _group(self, request: Request, hierarchies: Sequence[JoinedMembers]) -> Groups:
        if not hierarchies:
            return self.ask(request)
        members, others = hierarchies[0], hierarchies[1:]
        depths = [members.depth_of(each.level) for each in request.levels if _is_of(each, members)]
        deepest = max(depths, default=-1)
        inside = tuple(each for each in members.branches if each.depth > deepest)
        condition = _remaining(request.condition, members, inside)
        is_same = condition == request.condition
        base = self._group(replace(request, condition=condition, along=request.along if is_same else ()), others)
        found = [base]
        for branch in members.branches:
            # Below a difference nothing stands.
            if branch.depth <= deepest and (deepest <= branch.deep or not branch.joining.is_of_two):
                found.append(self._of_branch(request, members, branch, deepest, others))
        return one_after_another(found) if len(found) > 1 else base

    def _of_branch(
        self, request: Request, members: JoinedMembers, branch: Branch, deepest: int, others: Sequence[JoinedMembers]
    ) -> Groups:
        """The groups under a joint member."""
        condition = tuple(told for each in request.condition if (told := _within(each, members, branch)) != _ALL)
        if _NONE in condition:
            return no_groups(request)
        if branch.finest <= deepest and all(each.rolls_up for each in request.aggregates):
            return self._added_up(replace(request, condition=condition, along=()), members, branch, deepest, others)
        levels, kept = [], []
        for at, each in enumerate(request.levels):
            if not _is_of(each, members) or members.depth_of(each.level) not in branch.codes:
                levels.append(each)
                kept.append(at)
        inside = MemberSet(members.dimension, members.hierarchy, branch.paths)
        asked = replace(request, levels=tuple(levels), condition=(*condition, inside), along=())
        groups = with_records(asked, lambda each: self._group(each, others))
        count = len(groups)
        codes = [
            np.full(count, branch.codes.get(members.depth_of(each.level), 0) if _is_of(each, members) else 0, np.int32)
            for each in request.levels
        ]
        for at, own in zip(kept, groups.codes, strict=True):
            codes[at] = _here(own, request.levels[at], members, branch)
        return Groups(tuple(codes), groups.values)

    def _added_up(
        self, request: Request, members: JoinedMembers, branch: Branch, deepest: int, others: Sequence[JoinedMembers]
    ) -> Groups:
        """The groups under a joint member from those of its members."""
        groups = self._group(request, others)
        places = [at for at, each in enumerate(request.levels) if _is_of(each, members)]
        finest = next(at for at in places if members.depth_of(request.levels[at].level) == deepest)
        chosen = np.flatnonzero(branch.here(groups.codes[finest], deepest) >= 0)
        levels = []
        for at, each in enumerate(request.levels):
            known = self.members(each.dimension, each.hierarchy)
            depth, codes = known.depth_of(each.level), groups.codes[at][chosen]
            if at in places:
                codes = _here(codes, each, members, branch)
            levels.append(Rolled(codes, known, depth, depth))
        return rolled_up(levels, request.aggregates, [each.take(chosen) for each in groups.values], len(chosen))


def _is_of(level: LevelRef, members: HierarchyMembers) -> bool:
    return (level.dimension, level.hierarchy) == (members.dimension, members.hierarchy)


def _here(codes: np.ndarray, level: LevelRef, members: JoinedMembers, branch: Branch) -> np.ndarray:
    """The model's own codes at a level as they stand under a joint member; above it they stay what they are."""
    if not _is_of(level, members) or members.depth_of(level.level) < branch.depth:
        return codes
    return branch.here(codes, members.depth_of(level.level))


def _remaining(condition: Conditions, members: JoinedMembers, branches: Sequence[Branch]) -> Conditions:
    """What holds for records of which the model's own members, or one of some joint members, remain."""
    about = [each for each in condition if _mentions(each, members)]
    others = tuple(each for each in condition if not _mentions(each, members))
    if not about:
        return condition
    base = tuple(told for each in about if (told := _within(each, members, None)) != _ALL)
    further: list[Condition] = []
    held = _rows_of(base, members)
    for branch in branches:
        own = [told for each in about if (told := _within(each, members, branch)) != _ALL]
        if _NONE in own:
            continue
        rows = _rows_of(tuple(own), members)
        # What the members themselves leave of it already adds nothing.
        if held is None or rows is None or (branch.rows & rows & ~held).any():
            further.append(_all_of([*own, MemberSet(members.dimension, members.hierarchy, branch.paths)]))
    if not further:
        return others + base
    return (*others, _any_of([_all_of(list(base)), *further]))


def _rows_of(condition: Conditions, members: JoinedMembers) -> np.ndarray | None:
    """`(n_rows + 2,) bool`: the dimension rows that conditions on the model's own members leave, whatever others say;
    None where that is not told shortly."""
    found = np.ones(len(members.code_by_row[0]), np.bool_)
    for each in condition:
        part = each.part if isinstance(each, Not) else each
        if isinstance(part, MemberSet) and _is_about(part, members) and part.level is None:
            rows = members.base.row_mask(part.members)
            found &= rows if part.is_kept != isinstance(each, Not) else ~rows
        elif each == _NONE:
            found[:] = False
        elif _mentions(each, members):
            return None
    return found


def _is_about(condition: MemberSet, members: HierarchyMembers) -> bool:
    return (condition.dimension, condition.hierarchy) == (members.dimension, members.hierarchy)


def _mentions(condition: Condition, members: HierarchyMembers) -> bool:
    """Whether a condition is about members of a hierarchy."""
    match condition:
        case OfRecords():
            return False
        case MemberSet():
            return _is_about(condition, members)
        case GroupSet(levels):
            return any(_is_of(each, members) for each in levels)
        case Joined(_, parts):
            return any(_mentions(each, members) for each in parts)
        case Not(part):
            return _mentions(part, members)
        case _:
            return False


def _within(condition: Condition, members: HierarchyMembers, branch: Branch | None) -> Condition:
    """What a condition asks of records that are looked at through a joint member, or through the model's own without
    one: told in the model's own members."""
    if not isinstance(members, JoinedMembers) or not _mentions(condition, members):
        return condition
    match condition:
        case MemberSet():
            kept = _members_within(condition, members, branch)
            return kept if condition.is_kept else _negated(kept)
        case GroupSet():
            return _groups_within(condition, members, branch)
        case Joined("all", parts):
            return _all_of([_within(each, members, branch) for each in parts])
        case Joined(_, parts):
            return _any_of([_within(each, members, branch) for each in parts])
        case Not(part, rest_of):
            is_rest = rest_of == (members.dimension, members.hierarchy)
            told = _of_records(part, members) if is_rest else _within(part, members, branch)
            return _negated(told, rest_of)
        case _:
            return condition


def _of_records(condition: Condition, members: JoinedMembers) -> Condition:
    """A condition on records, told in the model's own members."""
    if not _mentions(condition, members):
        return condition
    match condition:
        case MemberSet():
            own = tuple(path for each in condition.members for path in members.base_paths(each))
            return replace(condition, members=own) if own or not condition.members else _NONE
        case GroupSet():
            return _all_of(list(_remaining((condition,), members, members.branches)))
        case Joined("all", parts):
            return _all_of([_of_records(each, members) for each in parts])
        case Joined(_, parts):
            return _any_of([_of_records(each, members) for each in parts])
        case Not(part, rest_of):
            return _negated(_of_records(part, members), rest_of)
        case _:
            return condition


def _members_within(condition: MemberSet, members: JoinedMembers, branch: Branch | None) -> Condition:
    own = (members.dimension, members.hierarchy)
    if condition.level is not None and not condition.members:
        return replace(condition, is_kept=True)
    if branch is None:
        paths = tuple(path for path in condition.members if members.branch_of(path) is None)
        return MemberSet(*own, paths, True, condition.level) if paths else _NONE
    place = branch.joining.path
    if any(place[: len(path)] == path for path in condition.members):
        return _ALL if condition.level is None else MemberSet(*own, branch.paths, True, condition.level)
    below = [path for path in condition.members if path[: len(place)] == place]
    paths = tuple(path for each in below for path in members.base_paths(each))
    return MemberSet(*own, paths, True, condition.level) if paths else _NONE


def _groups_within(condition: GroupSet, members: JoinedMembers, branch: Branch | None) -> Condition:
    codes = condition.codes
    kept, left, columns = np.ones(len(codes), np.bool_), [], []
    for at, level in enumerate(condition.levels):
        own = codes[:, at]
        depth = members.depth_of(level.level) if _is_of(level, members) else -1
        if depth < 0:
            pass
        elif branch is None:
            kept &= own < len(members.base.levels[depth])
        elif depth < branch.depth:
            kept &= own == branch.above[depth]
        elif branch.joining.is_of_two:
            return _NONE  # what is compared are members
        elif depth <= branch.deep:
            kept &= own == branch.codes[depth]
            continue
        else:
            own = branch.own(own, depth)
            kept &= own >= 0
        left.append(level)
        columns.append(own)
    if not left:
        return _ALL if kept.any() else _NONE
    return group_set(tuple(left), np.stack(columns, axis=1)[kept])


def _all_of(parts: Sequence[Condition]) -> Condition:
    told = [each for each in parts if each != _ALL]
    if _NONE in told:
        return _NONE
    return told[0] if len(told) == 1 else Joined("all", tuple(told))


def _any_of(parts: Sequence[Condition]) -> Condition:
    told = [each for each in parts if each != _NONE]
    if _ALL in told:
        return _ALL
    return told[0] if len(told) == 1 else Joined("any", tuple(told))


def _negated(part: Condition, rest_of: tuple[str, str] | None = None) -> Condition:
    if part in (_ALL, _NONE):
        return _NONE if part == _ALL else _ALL
    return Not(part, rest_of)
