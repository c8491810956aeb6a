"""Where days land when time is moved: by month and day, by ISO week and weekday, by the place in a period."""

from __future__ import annotations

import numpy as np
import pytest

from dastan.core.engine.calendars import Calendar
from dastan.core.engine.moved_time import Move, period_on, periods_of, year_on
from dastan.core.engine.waist import DayRange, Joined, MemberSet
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS


def numbers(*days: str) -> np.ndarray:
    return np.array(days, "datetime64[D]").astype(np.int64)


def landings(move: Move, days: tuple[str, ...]) -> dict[str, tuple[str, bool]]:
    """Each day that lands, with the day it lands on and whether that is its very counterpart."""
    return {
        day: (days[row], bool(exact))
        for day, row, exact in zip(days, move.rows, move.is_exact, strict=True)
        if row >= 0
    }


def test_a_day_lands_on_its_date_a_year_later_and_29_february_with_the_28th() -> None:
    days = ("2025-02-28", "2024-02-29", "2024-02-28", "2023-02-28", "2024-12-31")
    assert landings(year_on(numbers(*days), by_week=False), days) == {
        "2024-02-29": ("2025-02-28", False),
        "2024-02-28": ("2025-02-28", True),
        "2023-02-28": ("2024-02-28", True),
    }


def test_by_weeks_a_monday_lands_on_the_monday_of_the_same_week_and_week_53_with_week_52() -> None:
    # 2020 has 53 ISO weeks; its last Monday is 28 December. The first week of 2021 begins on 4 January.
    days = ("2020-12-21", "2020-12-28", "2021-01-04", "2021-12-27", "2022-01-03")
    assert landings(year_on(numbers(*days), by_week=True), days) == {
        "2020-12-21": ("2021-12-27", True),
        "2020-12-28": ("2021-12-27", False),
        "2021-01-04": ("2022-01-03", True),
    }


DAYS = ("2024-01-30", "2024-01-31", "2024-02-01", "2024-02-02", "2024-02-03", "2024-03-01")


@pytest.fixture
def calendar() -> tuple[Calendar, object]:
    days = [{"day": day, "year": int(day[:4]), "month": int(day[5:7])} for day in DAYS]
    source = source_of({**ROWS, "days": days})
    return Calendar("calendar", source.days("calendar")), source.members("calendar", "calendar")


def test_a_day_lands_as_far_into_the_next_period_and_the_rest_with_its_last(calendar: tuple) -> None:
    own, members = calendar
    periods = periods_of(own.days, members, 1)
    assert periods is not None
    assert landings(period_on(own.days, periods), DAYS) == {
        "2024-01-30": ("2024-02-01", True),
        "2024-01-31": ("2024-02-02", True),
        "2024-02-01": ("2024-03-01", True),
        "2024-02-02": ("2024-03-01", False),
        "2024-02-03": ("2024-03-01", False),
    }


def test_days_are_told_by_the_coarsest_members_that_hold_them(calendar: tuple) -> None:
    own, members = calendar
    january_and_one = np.array([True, True, True, False, False, False])
    assert own.condition(january_and_one, [members]) == MemberSet(
        "calendar", "calendar", ((2024, 1), (2024, 2, "2024-02-01"))
    )
    assert own.condition(january_and_one, []) == DayRange("calendar", "2024-01-30", "2024-02-01")
    apart = np.array([True, False, False, False, True, False])
    assert own.condition(apart, []) == Joined(
        "any",
        (DayRange("calendar", "2024-01-30", "2024-01-30"), DayRange("calendar", "2024-02-03", "2024-02-03")),
    )
