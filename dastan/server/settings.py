"""What a server is started with."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

from dastan.core.engine.size import Budget


@dataclass(frozen=True, slots=True)
class Settings:
    """`models` are folders with a model document; `entry` is a pass by which a local person signs in, once."""

    records: Path
    models: tuple[Path, ...]
    site: Path = Path(__file__).parent / "site"
    entry: str | None = None
    entry_person: str = "you"
    entry_minutes: int = 10
    """How long the pass holds from the server's start on."""
    session_hours: int = 24 * 14
    proxies: tuple[str, ...] = ()
    """Addresses of proxies whose word is taken for who asks and whether by TLS; nobody's without."""
    budget: Budget = field(default_factory=Budget)
    """The largest question that is answered."""

    @property
    def cookie(self) -> str:
        """The name of the session's cookie: browsers do not tell ports apart, so that each server has its own."""
        return f"dastan_{hashlib.sha256(str(self.records.absolute()).encode()).hexdigest()[:10]}"


def days_ago(days: int) -> str:
    """The moment that many days ago, as `now` writes it."""
    return (datetime.now(UTC) - timedelta(days)).isoformat(timespec="microseconds")


def now() -> str:
    """The present moment, ISO 8601 in UTC."""
    return datetime.now(UTC).isoformat(timespec="microseconds")
