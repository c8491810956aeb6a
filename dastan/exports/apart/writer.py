"""A process that writes one file after the other for the one that began it.

As `python -m dastan.exports.apart.writer PIPE SCRATCH`. It ends when the other one does, and leaves nothing in its
folder for scratch then. It lets those pass that somebody looks at a screen for.
"""

from __future__ import annotations

import os
import shutil
import signal
import sys
import tempfile
import traceback
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial
from multiprocessing.connection import Connection

from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError
from dastan.exports.apart.messages import PART_DONE, Coming, Ended, Expected, Rows, RowsWanted, TakenBack, receive_order
from dastan.exports.feed import carry_out
from dastan.exports.order import Order

_NICE = 5


class _Watch(Watch):
    """Tells the other process how far the file is, and asks it whether the file is still wanted."""

    def __init__(self, pipe: Connection) -> None:
        super().__init__()
        self._pipe = pipe

    def expect(self, parts: int) -> None:
        self._pipe.send(Expected(parts))

    def note_done(self) -> None:
        self._pipe.send(PART_DONE)

    def check(self) -> None:
        if self._pipe.poll():
            self.hear(self._pipe.recv())
        super().check()

    def hear(self, message: object) -> None:
        """Raises CancelledError where the file was taken back."""
        if isinstance(message, TakenBack):
            self.cancel()
            super().check()


def write_for(pipe: Connection) -> None:
    """Writes what is ordered until there is nobody any more to order anything. Raises EOFError or OSError then."""
    while True:
        message = pipe.recv()
        if isinstance(message, Coming):  # and not that one which is written already was taken back
            order = receive_order(pipe, message)
            pipe.send(Ended(_trouble_of(partial(_write, order, pipe))))
            del order, message  # the next one has the room


def _write(order: Order, pipe: Connection) -> None:
    watch = _Watch(pipe)
    sheets = [replace(each, rows=partial(_rows, at, pipe, watch)) for at, each in enumerate(order.records)]
    carry_out(replace(order, records=tuple(sheets)), watch)


def _rows(sheet: int, pipe: Connection, watch: _Watch) -> Iterator[Sequence[object]]:
    """The records of a sheet, asked for batch by batch."""
    is_first = True
    while True:
        pipe.send(RowsWanted(sheet, is_first))
        message = pipe.recv()
        watch.hear(message)
        rows: Rows = message
        if not rows:
            return
        is_first = False
        yield from rows


def _trouble_of(work: Callable[[], None]) -> Exception | str | None:
    """What keeps something from being done: an error for people to see, or what the log is to say."""
    try:
        work()
    except AppError as error:
        return error
    except (EOFError, BrokenPipeError, ConnectionResetError):  # nobody is there any more
        raise
    except Exception:
        return traceback.format_exc()
    return None


if __name__ == "__main__":
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # that is for the other one, which says goodbye
    os.nice(_NICE)
    tempfile.tempdir = sys.argv[2]
    with suppress(EOFError, OSError):
        write_for(Connection(int(sys.argv[1])))
    shutil.rmtree(sys.argv[2], ignore_errors=True)
