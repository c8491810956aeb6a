"""The processes that write: begun when one is needed, and kept for the next file."""

from __future__ import annotations

import atexit
from threading import Lock

from dastan.core.engine.watch import Watch
from dastan.exports.apart.process import WritingProcess
from dastan.exports.order import Order


class WritingProcesses:
    """How many there are is for whoever orders: as many as write at once. Safe for threads, under its lock."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._idle: list[WritingProcess] = []

    def write(self, order: Order, watch: Watch) -> None:
        """Has a file written by a process that is idle, or a new one. Raises what `WritingProcess.write` raises."""
        with self._lock:
            process = self._idle.pop() if self._idle else None
        process = process or WritingProcess()
        try:
            process.write(order, watch)
        finally:
            if process.is_fit:
                with self._lock:
                    self._idle.append(process)

    def end(self) -> None:
        """Ends those that are idle."""
        with self._lock:
            idle, self._idle = self._idle, []
        for each in idle:
            each.end()


PROCESSES = WritingProcesses()
"""Of all that runs in this process: none of them knows of a server."""
atexit.register(PROCESSES.end)
