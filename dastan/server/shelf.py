"""The models that a server answers, opened in the background so that it is up at once.

Each is opened by a thread of its own: one that takes long, or that cannot be opened, holds up no other.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from threading import Lock

from dastan.core.engine.cache import GroupCache
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, SourceError
from dastan.server.asked_model import ShelvedModel
from dastan.server.place import Place
from dastan.sources.columnar import load_kernels
from dastan.sources.columnar.cut_short import CUT_SHORT
from dastan.sources.files.folder import OpenModel, open_folder
from dastan.sources.files.written import MODEL_NAMES, find_written

_logger = logging.getLogger(__name__)


LOOK_AGAIN_S = 1.0
"""The folders, and a model's files, are looked at so often at most: whether they are still what was read."""
_MOST_AT_ONCE = 64
"""So many models are opened at a time, more than a team has: none waits for another."""


class Shelf:
    """Models by name. Safe for threads: a place never changes; the tuple of them is replaced whole, under the lock.

    Args: `folders` are those that hold a model just now; they are asked for anew while the server runs.
    """

    def __init__(
        self, folders: Callable[[], tuple[Path, ...]], open_one: Callable[[Path, Watch], OpenModel] = open_folder
    ):
        self._folders = folders
        self._open_one = open_one
        self._openers = ThreadPoolExecutor(_MOST_AT_ONCE, thread_name_prefix="opening")
        self._warmer = ThreadPoolExecutor(1, thread_name_prefix="warming")
        self._lock = Lock()
        self._places: tuple[Place, ...] | None = None
        self._listed = 0.0
        """When the folders were last listed."""
        self._looked: dict[str, float] = {}
        """When each model's files were last looked at."""

    def places(self) -> tuple[Place, ...]:
        """All models, which begin to be opened if that has not begun. A server starts once it is about to listen.

        One that was added is among them within a second, and so is one that could not be opened and has other files
        since; one whose folder is gone is not.
        """
        with self._lock:
            now = time.monotonic()
            if self._places is None or now - self._listed >= LOOK_AGAIN_S:
                self._listed = now
                known = {each.folder: each for each in self._places or ()}
                self._places = tuple(self._kept(known.get(each)) or self._place(each) for each in self._folders())
            return _told_apart(self._places)

    def _kept(self, place: Place | None) -> Place | None:
        """A place that need not be opened again, as far as a quick look tells: its document is what it was, and where
        it could not be opened all else too."""
        if place is None:
            return None
        has_failed = place.opening.done() and not place.is_open
        if has_failed:
            return place if place.found == _found_in(place.folder) else None
        return place if _document_in(place.folder) <= place.found else None

    def look_again(self) -> None:
        """Lists the folders, and looks at their files, anew at the next look: one was put there, or changed."""
        with self._lock:
            self._listed = -LOOK_AGAIN_S
            self._looked.clear()

    def find(self, name: str) -> Place | None:
        """The place of the model of that name."""
        return next((each for each in self.places() if each.name == name), None)

    def current(self, place: Place) -> Place:
        """The same place; a new one, which is being opened, where the model's files are other ones by now."""
        if not place.opening.done():
            return place
        now = time.monotonic()
        with self._lock:
            if now - self._looked.get(place.name, 0.0) < LOOK_AGAIN_S:
                return next((each for each in self._places or () if each.name == place.name), place)
            self._looked[place.name] = now
        if place.is_open and place.wait().opened.is_current():
            return place
        with self._lock:
            known = self._places or ()
            if place not in known:  # another thread was quicker
                return next((each for each in known if each.name == place.name), place)
            at = known.index(place)
            fresh = self._place(place.folder)
            self._places = (*known[:at], fresh, *known[at + 1 :])
        return fresh

    def close(self) -> None:
        self._openers.shutdown(cancel_futures=True)
        self._warmer.shutdown(cancel_futures=True)

    def _place(self, folder: Path) -> Place:
        found = _found_in(folder)
        watch = Watch()
        opening = self._openers.submit(_shelve, folder, watch, self._open_one)
        opening.add_done_callback(self._warm_soon)
        try:
            written = find_written(folder).read()
        except AppError:  # opening it says the same, and the library shows it
            return Place(folder.stem, folder.stem, "", folder, opening, watch, found)
        roles = tuple((each.name, each.caption) for each in written.roles)
        return Place(written.name, written.caption, written.description, folder, opening, watch, found, roles)

    def _warm_soon(self, opening: Future[ShelvedModel]) -> None:
        if not opening.cancelled() and opening.exception() is None:
            try:
                self._warmer.submit(_warm, opening.result())
            except RuntimeError:
                return  # the server is ending


def _told_apart(places: tuple[Place, ...]) -> tuple[Place, ...]:
    """The places; of two models of one name the second cannot be opened, and says why: questions name the model."""
    first: dict[str, Place] = {}
    found = []
    for each in places:
        known = first.setdefault(each.name, each)
        if known is not each:
            opening: Future[ShelvedModel] = Future()
            opening.set_exception(
                SourceError(
                    f"Two models are called “{each.name}”: in {known.folder.name} and in {each.folder.name}.",
                    f"Give the one in {each.folder.name} another `name`.",
                )
            )
            each = replace(each, opening=opening)
        found.append(each)
    return tuple(found)


def _found_in(folder: Path) -> frozenset[tuple[str, int, int]]:
    """The files of a folder, each with its size and time; none where it cannot be listed."""
    try:
        files = [(each.name, each.stat()) for each in folder.iterdir() if each.is_file()]
    except OSError:
        return frozenset()
    return frozenset((name, file.st_size, file.st_mtime_ns) for name, file in files)


def _document_in(folder: Path) -> frozenset[tuple[str, int, int]]:
    """The document of a folder, as `_found_in` lists it; none where the place is a document itself."""
    files = [(name, folder / name) for name in MODEL_NAMES if (folder / name).is_file()]
    return frozenset((name, file.stat().st_size, file.stat().st_mtime_ns) for name, file in files)


def _warm(shelved: ShelvedModel) -> None:
    try:
        load_kernels()
        shelved.opened.source.warm()
    except Exception:  # nobody waits for it: what it left undone is made when a question needs it
        _logger.exception("A model could not be made ready beforehand")


def _shelve(folder: Path, watch: Watch, open_one: Callable[[Path, Watch], OpenModel]) -> ShelvedModel:
    CUT_SHORT.watch()
    try:
        opened = open_one(folder, watch)
    except AppError:
        raise
    except Exception:
        _logger.exception("A model could not be opened")
        raise
    return ShelvedModel(opened, GroupCache(opened.source.group, opened.source.members))
