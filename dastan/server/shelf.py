"""The models that a server answers, opened in the background so that it is up at once."""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

from dastan.core.engine import load_kernels
from dastan.core.engine.cache import GroupCache
from dastan.core.errors import AppError, NotFoundError, did_you_mean
from dastan.core.model.document import SemanticModel
from dastan.sources.folder import OpenModel, open_folder

_logger = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True, eq=False)
class ShelvedModel:
    """An open model with the cache of its groups."""

    opened: OpenModel
    cache: GroupCache

    @property
    def model(self) -> SemanticModel:
        return self.opened.model


class Shelf:
    """Models by name. Whoever asks for one that is still being opened waits for it."""

    def __init__(self, folders: tuple[Path, ...], open_one: Callable[[Path], OpenModel] = open_folder) -> None:
        self._folders = folders
        self._open_one = open_one
        self._executor = ThreadPoolExecutor(max_workers=1, thread_name_prefix="models")
        self._lock = Lock()
        self._opening: list[Future[ShelvedModel]] = []

    def start(self) -> list[Future[ShelvedModel]]:
        """Begins to open the models, if that has not begun. A server starts once it is about to listen."""
        with self._lock:
            if not self._opening:
                submit = self._executor.submit
                self._opening = [submit(_shelve, each, self._open_one) for each in self._folders]
                for each in self._opening:
                    submit(_warm, each)
            return self._opening

    def wait(self) -> list[AppError]:
        """Waits until every model is open; returns why the others are not."""
        return [error for each in self.start() if isinstance(error := each.exception(), AppError)]

    def all(self) -> list[ShelvedModel]:
        """The models that could be opened. Raises whatever kept the only one from opening."""
        opening = self.start()
        found = [each.result() for each in opening if each.exception() is None]
        if not found and opening:
            opening[0].result()
        return found

    def get(self, name: str) -> ShelvedModel:
        """The model of that name. Raises NotFoundError."""
        found = self.all()
        for each in found:
            if each.model.name == name:
                return each
        known = did_you_mean(name, (each.model.name for each in found))
        raise NotFoundError(f'There is no model "{name}" here.', known, code="missing-model")

    def close(self) -> None:
        self._executor.shutdown(cancel_futures=True)


def _warm(opening: Future[ShelvedModel]) -> None:
    if opening.exception() is not None:
        return
    try:
        opening.result().opened.source.warm()
    except Exception:  # nobody waits for it: what it left undone is made when a question needs it
        _logger.exception("A model could not be made ready beforehand")


def _shelve(folder: Path, open_one: Callable[[Path], OpenModel]) -> ShelvedModel:
    load_kernels()
    opened = open_one(folder)
    return ShelvedModel(opened, GroupCache(opened.source.group, opened.source.members))
