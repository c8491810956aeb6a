"""A process that writes files, as the one sees it that orders them."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import islice
from multiprocessing import Pipe
from tempfile import TemporaryDirectory

from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError, SourceError
from dastan.exports.apart.messages import PART_DONE, Ended, Expected, Rows, RowsWanted, TakenBack, send_order
from dastan.exports.order import Order
from dastan.exports.record_sheet import BATCH, RecordSheet
from dastan.exports.written_whole import part_of

_LOOK_S = 0.1
PATIENCE_S = 5.0
"""One that was told to stop and did not is ended."""
LARGE_CELLS = 1_000_000
"""One that has written so large a table is not used again, for it would keep some of the memory that it took."""


class WritingProcess:
    """Used by one thread at a time."""

    def __init__(self) -> None:
        self._pipe, theirs = Pipe()
        self._scratch = TemporaryDirectory(prefix="dastan-", ignore_cleanup_errors=True)
        program = [sys.executable, "-P", "-m", "dastan.exports.apart.writer"]
        command = [*program, str(theirs.fileno()), self._scratch.name]
        self._process = subprocess.Popen(command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL)
        theirs.close()
        self.is_fit = True
        """Whether it can write another file."""

    def write(self, order: Order, watch: Watch) -> None:
        """Has a file written. Raises what `carry_out` raises, and SourceError where the process came to its end."""
        self.is_fit = False
        try:
            ended = self._followed(order, watch)
        except (EOFError, OSError) as error:
            raise SourceError(
                "The file was not written: the process that wrote it came to its end.",
                "Try it again; should it happen again, take a smaller table, or ask whoever runs this for memory.",
            ) from error
        finally:
            if not self.is_fit:
                self.end()
                part_of(order.file, self._process.pid).unlink(missing_ok=True)
        if isinstance(ended.trouble, str):
            raise RuntimeError(f"A file was not written:\n{ended.trouble}")
        if ended.trouble is not None:
            raise ended.trouble

    def end(self) -> None:
        """Ends it, whatever it is doing."""
        self.is_fit = False
        self._pipe.close()
        self._process.kill()
        self._process.wait()
        self._scratch.cleanup()

    def _followed(self, order: Order, watch: Watch) -> Ended:
        """Tells the watch how far the file is, hands out the records that are asked for, and returns how it ended.

        Raises: EOFError, OSError where the process is gone; CancelledError where it does not stop; what keeps records
            from being read.
        """
        send_order(self._pipe, replace(order, records=tuple(replace(each, rows=_elsewhere) for each in order.records)))
        batches: Iterator[Rows] = iter(())
        stopped_at: float | None = None
        while True:
            if watch.is_cancelled and stopped_at is None:
                stopped_at = time.monotonic()
                self._pipe.send(TakenBack())
            if not self._pipe.poll(_LOOK_S):
                if stopped_at is not None and time.monotonic() - stopped_at > PATIENCE_S:
                    raise CancelledError("The file was taken back.", "Nothing was written.")
                continue
            match self._pipe.recv():
                case Expected(parts):
                    watch.expect(parts)
                case RowsWanted(at, is_first):
                    batches = _batches(order.records[at]) if is_first else batches
                    self._pipe.send(next(batches, ()))
                case Ended() as ended:
                    self.is_fit = order.table.row_count * order.table.column_count < LARGE_CELLS
                    return ended
                case message if message == PART_DONE:
                    watch.note_done()


def _batches(sheet: RecordSheet) -> Iterator[Rows]:
    rows = sheet.rows()
    while batch := list(islice(rows, BATCH)):
        yield batch


def _elsewhere() -> Iterator[Sequence[object]]:
    """Records lie in the process that orders, and are asked for there."""
    raise AssertionError("these are asked for over the pipe")
