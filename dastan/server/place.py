"""A model's place on the shelf: what is known of it, whether it is open or not."""

from __future__ import annotations

import asyncio
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path

from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, SourceError
from dastan.server.asked_model import ShelvedModel


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

    @property
    def opened_percent(self) -> int:
        """How far its opening is, as far as that is known; 100 once it is open."""
        found = self.watch.progress
        return 100 if self.is_open else 100 * found.done // max(found.total, 1)

    @property
    def is_open(self) -> bool:
        return self.opening.done() and self.opening.exception() is None

    @property
    def trouble(self) -> AppError | None:
        """Why it cannot be opened; None while that is not known, or where it is open."""
        failed = self.opening.exception() if self.opening.done() else None
        if failed is None or isinstance(failed, AppError):
            return failed
        return SourceError(f"Model “{self.caption}” cannot be opened.", "The server's log says why.")

    def wait(self) -> ShelvedModel:
        """The model, once it is open. Raises what kept it from opening."""
        try:
            return self.opening.result()
        except AppError:
            raise
        except Exception as exc:
            raise self.trouble or exc from exc

    async def opened(self) -> ShelvedModel:
        """The model, once it is open; whoever waits for it keeps no thread busy."""
        if not self.opening.done():
            await asyncio.wait([asyncio.wrap_future(self.opening)])
        return self.wait()
