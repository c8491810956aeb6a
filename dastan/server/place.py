"""A model's place on the shelf: what is known of it, whether it is open or not."""

from __future__ import annotations

import asyncio
import time
from concurrent.futures import Future
from dataclasses import dataclass, field
from pathlib import Path

from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, SourceError
from dastan.server.asked_model import ShelvedModel

PATIENCE_S = 3.0
"""Whoever asks while changed files are read waits so long for them; then what was read before answers."""


@dataclass(frozen=True, slots=True, eq=False)
class Place:
    """A model's place on the shelf: what its document calls it, and the model once it is open."""

    name: str
    caption: str
    description: str
    folder: Path
    opening: Future[ShelvedModel]
    watch: Watch
    """How far its opening is."""
    found: frozenset[tuple[str, int, int]] = frozenset()
    """What lay in its folder when it began to be opened: each file's name, size and time."""
    roles: tuple[tuple[str, str], ...] = ()
    """Its roles, each with its caption."""
    before: ShelvedModel | None = None
    """What was read of its files before they changed: it goes on answering until they are read anew, and where they
    cannot be."""
    began: float = field(default_factory=time.monotonic)

    @property
    def opened_percent(self) -> int:
        """How far its opening is, as far as that is known; 100 once it is open."""
        found = self.watch.progress
        return 100 if self.is_open else 100 * found.done // max(found.total, 1)

    @property
    def is_read(self) -> bool:
        """Whether its files were read, as they are."""
        return self.opening.done() and self.opening.exception() is None

    @property
    def is_open(self) -> bool:
        """Whether it answers at once: from its files as they are or, once these take long or fail, as they were."""
        return self.is_read or (self.before is not None and (self.opening.done() or self._patience_s <= 0))

    @property
    def trouble(self) -> AppError | None:
        """Why it cannot be opened; None while that is not known, or where it is open."""
        return None if self.before is not None else self._failure

    @property
    def behind(self) -> AppError | None:
        """Why it answers from its files as they were before; None where it does not, or only until they are read."""
        return None if self.before is None else self._failure

    def wait(self) -> ShelvedModel:
        """The model, once it is open. Raises what kept it from opening."""
        patience = None if self.before is None else max(self._patience_s, 0.0)
        try:
            return self.opening.result(patience)
        except Exception as exc:
            if self.before is not None:
                return self.before
            raise self._failure or exc from exc

    async def opened(self) -> ShelvedModel:
        """The model, once it is open; whoever waits for it keeps no thread busy."""
        if not self.is_open:
            patience = None if self.before is None else max(self._patience_s, 0.0)
            coming = asyncio.wrap_future(self.opening)
            coming.add_done_callback(lambda each: each.cancelled() or each.exception())  # told by `wait`, or by nobody
            await asyncio.wait([coming], timeout=patience)
        return self.wait()

    @property
    def _patience_s(self) -> float:
        """How long the files are still waited for where there is something to answer from."""
        return self.began + PATIENCE_S - time.monotonic()

    @property
    def _failure(self) -> AppError | None:
        failed = self.opening.exception() if self.opening.done() else None
        if failed is None or isinstance(failed, AppError):
            return failed
        return SourceError(f"Model “{self.caption}” cannot be opened.", "The server's log says why.")
