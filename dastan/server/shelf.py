"""The models that a server answers, opened in the background so that it is up at once.

Each is opened by a thread of its own: one that takes long, or that cannot be opened, holds up no other.
"""

from __future__ import annotations

import logging
import os
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from threading import Lock

from dastan.core.engine.cache import GroupCache
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError, SourceError
from dastan.server.asked_model import ShelvedModel
from dastan.server.place import Place
from dastan.server.readings import Reading
from dastan.sources.columnar import load_kernels
from dastan.sources.columnar.cut_short import CUT_SHORT
from dastan.sources.files.written import MODEL_NAMES, find_written
from dastan.sources.folders.folder import OpenModel, open_folder

_logger = logging.getLogger(__name__)


LOOK_AGAIN_S = 1.0
"""The folders, and a model's files, are looked at so often at most: whether they are still what was read."""
QUIET_S = 3.0
"""Files that were written within this time may not be whole yet."""
_MOST_AT_ONCE = 64
"""So many models are opened at a time, more than a team has: none waits for another."""


class Shelf:
    """Models by name. Safe for threads: a place never changes; the tuple of them is replaced whole, under the lock.

    Args: `folders` are those that hold a model just now; they are asked for anew while the server runs. `note` hears of
        each reading of a model's files, on whatever thread read them. `ours` are the server's records, which are no
        model's files wherever they lie.
    """

    def __init__(
        self,
        folders: Callable[[], tuple[Path, ...]],
        open_one: Callable[[Path, Watch], OpenModel] = open_folder,
        note: Callable[[Reading], None] = lambda _: None,
        ours: Path | None = None,
    ):
        self._folders = folders
        self._open_one = open_one
        self._note = note
        self._ours = ours
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
        if place.trouble is not None:
            return place if place.found == _found_in(place.folder, self._ours) else None
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
        """The same place; a new one, whose files are being read, where these are other ones by now. What was read
        before answers meanwhile, as long as the document is the same: rights are never those of an earlier one."""
        if not place.opening.done():
            return place
        now = time.monotonic()
        with self._lock:
            if now - self._looked.get(place.name, 0.0) < LOOK_AGAIN_S:
                return next((each for each in self._places or () if each.name == place.name), place)
            self._looked[place.name] = now
        if place.is_read and place.wait().opened.is_current():
            return place
        if place.behind is not None and place.found == _found_in(place.folder, self._ours):
            return place  # what could not be read is there still
        return self._anew(place)

    def read_again(self, place: Place) -> Place:
        """Reads a model's files anew, whether they have changed or not."""
        return place if not place.opening.done() else self._anew(place)

    def look_at_files(self) -> None:
        """Begins to read what has changed, so that whoever asks next need not wait for it; not while it is still being
        written."""
        for each in self.places():
            # What could not be opened is tried again once it has other files, and by whoever asks.
            if each.is_open and _is_quiet(_found_in(each.folder, self._ours)):
                self.current(each)

    def _anew(self, place: Place) -> Place:
        before = _with_that_document(place.wait()) if place.is_open else None
        with self._lock:
            known = self._places or ()
            if place not in known:  # another thread was quicker
                return next((each for each in known if each.name == place.name), place)
            at = known.index(place)
            fresh = self._place(place.folder, before)
            self._places = (*known[:at], fresh, *known[at + 1 :])
        return fresh

    def close(self) -> None:
        self._openers.shutdown(cancel_futures=True)
        self._warmer.shutdown(cancel_futures=True)

    def _place(self, folder: Path, before: ShelvedModel | None = None) -> Place:
        found = _found_in(folder, self._ours)
        watch = Watch()
        try:
            written = find_written(folder).read()
            about = (written.name, written.caption, written.description)
            roles = tuple((each.name, each.caption) for each in written.roles)
        except AppError:  # opening it says the same, and the library shows it
            about, roles = (folder.stem, folder.stem, ""), ()
        opening = self._openers.submit(self._read, about[0], folder, watch)
        opening.add_done_callback(self._warm_soon)
        return Place(*about, folder, opening, watch, found, roles, before)

    def _read(self, model: str, folder: Path, watch: Watch) -> ShelvedModel:
        began, moment = time.monotonic(), datetime.now(UTC)
        try:
            found = _shelve(folder, watch, self._open_one)
        except AppError as error:
            self._note(Reading(model, moment, time.monotonic() - began, trouble=error))
            raise
        finally:
            # Whoever waited for it is answered from it, though files that change all the time have changed again.
            with self._lock:
                self._looked[model] = time.monotonic()
        tables = found.model.tables
        records = sum(each.row_count for name, each in found.source.tables.items() if tables[name].calendar is None)
        self._note(Reading(model, moment, time.monotonic() - began, found.version, records, len(found.opened.notes)))
        return found

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
            each = replace(each, opening=opening, before=None)
        found.append(each)
    return tuple(found)


def _with_that_document(shelved: ShelvedModel) -> ShelvedModel | None:
    """An open model whose document says what it said when it was opened; none where that is another by now."""
    try:
        return shelved if shelved.opened.written.is_current() else None
    except (OSError, AppError):
        return None


def _found_in(folder: Path, ours: Path | None) -> frozenset[tuple[str, int, int]]:
    """The files of a folder and of those in it, each with its size and time. What is prepared is not among them: its
    folder is hidden. Nor are our own records and what lies beside them, which each reading that is noted changes: what
    cannot be read would seem to be other files ever after, and be read again without an end."""
    found = set()
    for inside, folders, names in os.walk(folder):
        folders[:] = [each for each in folders if not each.startswith(".")]
        is_beside = ours is not None and Path(inside).resolve() == ours.parent.resolve()
        for name in names:
            if is_beside and ours is not None and name.startswith(ours.name):
                continue
            file = Path(inside, name)
            with suppress(OSError):  # gone by now
                state = file.stat()
                found.add((str(file.relative_to(folder)), state.st_size, state.st_mtime_ns))
    return frozenset(found)


def _is_quiet(files: frozenset[tuple[str, int, int]]) -> bool:
    """Whether none of some files was written just now: half a file may look like a whole one."""
    newest = max((changed for _, _, changed in files), default=0)
    return abs(time.time() - newest / 1e9) > QUIET_S


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
