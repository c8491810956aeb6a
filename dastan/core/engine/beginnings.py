"""Where time begins: for each cell the last day before it for which there are records, at which a balance opens.

A period is found at the end of the one before it, by the last loaded day there; one that filters cut short begins at
its first day that they leave.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.aggregates import COUNT
from dastan.core.engine.calendars import Calendar
from dastan.core.engine.moved_time import Periods
from dastan.core.engine.questioner import Questioner, Records
from dastan.core.engine.waist import LevelRef, Request, Rights
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.members import HierarchyMembers

_NONE = -1


@dataclass(frozen=True, slots=True, eq=False)
class Blocks:
    """The shortest pieces of time whose records are told apart, days mostly: `last_day` `(n,) int64` of those for which
    there are records, earliest first, and `code` `(n_days,)`, the place there of each calendar row, -1 for none."""

    last_day: np.ndarray
    code: np.ndarray

    def before(self, first_days: np.ndarray) -> np.ndarray:
        """`(n,) int64`: the last block that ends before each day, -1 for none."""
        return np.searchsorted(self.last_day, first_days, "left") - 1


def blocks_of(
    records: Records,
    aggregates: Sequence[BaseAggregate],
    calendar: Calendar,
    hierarchies: Sequence[HierarchyMembers],
    questioner: Questioner,
) -> Blocks:
    """The blocks for which a fact has records, whoever asks. What is open is so on any day, whatever is loaded."""
    levels = [
        (own, members, depth)
        for members in hierarchies
        for depth in range(len(members.levels))
        if (own := calendar.periods(members, depth)) is not None
    ]
    if any(each.kind == "open" for each in aggregates) or not levels:
        order = np.argsort(calendar.days, kind="stable")
        return Blocks(calendar.days[order], np.argsort(order, kind="stable"))
    own, members, depth = max(levels, key=lambda each: len(each[0].in_order))
    level = LevelRef(calendar.name, members.hierarchy, members.levels[depth].name)
    groups = questioner.group(Request(records.grain, (level,), (COUNT,), (), Rights("")))
    has = np.zeros(max(len(own.first_row), int(groups.codes[0].max(initial=0)) + 1), np.bool_)
    has[groups.codes[0][groups.values[0].data > 0]] = True
    found = own.in_order[has[own.in_order]]
    place = np.full(len(own.first_row), _NONE)
    place[found] = np.arange(len(found))
    return Blocks(own.last_day[found], place[own.code])


def first_days(periods: Periods, days: np.ndarray, allowed: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The members that have allowed days, and the first of these, `(n,) int64` each."""
    first = np.full(len(periods.first_row), np.iinfo(np.int64).max)
    np.minimum.at(first, periods.code[allowed], days[allowed])
    members = np.flatnonzero(np.bincount(periods.code[allowed], minlength=len(first)) > 0)
    return members, first[members]
