"""The models that a server answers, opened in the background so that it is up at once.

Each is opened by a thread of its own: one that takes long, or that cannot be opened, holds up no other.
"""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from pathlib import Path
from threading import Lock
from typing import Protocol

from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import Groups, Request, Source
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, InputError, SourceError
from dastan.core.model.document import SemanticModel
from dastan.sources.columnar import load_kernels
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.cut_short import CUT_SHORT
from dastan.sources.files.folder import OpenModel, open_folder
from dastan.sources.files.written import MODEL_NAMES, find_written

_logger = logging.getLogger(__name__)


class AskedModel(Protocol):
    """A model as questions are asked of it: one that lies open on the shelf, or one as a frozen copy holds it."""

    @property
    def model(self) -> SemanticModel: ...

    @property
    def source(self) -> Source: ...

    @property
    def version(self) -> str:
        """Of all that is read: another one means that no answer from before holds."""
        ...

    @property
    def today(self) -> date:
        """What moving periods are counted from."""
        ...

    def group(self, request: Request) -> Groups:
        """Answers a request, from memory where it is there."""
        ...


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class ShelvedModel:
    """An open model with the cache of its groups."""

    opened: OpenModel
    cache: GroupCache

    @property
    def model(self) -> SemanticModel:
        return self.opened.model

    @property
    def source(self) -> ColumnSource:
        return self.opened.source

    @property
    def version(self) -> str:
        return self.opened.version

    @property
    def today(self) -> date:
        return date.today()

    def group(self, request: Request) -> Groups:
        return self.cache.group(request)


def files_since(model: AskedModel) -> str | None:
    """When the newest of a model's files was written, ISO in UTC; none for a model that has no files."""
    if not isinstance(model, ShelvedModel) or not model.opened.states:
        return None
    newest = max(changed for _, changed, *_ in model.opened.states.values()) / 1e9
    return datetime.fromtimestamp(newest, UTC).isoformat(timespec="seconds")


def on_shelf(model: AskedModel) -> ShelvedModel:
    """A model with the files that it reads. Raises InputError for a frozen copy and a table, which have none."""
    if not isinstance(model, ShelvedModel):
        raise InputError(
            "These numbers were worked out by an analysis, and are in no file to be held against.",
            "Look at them in that analysis.",
        )
    return model


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
