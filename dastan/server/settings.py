"""What a server is started with."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Settings:
    """`models` are folders with a model document; `entry` is a one-time pass by which a local person signs in."""

    records: Path
    models: tuple[Path, ...]
    site: Path = Path(__file__).parent / "site"
    entry: str | None = None
    entry_person: str = "you"
    session_hours: int = 24 * 14


def now() -> str:
    """The present moment, ISO 8601 in UTC: the one place where the server reads the clock."""
    return datetime.now(UTC).isoformat(timespec="microseconds")
