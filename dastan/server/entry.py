"""The pass by which a local person signs in: good once, and for some minutes."""

from __future__ import annotations

import time
from collections.abc import Callable
from threading import Lock


class Entry:
    """Safe for threads: of several who use it at once, one gets in."""

    def __init__(self, minutes: int, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._until = clock() + minutes * 60
        self._lock = Lock()
        self._is_used = False

    def use(self) -> bool:
        """Whether it opens; it does so once."""
        with self._lock:
            if self._is_used or self._clock() >= self._until:
                return False
            self._is_used = True
            return True
