"""Moving in time: where each day, and each period, of a calendar lands.

A move is told forwards, from the earlier day to the one that it is compared with. Whole periods land on whole ones: a
day without a counterpart, such as 29 February, lands with the last one before it, and as a member of its own on none.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.model.members import HierarchyMembers

_NONE = -1
_WEEK = 7


@dataclass(frozen=True, slots=True, eq=False)
class Move:
    """`rows` is `(n_days,) int64`, the calendar row that each day's row lands on, -1 for none; `is_exact`
    `(n_days,) bool`, whether it lands on its very counterpart."""

    rows: np.ndarray
    is_exact: np.ndarray

    def before(self, allowed: np.ndarray) -> np.ndarray:
        """`(n_days,) bool`: the days that land on one of those."""
        return np.asarray((self.rows >= 0) & allowed[self.rows])

    def members(self, periods: Periods) -> np.ndarray:
        """`(n_members,) int64`: the member of a level that each of its members lands on; -1 for none, and where its
        days land in several."""
        lands = self.is_exact if periods.are_days else self.rows >= 0
        own, landed = periods.code[lands], periods.code[self.rows[lands]]
        least, most = np.full(len(periods.first_row), len(periods.first_row)), np.full(len(periods.first_row), _NONE)
        np.minimum.at(least, own, landed)
        np.maximum.at(most, own, landed)
        return np.where(least == most, most, _NONE)

    def takes_all(self, periods: Periods) -> bool:
        """Whether every day of the members that land somewhere lands itself."""
        lands = self.members(periods) >= 0
        return bool((self.rows >= 0)[lands[periods.code]].all())


@dataclass(frozen=True, slots=True, eq=False)
class Periods:
    """The members of one level as periods of time: for each its first and last day and their rows, -1 without days.

    `code` is `(n_days,)`, the member of each calendar row.
    """

    first_day: np.ndarray
    last_day: np.ndarray
    first_row: np.ndarray
    last_row: np.ndarray
    code: np.ndarray

    def to_date(self, around: Periods) -> tuple[np.ndarray, np.ndarray]:
        """Members and those on which they land, `(n,) int64` each: every later one in the same period around them, and
        themselves. A member that does not lie in one such period lands nowhere."""
        has = self.in_order
        inside = has[around.code[self.first_row[has]] == around.code[self.last_row[has]]]
        period = around.code[self.first_row[inside]]
        came, onto = [np.empty(0, np.int64)], [np.empty(0, np.int64)]
        for each in np.unique(period):
            own = inside[period == each]  # earliest first
            earlier, later = np.triu_indices(len(own))
            came.append(own[earlier])
            onto.append(own[later])
        return np.concatenate(came), np.concatenate(onto)

    @property
    def are_days(self) -> bool:
        """Whether each is a single day."""
        return bool((self.first_row == self.last_row).all())

    @property
    def are_weeks(self) -> bool:
        """Whether they are weeks, so that places are told by week and weekday: none is longer, and one is as long."""
        order = self.in_order
        lengths = self.last_day[order] - self.first_day[order] + 1
        return bool(len(lengths)) and int(lengths.max()) == _WEEK

    @property
    def in_order(self) -> np.ndarray:
        """The members that have days, earliest first."""
        has = np.flatnonzero(self.first_row >= 0)
        return has[np.argsort(self.first_day[has], kind="stable")]


def periods_of(days: np.ndarray, members: HierarchyMembers, depth: int) -> Periods | None:
    """A level's members as periods; None where they are none, as weekdays are. Args: `days` are since 1970, by row."""
    if members.spread is not None or not len(days):
        return None
    code, count = members.code_by_row[depth][: len(days)], len(members.levels[depth])
    sequence = np.argsort(days, kind="stable")
    ordered = code[sequence]
    first_row, last_row = np.full(count, _NONE), np.full(count, _NONE)
    first_row[ordered[::-1]] = sequence[::-1]
    last_row[ordered] = sequence
    has = first_row >= 0
    first_day, last_day = np.where(has, days[first_row], 0), np.where(has, days[last_row], 0)
    found = Periods(first_day, last_day, first_row, last_row, code)
    order = found.in_order
    follow_each_other = bool((last_day[order][:-1] < first_day[order][1:]).all())
    return found if follow_each_other else None


def year_on(days: np.ndarray, by_week: bool, count: int = 1) -> Move:
    """To the same place in the year after, or so many years after: by month and day, or by ISO week and weekday."""
    landed, is_exact = _week_year_on(days, count) if by_week else _months_on(days, 12 * count)
    rows = _rows_of(landed, days)
    return Move(rows, is_exact & (rows >= 0))


def period_on(days: np.ndarray, periods: Periods, count: int = 1) -> Move:
    """To the same place in the period after, or so many after, of one level."""
    order = periods.in_order
    following = np.full(len(periods.first_row), _NONE)
    following[order[:-count]] = order[count:]
    target = following[periods.code]
    offset = days - periods.first_day[periods.code]
    wanted = periods.first_day[target] + offset
    landed = np.minimum(wanted, periods.last_day[target])
    rows = np.where(target >= 0, _rows_of(landed, days), _NONE)
    return Move(rows, (rows >= 0) & (wanted == landed))


def _months_on(days: np.ndarray, months: int) -> tuple[np.ndarray, np.ndarray]:
    dates = days.astype("datetime64[D]")
    month = dates.astype("datetime64[M]")
    wanted = (month + months).astype("datetime64[D]") + (dates - month.astype("datetime64[D]"))
    last = (month + months + 1).astype("datetime64[D]") - 1
    return np.minimum(wanted, last).astype(np.int64), np.asarray(wanted <= last)


def _week_year_on(days: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Source: ISO 8601; a week belongs, whole, to the year of its Thursday."""
    weekday = (days + 3) % _WEEK
    year = (days - weekday + 3).astype("datetime64[D]").astype("datetime64[Y]").astype(np.int64) + 1970
    wanted = days - _first_monday(year) + _first_monday(year + count)
    is_exact = wanted < _first_monday(year + count + 1)
    return np.where(is_exact, wanted, wanted - _WEEK), is_exact


def _first_monday(year: np.ndarray) -> np.ndarray:
    """The Monday of the first ISO week, in days since 1970: the week of the fourth of January."""
    fourth = (year - 1970).astype("datetime64[Y]").astype("datetime64[D]").astype(np.int64) + 3
    return np.asarray(fourth - (fourth + 3) % _WEEK)


def _rows_of(wanted: np.ndarray, days: np.ndarray) -> np.ndarray:
    """The row of each day, -1 where the calendar has none."""
    order = np.argsort(days, kind="stable")
    place = np.minimum(np.searchsorted(days, wanted, sorter=order), len(days) - 1)
    rows = order[place]
    return np.where(days[rows] == wanted, rows, _NONE)
