"""Odd days: gaps, days with too few or too many records, held against the weeks beside them."""

from __future__ import annotations

import numpy as np

from dastan.core.odd_days import odd_days

START = 20_000


def records(counts: list[int]) -> np.ndarray:
    """The days of so many records each, from the first day on."""
    return np.repeat(np.arange(len(counts)) + START, counts)


def weeks(count: int, week: tuple[int, ...] = (100, 110, 105, 100, 120, 40, 0)) -> list[int]:
    """Weeks of a table that rests on Sundays."""
    return list(week) * count


def test_a_day_is_held_against_its_weekday_so_that_rest_is_no_gap() -> None:
    counts = weeks(20)
    assert [len(each) for each in odd_days(records(counts))[:3]] == [0, 0, 0]
    counts[35], counts[45], counts[60] = 0, 8, 900
    found = odd_days(records(counts))
    assert [list(each - START) for each in found[:3]] == [[35], [45], [60]]
    # Day 45 is a Thursday and day 60 a Friday: 100 and 120 on such days.
    assert (found.usual[START + 45], found.usual[START + 60]) == (100.0, 120.0)
    assert (found.counts[START + 45], found.counts[START + 60]) == (8, 900)


def test_growth_is_no_wonder() -> None:
    counts = [20 + day for day in range(700)]
    assert [len(each) for each in odd_days(records(counts))[:3]] == [0, 0, 0]


def test_months_that_are_missing_are_one_gap() -> None:
    counts = [100] * 400
    counts[100:190] = [0] * 90
    found = odd_days(records(counts))
    assert list(found.without - START) == list(range(100, 190))
    assert found.usual[START + 145] == 100.0


def test_what_goes_by_no_week_is_not_judged() -> None:
    # Posted on the first 28 days of a month, and on month ends alone: other rhythms, and no gaps.
    counts = [50 if day % 30 < 28 else 0 for day in range(900)]
    assert [len(each) for each in odd_days(records(counts))[:3]] == [0, 0, 0]
    counts = [500 if day % 30 == 0 else 0 for day in range(900)]
    assert [len(each) for each in odd_days(records(counts))[:3]] == [0, 0, 0]


def test_few_records_and_short_tables_are_not_judged() -> None:
    assert [len(each) for each in odd_days(records([3, 0, 4, 2] * 60))[:3]] == [0, 0, 0]
    assert [len(each) for each in odd_days(records([100, 0, 100] * 5))[:3]] == [0, 0, 0]
    assert [len(each) for each in odd_days(np.empty(0, np.int64))[:3]] == [0, 0, 0]
    # One record of a wrong century does not fill the memory.
    assert [len(each) for each in odd_days(np.array([-700_000, START]))[:3]] == [0, 0, 0]
