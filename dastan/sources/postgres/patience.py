"""What a database is asked, followed while it works: taken back, it ends on the server too."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import contextmanager
from typing import Protocol, TypeVar

from adbc_driver_manager.dbapi import Cursor

from dastan.core.engine.watch import Watch

_Result = TypeVar("_Result")
_LOOK_S = 0.1


class Doing(Protocol):
    """Does some work of a cursor's, and waits for it. Raises CancelledError."""

    def __call__(self, work: Callable[[], _Result]) -> _Result: ...


@contextmanager
def patiently(cursor: Cursor, watch: Watch) -> Iterator[Doing]:
    """What does a cursor's work, one after the other, as long as a watch has it go on."""
    with ThreadPoolExecutor(1, thread_name_prefix="fetching") as thread:

        def done(work: Callable[[], _Result]) -> _Result:
            watch.check()
            coming = thread.submit(work)
            while not wait([coming], _LOOK_S).done:
                if watch.is_cancelled:
                    cursor.adbc_cancel()  # again and again: the statement may not have begun yet
            watch.check()
            return coming.result()

        yield done
