"""Keeps steps after their answers have gone out: in the order in which they were taken, all that wait at a time.

No answer waits for the disk. But whoever took a step is told at once when it could not be kept: the page asks after
each of its steps, keeps what is not kept itself, and sends it again. What has come while the disk was busy is written
in one go: with many people, most of the time goes into waiting for the disk, once for each transaction. Safe for
threads: one thread writes, by a connection of its own; what waits, and what became of the latest steps, is looked at
and changed under the lock.
"""

from __future__ import annotations

import logging
import sqlite3
from collections import OrderedDict, deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

from dastan.records.database import connect, transaction, trouble_of

log = logging.getLogger(__name__)

Change = Callable[[sqlite3.Connection], None]
_LATEST = 5_000
"""So many steps are remembered with what became of them."""
_TOGETHER = 64
"""So many changes are made in one transaction."""


class Keeper:
    """Writes changes of drafts on a thread of its own."""

    def __init__(self, records: Path) -> None:
        self._records = records
        self._executor = ThreadPoolExecutor(max_workers=1, thread_name_prefix="keeper")
        self._connection: sqlite3.Connection | None = None
        self._lock = Lock()
        self._latest: OrderedDict[tuple[str, str], Future[None]] = OrderedDict()
        self._waiting: deque[_Asked] = deque()

    def keep(self, draft: str, step: str, change: Change) -> Future[None]:
        """Makes a change soon, all of it or nothing, after all those before it; who waits for it hears of a failure."""
        asked = _Asked(change, Future())
        asked.future.set_running_or_notify_cancel()  # who asks what became of it may go away; it is kept all the same
        with self._lock:
            self._executor.submit(self._keep_waiting)
            self._waiting.append(asked)
            self._latest[draft, step] = asked.future
            self._latest.move_to_end((draft, step))
            while len(self._latest) > _LATEST:
                self._latest.popitem(last=False)
        return asked.future

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

    def _keep_waiting(self) -> None:
        """Keeps what waits, unless what was asked before has kept it already."""
        with self._lock:
            taken = [self._waiting.popleft() for _ in range(min(len(self._waiting), _TOGETHER))]
        if taken:
            self._keep(taken)

    def _keep(self, taken: list[_Asked]) -> None:
        try:
            if self._connection is None:
                self._connection = connect(self._records)
            with transaction(self._connection):
                for each in taken:
                    each.change(self._connection)
        except Exception as exc:
            self._let_go()  # whatever was wrong with the file may be mended by the next time
            if len(taken) > 1 and not isinstance(exc, sqlite3.OperationalError | OSError):
                for each in taken:  # one of them cannot be made; the others can
                    self._keep([each])
                return
            log.exception("%d steps could not be kept", len(taken))
            for each in taken:
                each.future.set_exception(_cause(exc))
            return
        for each in taken:
            each.future.set_result(None)


@dataclass(frozen=True, slots=True)
class _Asked:
    """A change that is to be made, and what becomes of it."""

    change: Change
    future: Future[None]


def _cause(error: Exception) -> Exception:
    """What is told of it: of its own for each that waits, since whoever raises it writes into it."""
    trouble = trouble_of(error)
    trouble.__cause__ = error
    return trouble
