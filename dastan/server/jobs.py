"""Threads for work that goes on by itself, and a timer that looks what is due.

Safe for threads: the watches of what runs are looked at and changed under the lock.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from threading import Event, Lock, Thread

from dastan.core.engine.watch import Watch

_logger = logging.getLogger(__name__)
LOOK_S = 5.0
"""The timer looks so often."""
AT_ONCE = 2


class Jobs:
    """What runs by itself, by the ids of jobs."""

    def __init__(self) -> None:
        self._executor = ThreadPoolExecutor(AT_ONCE, thread_name_prefix="job")
        self._ends = Event()
        self._lock = Lock()
        self._watches: dict[str, Watch] = {}

    @property
    def is_ending(self) -> bool:
        """Whether the server ends: what was taken back now is not what somebody took back."""
        return self._ends.is_set()

    def submit(self, work: Callable[[], None]) -> None:
        """Does something as soon as a thread is free; nothing once the server ends."""
        try:
            self._executor.submit(work)
        except RuntimeError:
            return

    def every_while(self, look: Callable[[], object]) -> None:
        """Looks again and again until the server ends; what goes wrong is looked at again."""

        def looking() -> None:
            while not self._ends.wait(LOOK_S):
                try:
                    look()
                except Exception:
                    _logger.exception("What is due cannot be looked at")

        Thread(target=looking, name="timer", daemon=True).start()

    @contextmanager
    def watched(self, id: str) -> Iterator[Watch]:
        """A watch for a job while it runs."""
        watch = Watch()
        with self._lock:
            self._watches[id] = watch
        if self.is_ending:
            watch.cancel()
        try:
            yield watch
        finally:
            with self._lock:
                self._watches.pop(id, None)

    def watch_of(self, id: str) -> Watch | None:
        """What follows a job that runs just now."""
        with self._lock:
            return self._watches.get(id)

    def close(self) -> None:
        """Ends the timer and takes back what runs."""
        self._ends.set()
        with self._lock:
            watches = [*self._watches.values()]
        for each in watches:
            each.cancel()
        self._executor.shutdown(cancel_futures=True)
