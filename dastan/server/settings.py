"""What a server is started with."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

from dastan.core.engine.size import Budget


@dataclass(frozen=True, slots=True)
class Settings:
    """`models` are folders with a model document; `entry` is a one-time pass by which a local person signs in."""

    records: Path
    models: tuple[Path, ...]
    site: Path = Path(__file__).parent / "site"
    entry: str | None = None
    entry_person: str = "you"
    session_hours: int = 24 * 14
    budget: Budget = field(default_factory=Budget)
    """The largest question that is answered."""


def days_ago(days: int) -> str:
    """The moment that many days ago, as `now` writes it."""
    return (datetime.now(UTC) - timedelta(days)).isoformat(timespec="microseconds")


def now() -> str:
    """The present moment, ISO 8601 in UTC."""
    return datetime.now(UTC).isoformat(timespec="microseconds")
