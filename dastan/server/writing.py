"""Files that are being written: so many at a time, in processes of their own, fair between people."""

from __future__ import annotations

from dastan.core.engine.watch import Watch
from dastan.exports.apart.processes import PROCESSES
from dastan.exports.order import Order
from dastan.server.admission import Admission


class Writing:
    """Args: `memory_bytes` for all files together, of which `at_once` are written at a time."""

    def __init__(self, memory_bytes: int, at_once: int) -> None:
        self.admission = Admission(memory_bytes, at_once)

    def write(self, order: Order, person: str, words: str, watch: Watch) -> None:
        """Has a file written as soon as it is its turn. Raises BusyError, and what `WritingProcess.write` raises."""
        with self.admission.running(person, watch, words):
            watch.admit(2 * order.table.size_bytes)  # as it is sent, and where it arrives
            PROCESSES.write(order, watch)
