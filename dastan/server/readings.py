"""What became of each reading of a model's files, kept for whoever shapes it."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime

from dastan.core.errors import AppError
from dastan.records.database import transaction
from dastan.records.readings import KeptReading, put_reading

_logger = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Reading:
    """One reading of a model's files: when it began, UTC, and how long it took. `version` is of the document and the
    files, and `records` are all that their tables have; of one that failed there is `trouble` instead."""

    model: str
    began: datetime
    seconds: float
    version: str = ""
    records: int = 0
    noticed: int = 0
    trouble: AppError | None = None


def keeping(using: Callable[[], AbstractContextManager[sqlite3.Connection]]) -> Callable[[Reading], None]:
    """What keeps each reading in the records. Args: `using` gives a connection."""

    def keep(reading: Reading) -> None:
        trouble = reading.trouble
        said = (trouble.message, trouble.hint) if trouble is not None else ("", "")
        began = reading.began.isoformat(timespec="seconds")
        kept = KeptReading(began, reading.seconds, reading.version, reading.records, reading.noticed, *said)
        try:
            with using() as connection, transaction(connection):
                put_reading(connection, reading.model, kept)
        except Exception:  # the model is open all the same
            _logger.exception("A reading could not be noted")

    return keep
