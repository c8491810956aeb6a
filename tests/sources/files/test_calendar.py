"""Days made by the calendar, checked against ISO 8601 and financial years from April."""

from __future__ import annotations

from datetime import date

import pytest

from dastan.sources.files.calendar import calendar_table


def day(text: str, starts: int = 4) -> dict[str, object]:
    found = date.fromisoformat(text)
    return calendar_table(found, found, starts).to_pylist()[0]


@pytest.mark.parametrize(
    ("text", "iso_year", "week"),
    [("2021-01-03", 2020, 53), ("2021-01-04", 2021, 1), ("2024-12-30", 2025, 1), ("2026-12-31", 2026, 53)],
)
def test_a_week_across_two_years_belongs_to_one(text: str, iso_year: int, week: int) -> None:
    assert (day(text)["iso_year"], day(text)["week"]) == (iso_year, week)


@pytest.mark.parametrize(
    ("text", "year", "quarter", "month", "caption"),
    [
        ("2024-03-31", 2024, 4, 12, "FY 2023/24"),
        ("2024-04-01", 2025, 1, 1, "FY 2024/25"),
        ("2024-12-31", 2025, 3, 9, "FY 2024/25"),
    ],
)
def test_the_financial_year_is_named_after_the_year_in_which_it_ends(
    text: str, year: int, quarter: int, month: int, caption: str
) -> None:
    found = day(text)
    assert (found["financial_year"], found["financial_quarter"], found["financial_month"]) == (year, quarter, month)
    assert found["financial_year_caption"] == caption


def test_a_financial_year_from_january_is_the_calendar_year() -> None:
    assert day("2024-12-31", starts=1)["financial_year"] == 2024


def test_every_day_stands_there_once_leap_days_too() -> None:
    assert calendar_table(date(2024, 1, 1), date(2024, 12, 31)).num_rows == 366
