"""Periods that move: which days "the last four quarters" or "this year so far" are."""

from __future__ import annotations

from calendar import monthrange
from datetime import date, timedelta

from dastan.core.model.conditions import Unit

_MONTHS: dict[Unit, int] = {"month": 1, "quarter": 3, "year": 12, "financial_quarter": 3, "financial_year": 12}


def period_days(
    unit: Unit, first: int, last: int, to_date: bool, anchor: date, financial_year_starts: int
) -> tuple[date, date]:
    """The first and last day, both included, of the units from number `first` to number `last`.

    Args:
        unit: the unit that holds `anchor` is number 0, the one before it -1.
        to_date: ends in the last unit at the place that the anchor has in its own.
        financial_year_starts: month, 1 to 12.
    Days outside the years 1 to 9999 are cut to those.
    """
    begin = _start(unit, first, anchor, financial_year_starts)
    if to_date:
        return begin, _counterpart(unit, last, anchor, financial_year_starts)
    after = _start(unit, last + 1, anchor, financial_year_starts)
    return begin, after if after == date.max else _moved(after, -1)


def _start(unit: Unit, number: int, anchor: date, starts: int) -> date:
    """The first day of a unit."""
    if unit == "day":
        return _moved(anchor, number)
    if unit == "week":
        return _moved(anchor, 7 * number - anchor.weekday())
    length = _MONTHS[unit]
    shift = starts - 1 if unit.startswith("financial") else 0
    months = anchor.year * 12 + anchor.month - 1 - shift
    return _first_of(months - months % length + number * length + shift)


def _counterpart(unit: Unit, number: int, anchor: date, starts: int) -> date:
    """The day of a unit at the same place as the anchor in its own; the last before it where there is none."""
    if unit in ("day", "week"):
        return _moved(anchor, number * (7 if unit == "week" else 1))
    month = _first_of(anchor.year * 12 + anchor.month - 1 + number * _MONTHS[unit])
    return month.replace(day=min(anchor.day, monthrange(month.year, month.month)[1]))


def _first_of(months: int) -> date:
    if months < 12:
        return date.min
    return date.max if months >= 12 * 10_000 else date(months // 12, months % 12 + 1, 1)


def _moved(day: date, days: int) -> date:
    try:
        return day + timedelta(days)
    except OverflowError:
        return date.min if days < 0 else date.max
