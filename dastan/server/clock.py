"""Moments as the records have them: ISO 8601 in UTC."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta


def days_ago(days: int) -> str:
    """The moment that many days ago, as `now` writes it."""
    return (datetime.now(UTC) - timedelta(days)).isoformat(timespec="microseconds")


def minutes_ago(minutes: int) -> str:
    """The moment that many minutes ago, as `now` writes it."""
    return (datetime.now(UTC) - timedelta(minutes=minutes)).isoformat(timespec="microseconds")


def now() -> str:
    """The present moment, ISO 8601 in UTC."""
    return datetime.now(UTC).isoformat(timespec="microseconds")
