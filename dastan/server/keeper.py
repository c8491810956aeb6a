"""Keeps steps after their answers have gone out: in the order in which they were taken, one at a time.

No answer waits for the disk. But whoever took a step is told at once when it could not be kept: the page asks after
each of its steps, keeps what is not kept itself, and sends it again. Safe for threads: one thread writes, by a
connection of its own; what became of the latest steps is looked at and changed under the lock.
"""

from __future__ import annotations

import logging
import sqlite3
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from threading import Lock

from dastan.records.database import connect, transaction, trouble_of

log = logging.getLogger(__name__)

Change = Callable[[sqlite3.Connection], None]
_LATEST = 5_000
"""So many steps are remembered with what became of them."""


class Keeper:
    """Writes changes of drafts on a thread of its own."""

    def __init__(self, records: Path) -> None:
        self._records = records
        self._executor = ThreadPoolExecutor(max_workers=1, thread_name_prefix="keeper")
        self._connection: sqlite3.Connection | None = None
        self._lock = Lock()
        self._latest: OrderedDict[tuple[str, str], Future[None]] = OrderedDict()

    def keep(self, draft: str, step: str, change: Change) -> Future[None]:
        """Makes a change soon, in one transaction, after all those before it; who waits for it hears of a failure."""
        with self._lock:
            future = self._latest[draft, step] = self._executor.submit(self._keep, change)
            self._latest.move_to_end((draft, step))
            while len(self._latest) > _LATEST:
                self._latest.popitem(last=False)
            return future

    def asked(self, draft: str, step: str) -> Future[None] | None:
        """What becomes of a step that was to be kept lately; who waits for it hears of a failure. None where nothing is
        known of it any more: it is on the disk, or it never was to be kept."""
        with self._lock:
            return self._latest.get((draft, step))

    def failure(self, draft: str, step: str) -> BaseException | None:
        """Why a step could not be kept; None where nothing is known against it."""
        asked = self.asked(draft, step)
        return asked.exception() if asked is not None and asked.done() else None

    def settled(self) -> Future[None]:
        """Done once everything asked so far is on the disk, or could not be brought there."""
        return self._executor.submit(lambda: None)

    def settle(self) -> None:
        """Waits until everything asked so far is settled: whoever reads a draft reads all of it."""
        self.settled().result()

    def close(self) -> None:
        """Finishes what was asked, then ends."""
        self._executor.shutdown(wait=True)
        self._let_go()

    def _let_go(self) -> None:
        connection, self._connection = self._connection, None
        if connection is not None:
            connection.close()

    def _keep(self, change: Change) -> None:
        try:
            if self._connection is None:
                self._connection = connect(self._records)
            with transaction(self._connection):
                change(self._connection)
        except Exception as exc:
            self._let_go()  # whatever was wrong with the file may be mended by the next time
            log.exception("A step could not be kept")
            raise trouble_of(exc) from exc
