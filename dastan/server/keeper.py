"""Keeps steps after their answers have gone out: in the order in which they were taken, one at a time."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from dastan.records.database import connect, transaction

log = logging.getLogger(__name__)


class Keeper:
    """Writes changes of drafts on a thread of its own, so that no answer waits for the disk."""

    def __init__(self, records: Path) -> None:
        self._records = records
        self._executor = ThreadPoolExecutor(max_workers=1, thread_name_prefix="keeper")

    def keep(self, change: Callable[[sqlite3.Connection], None]) -> None:
        """Makes a change soon, in one transaction, after all those before it."""
        self._executor.submit(self._keep, change)

    def settle(self) -> None:
        """Waits until everything asked so far is on the disk: whoever reads a draft reads all of it."""
        self._executor.submit(lambda: None).result()

    def close(self) -> None:
        """Finishes what was asked, then ends."""
        self._executor.shutdown(wait=True)

    def _keep(self, change: Callable[[sqlite3.Connection], None]) -> None:
        try:
            connection = connect(self._records)
            try:
                with transaction(connection):
                    change(connection)
            finally:
                connection.close()
        except Exception:
            log.exception("A step could not be kept")
