"""The members that a list has just now: those that it names, or those for which its rule holds.

A rule is looked at once for each question, by levels and whole arrays, and over its own records alone: whatever the
table shows and its filters say, a list has the same members for everybody who may see the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from dastan.core.analysis.document import PlacedMeasure
from dastan.core.analysis.list_names import measures_of_list
from dastan.core.engine.limits import first_few
from dastan.core.engine.seen import Seen
from dastan.core.engine.waist import Conditions, GroupSet, LevelRef, MemberSet, Source
from dastan.core.errors import LimitError
from dastan.core.model.conditions import Condition, FilterGroup, MeasureFilter
from dastan.core.model.document import MemberList
from dastan.core.model.joints import own_members
from dastan.core.model.member_lists import MOST_LISTED
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.values import Values


class Asking(Protocol):
    """What a list asks with: a reader's question, but for its filters."""

    source: Source
    seen: Seen

    def written(self, conditions: Sequence[Condition], measures: Sequence[str] | None = None) -> Conditions:
        """Conditions of a document as a source takes them."""
        ...

    def fulfilling(self, written: MeasureFilter, over: Conditions) -> GroupSet:
        """The groups for which a measure fulfils a comparison, over some records."""
        ...

    def table(
        self, placed: PlacedMeasure, levels: tuple[LevelRef, ...], more: Conditions, filters: Conditions | None = None
    ) -> tuple[np.ndarray, Values]:
        """A measure's values at some levels."""
        ...


def listed_paths(each: MemberList, questioner: Asking) -> tuple[MemberPath, ...]:
    """The members of a list that its reader may see; of fixed ones all that it names, whoever asks.

    Raises: LimitError for more than a list can have.
    """
    if not each.is_rule:
        return each.members
    members = own_members(questioner.seen.members(each.dimension, each.hierarchy))
    depth = members.depth_of(each.level or "")
    codes = _Rule(each, questioner, members, depth).codes()
    if len(codes) > MOST_LISTED:
        raise LimitError(
            f"“{each.caption}” has {len(codes):,} members; {MOST_LISTED:,} are the most.", "Narrow its rule."
        )
    return tuple(members.path_of(depth, code) for code in codes.tolist())


@dataclass(frozen=True)
class _Rule:
    of: MemberList
    questioner: Asking
    members: HierarchyMembers
    depth: int

    @property
    def _level(self) -> LevelRef:
        return LevelRef(self.of.dimension, self.of.hierarchy, self.of.level or "")

    @property
    def _over(self) -> Conditions:
        return self.questioner.written(self.of.over, measures_of_list(self.of))

    def codes(self) -> np.ndarray:
        """The codes of its members, ascending, `(n,) int32`."""
        below = (MemberSet(self.of.dimension, self.of.hierarchy, self.of.members),) if self.of.members else ()
        found = self._with_rows(below)
        for condition in self.of.where:
            found &= self._fulfilling(condition)
        codes = np.flatnonzero(found).astype(np.int32)
        return self._first(codes) if self.of.ranked is not None else codes

    def _with_rows(self, conditions: Conditions) -> np.ndarray:
        """`(n_members,) bool`: the members that have any row which the reader may see and for which conditions hold."""
        level = self.members.levels[self.depth]
        rows = self.questioner.source.allowed_rows(self.of.dimension, conditions).copy()
        rows[-2:] = False
        found = np.zeros(len(level), np.bool_)
        found[self.members.codes_in(rows, self.depth)] = True
        found &= np.array([key is not None for key in level.keys], np.bool_)
        return found & self.members.visible[self.depth] if self.members.visible else found

    def _fulfilling(self, condition: Condition) -> np.ndarray:
        """`(n_members,) bool`: the members for which a condition holds."""
        if isinstance(condition, FilterGroup):
            parts = [self._fulfilling(each) for each in condition.parts]
            join = np.logical_and if condition.join == "all" else np.logical_or
            found = join.reduce(parts) if parts else np.ones(len(self.members.levels[self.depth]), np.bool_)
        elif isinstance(condition, MeasureFilter):
            codes = self.questioner.fulfilling(condition, self._over).codes[:, 0]
            found = np.zeros(len(self.members.levels[self.depth]), np.bool_)
            found[codes[codes < len(found)]] = True
        else:
            found = self._with_rows(self.questioner.written((replace(condition, action="keep"),)))
        return ~found if condition.action == "leave_out" else np.asarray(found, np.bool_)

    def _first(self, among: np.ndarray) -> np.ndarray:
        """Of some members those that come first."""
        ranked = self.of.ranked
        assert ranked is not None
        codes, values = self.questioner.table(PlacedMeasure(measure=ranked.measure), (self._level,), (), self._over)
        places = np.flatnonzero(np.isin(codes[:, 0], among))
        own = codes[places, 0]
        natural = self.members.levels[self.depth].first[own]
        kept = own[first_few(values.take(places), np.zeros(len(places), np.int64), natural, ranked)]
        return np.sort(kept)
