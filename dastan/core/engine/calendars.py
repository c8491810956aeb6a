"""What a question needs to know of a calendar to move in it, worked out once for all its pairs of grains."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from dastan.core.engine.moved_time import Move, Periods, period_on, periods_of, year_on
from dastan.core.engine.waist import Condition, DayRange, Joined, MemberSet
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath

_MOST_PATHS = 400
"""Above so many members, ranges of days tell them in less."""


@dataclass(frozen=True, slots=True, eq=False)
class Calendar:
    """A calendar dimension: `days` is `(n_rows,) int64`, counted from 1970."""

    name: str
    days: np.ndarray
    _periods: dict[tuple[str, int], Periods | None] = field(default_factory=dict, init=False)
    _weeks: dict[str, bool] = field(default_factory=dict, init=False)
    _years: dict[tuple[bool, int], Move] = field(default_factory=dict, init=False)
    _before: dict[tuple[str, int, int], Move] = field(default_factory=dict, init=False)
    _landings: dict[tuple[int, int], tuple[np.ndarray, bool]] = field(default_factory=dict, init=False)

    def periods(self, members: HierarchyMembers, depth: int) -> Periods | None:
        """A level's members as periods; None where they are none."""
        key = (members.hierarchy, depth)
        if key not in self._periods:
            self._periods[key] = periods_of(self.days, members, depth)
        return self._periods[key]

    def year_on(self, hierarchies: list[HierarchyMembers], count: int = 1) -> Move:
        """To the year after, or so many after: by week and weekday where any of the hierarchies goes through weeks."""
        by_week = any(self._is_of_weeks(each) for each in hierarchies)
        key = (by_week, count)
        if key not in self._years:
            self._years[key] = year_on(self.days, by_week, count)
        return self._years[key]

    def _is_of_weeks(self, members: HierarchyMembers) -> bool:
        if members.hierarchy not in self._weeks:
            levels = (self.periods(members, depth) for depth in range(len(members.levels)))
            self._weeks[members.hierarchy] = any(each is not None and each.are_weeks for each in levels)
        return self._weeks[members.hierarchy]

    def period_on(self, members: HierarchyMembers, depth: int, count: int = 1) -> Move | None:
        """To the period after, or so many after, at a level; None where its members are no periods."""
        periods, key = self.periods(members, depth), (members.hierarchy, depth, count)
        if periods is not None and key not in self._before:
            self._before[key] = period_on(self.days, periods, count)
        return self._before.get(key)

    def landing(self, move: Move, periods: Periods) -> tuple[np.ndarray, bool]:
        """The member that each member of a level lands on, -1 for none; and whether all days of those that land do."""
        key = (id(move), id(periods))  # both are kept here, so that no other can have their place
        if key not in self._landings:
            self._landings[key] = (move.members(periods), move.takes_all(periods))
        return self._landings[key]

    def condition(self, chosen: np.ndarray, hierarchies: Sequence[HierarchyMembers]) -> Condition:
        """Records of some days, `(n_rows,) bool`.

        They are told by the coarsest members of the first hierarchy where that says it shortly, so that finer groups
        which are known already can be added up.
        """
        for members in hierarchies[:1]:
            found = self._by_members(chosen, members)
            if found is not None:
                return found
        return _on_days(self.name, self.days[chosen])

    def _by_members(self, chosen: np.ndarray, members: HierarchyMembers) -> MemberSet | None:
        paths: list[MemberPath] = []
        left = chosen.copy()
        for depth in range(len(members.levels)):
            code, count = members.code_by_row[depth][: len(chosen)], len(members.levels[depth])
            own, held = np.bincount(code, minlength=count), np.bincount(code[left], minlength=count)
            for each in np.flatnonzero((held > 0) & (held == own)).tolist():
                paths.append(members.path_of(depth, each))
                left &= code != each
            if len(paths) > _MOST_PATHS:
                break
            if not left.any():
                return MemberSet(self.name, members.hierarchy, tuple(paths))
        return None


def _on_days(dimension: str, days: np.ndarray) -> Condition:
    """Records of those days, one at least, told by as few ranges as hold them."""
    ordered = np.sort(days)
    starts = np.flatnonzero(np.append(True, np.diff(ordered) > 1))
    ends = np.append(starts[1:], len(ordered)) - 1
    ranges = tuple(
        DayRange(dimension, str(np.datetime64(int(ordered[start]), "D")), str(np.datetime64(int(ordered[end]), "D")))
        for start, end in zip(starts, ends, strict=True)
    )
    return ranges[0] if len(ranges) == 1 else Joined("any", ranges)
