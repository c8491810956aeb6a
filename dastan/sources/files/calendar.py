"""Makes a table of days: years, quarters, months, financial years and ISO weeks."""

from __future__ import annotations

from datetime import date, timedelta

import pyarrow as pa

_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


def calendar_table(first: date, last: date, financial_year_starts: int = 1) -> pa.Table:
    """One row per day from `first` to `last`, both inclusive, in order.

    A financial year is named after the calendar year in which it ends. A week belongs, whole, to the ISO
    year of its Thursday (ISO 8601).
    """
    rows = [_day(first + timedelta(days), financial_year_starts) for days in range((last - first).days + 1)]
    return pa.Table.from_pylist(rows)


def _day(day: date, starts: int) -> dict[str, object]:
    quarter = (day.month - 1) // 3 + 1
    financial_month = (day.month - starts) % 12 + 1
    financial_year = day.year + (1 if starts > 1 and day.month >= starts else 0)
    financial_quarter = (financial_month - 1) // 3 + 1
    iso_year, week, weekday = day.isocalendar()
    financial_caption = f"FY {financial_year - 1}/{financial_year % 100:02d}" if starts > 1 else f"FY {financial_year}"
    return {
        "date": day,
        "date_caption": f"{_DAYS[weekday - 1]} {day.day} {_MONTHS[day.month - 1]} {day.year}",
        "year": day.year,
        "quarter": quarter,
        "quarter_caption": f"Q{quarter} {day.year}",
        "month": day.month,
        "month_caption": f"{_MONTHS[day.month - 1]} {day.year}",
        "financial_year": financial_year,
        "financial_year_caption": financial_caption,
        "financial_quarter": financial_quarter,
        "financial_quarter_caption": f"{financial_caption} Q{financial_quarter}",
        "financial_month": financial_month,
        "iso_year": iso_year,
        "week": week,
        "week_caption": f"W{week:02d} {iso_year}",
        "weekday": weekday,
        "weekday_caption": _DAYS[weekday - 1],
    }


CALENDAR_COLUMNS = tuple(_day(date(2000, 1, 1), 1))
"""The columns every made calendar has."""
