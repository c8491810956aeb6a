"""A source with the rows of financial layouts: to whoever asks, they are members like others.

A request by rows is asked by the members of which the rows are made, and added up; where that cannot be done, once for
each row.
"""

from __future__ import annotations

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
from dastan.core.model.document import Hierarchy, SemanticModel
from dastan.core.model.financial_layouts import LaidOutMembers, laid_out
from dastan.core.model.members import HierarchyMembers

_ALL, _NONE = Joined("all", ()), Joined("any", ())


@dataclass(frozen=True, slots=True, eq=False)
class LaidOutSource(SourceAbove):
    """Args: `layouts` are the hierarchies that are laid out, by dimension and name."""

    layouts: dict[tuple[str, str], Hierarchy]
    _members: dict[tuple[str, str], LaidOutMembers] = field(default_factory=dict, init=False)

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        own = (dimension, hierarchy)
        return self._rows(own) if own in self.layouts else self.source.members(*own)

    def group(self, request: Request) -> Groups:
        at = next((at for at, each in enumerate(request.levels) if each[:2] in self.layouts), None)
        if at is None:
            return self.ask(replace(request, condition=self.told(request.condition)))
        own = request.levels[at][:2]
        members = self._rows(own)
        is_plain = not any(_mentions(each, own) for each in request.condition)
        if is_plain and all(each.rolls_up for each in request.aggregates):
            return self._added_up(request, at, members)
        return self._row_by_row(request, at, members)

    def told(self, condition: Conditions) -> Conditions:
        return tuple(self._of_base(each) for each in condition)

    def _rows(self, own: tuple[str, str]) -> LaidOutMembers:
        if own not in self._members:
            layout = self.layouts[own].layout
            assert layout is not None
            self._members[own] = laid_out(self.source.members(own[0], layout.hierarchy), self.layouts[own])
        return self._members[own]

    def _added_up(self, request: Request, at: int, members: LaidOutMembers) -> Groups:
        last = len(members.base.levels) - 1
        finest = LevelRef(members.dimension, members.base.hierarchy, members.base.levels[last].name)
        groups = self.group(replace(request, levels=_with(request.levels, at, finest), along=()))
        starts, rows = members.rows_by_base()
        own = groups.codes[at]
        counts = starts[own + 1] - starts[own]
        again = np.repeat(np.arange(len(groups)), counts)
        # The rows of each group's member, one after another.
        ends = np.cumsum(counts)
        inside = np.arange(len(again)) - np.repeat(ends - counts, counts)
        codes = rows[starts[own[again]] + inside]
        levels = []
        for place, each in enumerate(request.levels):
            known = self.members(each.dimension, each.hierarchy)
            depth = known.depth_of(each.level)
            levels.append(Rolled(codes if place == at else groups.codes[place][again], known, depth, depth))
        return rolled_up(levels, request.aggregates, [each.take(again) for each in groups.values], len(again))

    def _row_by_row(self, request: Request, at: int, members: LaidOutMembers) -> Groups:
        """Each row by itself: what a condition says of rows is about this one, whichever others hold its records."""
        own = request.levels[at][:2]
        levels = tuple(each for place, each in enumerate(request.levels) if place != at)
        found = []
        for code in range(len(members.levels[0])):
            paths = members.base_paths(np.array([code]))
            within = tuple(_within(each, own, members, code) for each in request.condition)
            if not paths or _NONE in within:
                continue
            inside = MemberSet(members.dimension, members.base.hierarchy, paths)
            asked = replace(request, levels=levels, condition=(*within, inside), along=())
            groups = with_records(asked, self.group)
            here = np.full(len(groups), code, np.int32)
            found.append(Groups((*groups.codes[:at], here, *groups.codes[at:]), groups.values))
        return one_after_another(found) if found else no_groups(request)

    def _of_base(self, condition: Condition) -> Condition:
        """A condition on records in the members of which rows are made: of any row that holds them."""
        match condition:
            case MemberSet() if (condition.dimension, condition.hierarchy) in self.layouts:
                members = self._rows((condition.dimension, condition.hierarchy))
                codes = [code for path in condition.members if (code := members.find(path)) is not None]
                paths = members.base_paths(np.array(codes, np.int64))
                return MemberSet(condition.dimension, members.base.hierarchy, paths, condition.is_kept)
            case GroupSet(levels):
                own = next((each[:2] for each in levels if each[:2] in self.layouts), None)
                if own is None:
                    return condition
                members = self._rows(own)
                found: list[Condition] = []
                for code in range(len(members.levels[0])):
                    within = _within(condition, own, members, code)
                    paths = members.base_paths(np.array([code]))
                    inside = MemberSet(members.dimension, members.base.hierarchy, paths)
                    if within != _NONE:
                        found.append(Joined("all", (inside, self._of_base(within))))
                return Joined("any", tuple(found))
            case Joined(_, parts):
                return replace(condition, parts=tuple(self._of_base(each) for each in parts))
            case Not(part):
                return replace(condition, part=self._of_base(part))
            case _:
                return condition


def _mentions(condition: Condition, own: tuple[str, str]) -> bool:
    match condition:
        case MemberSet():
            return (condition.dimension, condition.hierarchy) == own
        case GroupSet(levels):
            return any(each[:2] == own for each in levels)
        case Joined(_, parts):
            return any(_mentions(each, own) for each in parts)
        case Not(part):
            return _mentions(part, own)
        case _:
            return False


def _within(condition: Condition, own: tuple[str, str], members: LaidOutMembers, code: int) -> Condition:
    """What a condition asks of records that are looked at through one row of a layout."""
    if not _mentions(condition, own):
        return condition
    match condition:
        case MemberSet():
            return _ALL if (members.path_of(0, code) in condition.members) == condition.is_kept else _NONE
        case GroupSet(levels):
            at = next(at for at, each in enumerate(levels) if each[:2] == own)
            rest = np.delete(condition.codes[condition.codes[:, at] == code], at, axis=1)
            others = tuple(each for place, each in enumerate(levels) if place != at)
            if others and len(rest):
                return group_set(others, rest)
            return _ALL if len(rest) else _NONE
        case Joined(_, parts):
            return replace(condition, parts=tuple(_within(each, own, members, code) for each in parts))
        case Not(part):
            return replace(condition, part=_within(part, own, members, code))
        case _:
            return condition


def _with(levels: tuple[LevelRef, ...], at: int, level: LevelRef) -> tuple[LevelRef, ...]:
    return (*levels[:at], level, *levels[at + 1 :])


def layouts_of(model: SemanticModel) -> dict[tuple[str, str], Hierarchy]:
    """The hierarchies of a model that are laid out, by dimension and name."""
    return {
        (dimension.name, each.name): each
        for dimension in model.dimensions
        for each in dimension.hierarchies
        if each.layout is not None
    }
