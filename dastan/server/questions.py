"""The questions that are being answered just now: how far each is, and how to take one back."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from threading import Lock
from typing import Annotated

from fastapi import Query

from dastan.core.engine.watch import Watch
from dastan.core.errors import NotFoundError
from dastan.server.admission import Admission


@dataclass(frozen=True, slots=True)
class QuestionProgress:
    """How many of the parts of a question are answered. `place` is its place in the queue, where it waits in it."""

    done: int
    total: int
    place: int | None


QuestionName = Annotated[str | None, Query(description="A name by which to follow the question, or take it back.")]


class Questions:
    """Watches by who asks and the name that their page gave the question. Safe for threads, under its lock.

    Args: `admissions` are where questions wait, and the files that are made of their answers.
    """

    def __init__(self, *admissions: Admission) -> None:
        self._admissions = admissions
        self._watches: dict[tuple[str, str], Watch] = {}
        self._lock = Lock()

    @contextmanager
    def asked(self, reader: str, name: str | None) -> Iterator[Watch]:
        """A watch for a question while it is being answered; without a name nobody can ask after it."""
        watch = Watch()
        if name is None:
            yield watch
            return
        with self._lock:
            self._watches[reader, name] = watch
        try:
            yield watch
        finally:
            with self._lock:
                self._watches.pop((reader, name), None)

    def progress(self, reader: str, name: str) -> QuestionProgress:
        """How far a question is, or how far from its turn. Raises NotFoundError when it is answered, or another's."""
        watch = self._find(reader, name)
        found = watch.progress
        return QuestionProgress(found.done, found.total, self.place(watch))

    def place(self, watch: Watch) -> int | None:
        """The place of what a watch follows in the queue that it waits in; None where it does not wait."""
        return next((found for each in self._admissions if (found := each.place(watch)) is not None), None)

    def cancel(self, reader: str, name: str) -> None:
        """Takes a question back. Raises NotFoundError when it is answered, or another's."""
        self._find(reader, name).cancel()

    def _find(self, reader: str, name: str) -> Watch:
        with self._lock:
            found = self._watches.get((reader, name))
        if found is None:
            raise NotFoundError("This question is not being answered now.", "", code="question-gone")
        return found
