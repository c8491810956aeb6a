"""A question that is being answered, or a model that is being opened: how far it is, and whether it is still wanted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from threading import Event

from dastan.core.engine.stopping import checked_by
from dastan.core.engine.waist import Groups, Request
from dastan.core.errors import CancelledError


@dataclass(frozen=True, slots=True)
class Progress:
    """How many of the parts of a question are answered, or of what is made ready; and what is at work on now."""

    done: int
    total: int
    doing: str = ""


class Watch:
    """Follows one question. Made where it is asked; told and asked from any thread: its counts are changed by the one
    thread that answers, and read by others."""

    def __init__(self) -> None:
        self._cancelled = Event()
        self._done = 0
        self._total = 0
        self._doing = ""
        self._admit: Callable[[int], None] | None = None

    @property
    def progress(self) -> Progress:
        return Progress(self._done, max(self._total, self._done), self._doing)

    def cancel(self) -> None:
        """Takes the question back: it ends at its next look."""
        self._cancelled.set()

    @property
    def is_cancelled(self) -> bool:
        """Whether the question was taken back."""
        return self._cancelled.is_set()

    def on_size(self, admit: Callable[[int], None] | None) -> None:
        """Says who is asked for memory once the question knows how large it is; nobody without."""
        self._admit = admit

    @property
    def is_admitted(self) -> bool:
        """Whether somebody has let the question run already."""
        return self._admit is not None

    def admit(self, memory_bytes: int) -> None:
        """Waits until the question may use so much memory."""
        if self._admit is not None:
            self._admit(memory_bytes)
        self.check()

    def expect(self, parts: int) -> None:
        """Says that so many more parts are coming."""
        self._total += parts

    def begin(self, part: str) -> None:
        """Says what the next part is, in words."""
        self._doing = part

    def note_done(self) -> None:
        """Says that a part is answered."""
        self._done += 1

    def check(self) -> None:
        """Raises CancelledError once the question was taken back."""
        if self._cancelled.is_set():
            raise CancelledError("The question was taken back.", "Nothing was changed; the table is as it was.")

    def watched(self, group: Callable[[Request], Groups]) -> Callable[[Request], Groups]:
        """The same way to group, that stops soon once the question was taken back."""

        def grouped(request: Request) -> Groups:
            self.check()
            with checked_by(self.check):
                return group(request)

        return grouped
