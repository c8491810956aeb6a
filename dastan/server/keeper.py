"""Keeps steps after their answers have gone out: in the order in which they were taken, one at a time.

No answer waits for the disk. But whoever took a step is told at once when it could not be kept: the page asks after
each of its steps, keeps what is not kept itself, and sends it again. Safe for threads: one thread writes, what failed
is looked at and changed under the lock.
"""

from __future__ import annotations

import logging
import sqlite3
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from threading import Lock

from dastan.core.errors import SourceError
from dastan.records.database import connect, transaction, trouble_of

log = logging.getLogger(__name__)

Change = Callable[[sqlite3.Connection], None]
_FAILURES_KEPT = 5_000


class Keeper:
    """Writes changes of drafts on a thread of its own."""

    def __init__(self, records: Path) -> None:
        self._records = records
        self._executor = ThreadPoolExecutor(max_workers=1, thread_name_prefix="keeper")
        self._lock = Lock()
        self._failed: OrderedDict[tuple[str, str], SourceError] = OrderedDict()

    def keep(self, draft: str, step: str, change: Change) -> Future[None]:
        """Makes a change soon, in one transaction, after all those before it; who waits for it hears of a failure."""
        return self._executor.submit(self._keep, draft, step, change)

    def failure(self, draft: str, step: str) -> SourceError | None:
        """Why a step could not be kept; None where nothing is known against it."""
        with self._lock:
            return self._failed.get((draft, step))

    def settled(self) -> Future[None]:
        """Done once everything asked so far is on the disk, or could not be brought there."""
        return self._executor.submit(lambda: None)

    def settle(self) -> None:
        """Waits until everything asked so far is settled: whoever reads a draft reads all of it."""
        self.settled().result()

    def close(self) -> None:
        """Finishes what was asked, then ends."""
        self._executor.shutdown(wait=True)

    def _keep(self, draft: str, step: str, change: Change) -> None:
        try:
            connection = connect(self._records)
            try:
                with transaction(connection):
                    change(connection)
            finally:
                connection.close()
        except Exception as exc:
            log.exception("A step could not be kept")
            trouble = trouble_of(exc)
            with self._lock:
                self._failed[draft, step] = trouble
                while len(self._failed) > _FAILURES_KEPT:
                    self._failed.popitem(last=False)
            raise trouble from exc
        with self._lock:
            self._failed.pop((draft, step), None)
