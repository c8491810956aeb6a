"""Files that are being written: so many at a time, in processes of their own, fair between people."""

from __future__ import annotations

from dastan.core.engine.watch import Watch
from dastan.exports.apart.processes import PROCESSES
from dastan.exports.order import Order
from dastan.server.admission import Admission

_SHORT_BYTES = 2**20
"""A table so large is written within a few seconds, in whatever format."""


class Writing:
    """Short files wait for each other, and never for a long one, which may take minutes.

    Args: `memory_bytes` for all files together, of which `at_once` long ones are written at a time, and as many short.
    """

    def __init__(self, memory_bytes: int, at_once: int) -> None:
        # There is always one to be written, with many people: who had a large one once would be passed by everybody.
        self._short, self._long = (Admission(memory_bytes, at_once, waited=1.0) for _ in range(2))

    @property
    def queues(self) -> tuple[Admission, ...]:
        return self._short, self._long

    def write(self, order: Order, person: str, words: str, watch: Watch) -> None:
        """Has a file written as soon as it is its turn. Raises BusyError, and what `WritingProcess.write` raises."""
        is_short = order.table.size_bytes <= _SHORT_BYTES and not order.records
        with (self._short if is_short else self._long).running(person, watch, words):
            watch.admit(2 * order.table.size_bytes)  # as it is sent, and where it arrives
            PROCESSES.write(order, watch)
