"""How often somebody may try a password: slower with every failure, and not at all for a while after many.

Failures are counted by the name together with the address that they come from, so that nobody can lock a colleague out
from elsewhere; by the name alone, much more patiently, so that a crowd of addresses does not get through either; and by
the address alone, so that one of them cannot try many names.
"""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock

from dastan.core.errors import ForbiddenError

_KEPT = 20_000
"""So many counts are kept at most, the latest."""


class SlowDownError(ForbiddenError):
    """Too many attempts; `details["wait_s"]` says when the next may be made."""

    code = "slow-down"


class TokenNeededError(ForbiddenError):
    """A program came without a token that holds."""

    code = "token-needed"


@dataclass(frozen=True, slots=True)
class Patience:
    """`free` failures cost nothing; each one after that doubles the wait from one second on; after `most` it is
    `locked_s`. Failures are forgotten after `memory_s` without another."""

    free: int
    most: int
    locked_s: float
    memory_s: float = 15 * 60

    def wait_s(self, failures: int) -> float:
        """How long after the last of so many failures the next attempt may be made."""
        if failures >= self.most:
            return self.locked_s
        return float(2 ** (failures - self.free)) if failures > self.free else 0.0


BOTH = Patience(free=3, most=10, locked_s=15 * 60)
NAME = Patience(free=30, most=100, locked_s=15 * 60)
ADDRESS = Patience(free=30, most=60, locked_s=5 * 60)

_Key = tuple[str, str, str]


class Doorway:
    """Counts failures. Safe for threads: every look and change is made under the lock."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = Lock()
        self._failures: OrderedDict[_Key, tuple[int, float]] = OrderedDict()

    def check(self, name: str, address: str) -> None:
        """Raises SlowDownError where an attempt may not be made yet."""
        with self._lock:
            wait = max(self._wait(key, patience) for key, patience in _counted(name, address))
        if wait > 0:
            raise SlowDownError(
                f"There were too many wrong passwords. The next can be tried in {_span(wait)}.",
                "Wait so long, or ask an administrator for a link by which to choose a new one.",
                details={"wait_s": round(wait, 1)},
            )

    def note_failure(self, name: str, address: str) -> None:
        """Counts a failure."""
        with self._lock:
            now = self._clock()
            for key, patience in _counted(name, address):
                self._failures[key] = (self._count(key, patience) + 1, now)
                self._failures.move_to_end(key)
            while len(self._failures) > _KEPT:
                self._failures.popitem(last=False)

    def is_locked(self, name: str, address: str) -> bool:
        """Whether a name is locked out at an address."""
        with self._lock:
            return self._count(("both", name, address), BOTH) >= BOTH.most

    def forgive(self, name: str) -> None:
        """Forgets the failures of a name, wherever they came from: it signed in, or was given another password."""
        with self._lock:
            for key in [each for each in self._failures if each[1] == name]:
                del self._failures[key]

    def _count(self, key: _Key, patience: Patience) -> int:
        count, last = self._failures.get(key, (0, 0.0))
        return count if self._clock() - last < patience.memory_s else 0

    def _wait(self, key: _Key, patience: Patience) -> float:
        count = self._count(key, patience)
        return self._failures[key][1] + patience.wait_s(count) - self._clock() if count else 0.0


def _counted(name: str, address: str) -> tuple[tuple[_Key, Patience], ...]:
    return (
        (("both", name, address), BOTH),
        (("name", name, ""), NAME),
        (("address", "", address), ADDRESS),
    )


def _span(seconds: float) -> str:
    if seconds > 90:
        return f"{seconds / 60:.0f} minutes"
    whole = max(round(seconds), 1)
    return f"{whole} second{'' if whole == 1 else 's'}"
