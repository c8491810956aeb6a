"""Files that people bring with their browser: received part by part, looked at, and made a model of, all or nothing.

What is not done yet lies beside the models in a folder of its own, which no model is looked for in. It is there after a
restart too, so that whoever was interrupted goes on where they were. Only a whole model is put among the others.
"""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from itertools import takewhile
from pathlib import Path
from threading import Lock
from uuid import uuid4
from weakref import WeakValueDictionary

from dastan.core.engine.watch import Watch
from dastan.core.errors import ConflictError, InputError, LimitError, NotFoundError, SourceError
from dastan.core.model.document import SemanticModel
from dastan.core.model.proposing.naming import caption_of, name_of
from dastan.documents.write import written
from dastan.server.fetched import FETCHED, FetchedTable, fetched_in, note_fetched
from dastan.sources.files.looking.document import PROPOSED
from dastan.sources.files.looking.folder import propose_model
from dastan.sources.files.packed import TABLES, kind_of
from dastan.sources.files.weight import unpacked_bytes
from dastan.sources.files.written import MODEL_NAMES, WrittenModel, find_written
from dastan.sources.files.zipped import ARCHIVE, take_out
from dastan.sources.folders.folder import files_of_model, open_folder

_UNDONE = ".bringing"
_DELETED = ".deleted"
_STAGED, _OLD, _RENEWED = "staged", "old", "renewed"
KEPT_DAYS = 30
"""So long a deleted model can be brought back."""
_OWNER = "owner"
_FILES = "files"
_MOST_UNDONE = 8
"""Of one person: the oldest go."""
_MOST_FILES = 60
_LONGEST_NAME = 120
_KEPT_FREE_BYTES = 2**30
"""So much of the disk is left to everything else."""


@dataclass(frozen=True, slots=True)
class BroughtFile:
    """A file, and how much of it is there."""

    name: str
    bytes: int


@dataclass(frozen=True, slots=True)
class FilesBrought:
    """What one person brings: its files, by name."""

    id: str
    files: tuple[BroughtFile, ...]


class Bringing:
    """Files on their way in, below the folder that models are put into. Safe for threads: whoever writes to what is
    brought, or makes a model of it, holds its lock."""

    def __init__(self, models: Path, most_bytes: int) -> None:
        """Args: `most_bytes` is how much may be brought at once, as it is and unpacked: it is read whole."""
        self._models = models
        self.most_bytes = most_bytes
        self._undone = models / _UNDONE
        self._deleted = models / _DELETED
        self._lock = Lock()
        # Each for as long as somebody holds it, or waits for it.
        self._locks: WeakValueDictionary[str, Lock] = WeakValueDictionary()

    def begin(self, person: str) -> FilesBrought:
        """A place for files. Raises SourceError where nothing can be written."""
        id = uuid4().hex
        folder = self._undone / id
        try:
            (folder / _FILES).mkdir(parents=True)
            (folder / _OWNER).write_text(person)
        except OSError as error:
            raise _unwritable(error) from error
        for each in self._of_person(person)[:-_MOST_UNDONE]:
            with suppress(NotFoundError):  # somebody else was quicker
                self.forget(each, person)
        return FilesBrought(id, ())

    def look(self, id: str, person: str) -> FilesBrought:
        """What is there by now. Raises NotFoundError where it is not theirs, or gone."""
        with self._locked(id):
            files = sorted((self._folder(id, person) / _FILES).iterdir())
            return FilesBrought(id, tuple(BroughtFile(each.name, each.stat().st_size) for each in files))

    def receive(self, id: str, person: str, name: str, offset: int, part: bytes) -> BroughtFile:
        """Puts a part of a file behind what is there of it.

        Raises: NotFoundError; InputError for a name that no table is read from; ConflictError where the file does not
        end at `offset`: the part is there already, or one before it is missing; LimitError for a full disk.
        """
        _check_name(name)
        with self._locked(id):
            folder = self._folder(id, person)
            files = folder / _FILES
            file = files / name
            there = file.stat().st_size if file.exists() else 0
            if there != offset:
                raise ConflictError(
                    f"Of {name} {there:,} bytes are here, and the part that came begins at {offset:,}.",
                    "Ask what is there, and go on behind it.",
                )
            if not file.exists() and len(list(files.iterdir())) >= _MOST_FILES:
                raise LimitError(f"More than {_MOST_FILES} files are not taken at once.", "Bring them in several goes.")
            if sum(each.stat().st_size for each in files.iterdir()) + len(part) > self.most_bytes:
                raise self._too_much()
            if shutil.disk_usage(folder).free < _KEPT_FREE_BYTES + len(part):
                raise LimitError("The server's disk is full.", "Tell its administrator; nothing was lost.")
            try:
                with file.open("ab") as opened:
                    opened.write(part)
            except OSError as error:
                os.truncate(file, there)
                raise _unwritable(error) from error
            return BroughtFile(name, there + len(part))

    def put(self, id: str, person: str, name: str, write: Callable[[Path], FetchedTable]) -> None:
        """Has a file written among what is brought, and notes where it came from.

        Raises: NotFoundError; LimitError where it is too large; what `write` raises. Nothing is left of it then.
        """
        _check_name(name)
        with self._locked(id):
            folder = self._folder(id, person)
            file = folder / _FILES / name
            try:
                fetched = write(file)
                if sum(each.stat().st_size for each in (folder / _FILES).iterdir()) > self.most_bytes:
                    raise self._too_much()
                note_fetched(folder, (*fetched_in(folder), fetched))
            except BaseException as error:
                file.unlink(missing_ok=True)
                if isinstance(error, OSError):
                    raise _unwritable(error) from error
                raise

    def make(self, id: str, person: str, taken: Iterable[str], captions: Iterable[str], watch: Watch) -> SemanticModel:
        """Proposes a model of what was brought, opens it once to see that it holds, and puts it among the others.

        Args: `taken` are names of models that are there, `captions` those of models that the person sees.
        Raises: NotFoundError; InputError where a file cannot be read: all is as it was.
        """
        with self._locked(id):
            files = self._folder(id, person) / _FILES
            about_all = self._whole_files(files)
            found = self._unpacked(files)
            self._check_weight(found)
            about = about_all[0].name.split(".")[0] if len(about_all) == 1 else _shared_name(about_all)
            with told_of_input():
                model = propose_model(files, watch)
            known = [*taken, *self.deleted(), *(each.name for each in self._models.iterdir())]
            model = replace(model, name=name_of(about, known, "model"), caption=caption_of(about, captions))
            (files / MODEL_NAMES[0]).write_text(written(model, PROPOSED), encoding="utf-8")
            fetched = fetched_in(files.parent)
            try:
                with told_of_input():
                    open_folder(files, watch)
                if fetched:
                    note_fetched(files, fetched)
            except BaseException:
                (files / MODEL_NAMES[0]).unlink(missing_ok=True)
                shutil.rmtree(files / ".dastan", ignore_errors=True)
                raise
            files.rename(self._models / model.name)
        self._forget(id)
        return model

    def renew(self, id: str, person: str, model: str, watch: Watch) -> None:
        """Puts newer files in place of those of the same names in a model, and others beside them where its document
        reads them; all of them once the whole has been opened, or none.

        Raises: NotFoundError; InputError for a file that the document does not read, or that does not fit it.
        """
        with self._locked(id), self._locked(model):
            brought = self._folder(id, person)
            written = self._written(model)
            try:
                self._stage(brought, written, watch)
                (brought / _RENEWED).write_text(model)
                written.folder.rename(brought / _OLD)
                (brought / _STAGED).rename(self._models / model)
            finally:
                shutil.rmtree(brought / _STAGED, ignore_errors=True)
            self._forget(id)

    def _stage(self, brought: Path, written: WrittenModel, watch: Watch) -> None:
        """Puts a model with newer files together, beside the one that is there, and opens it."""
        new, staged = self._unpacked(brought / _FILES), brought / _STAGED
        # What stays is not copied: a file has two names for a while.
        shutil.copytree(written.folder, staged, copy_function=_linked, ignore=shutil.ignore_patterns(".dastan"))
        for each in new:
            (staged / each.name).unlink(missing_ok=True)
            _linked(str(each), str(staged / each.name))
        model = written.read()
        with told_of_input():
            read = files_of_model(staged, model)
        unread = [each.name for each in new if (staged / each.name).resolve() not in read]
        if unread:
            known = ", ".join(sorted({each.name for each in files_of_model(written.folder, model)}))
            raise InputError(
                f"{unread[0]} is none of the files that this model reads.",
                f"Call it as the file that it takes the place of: {known}.",
            )
        self._check_weight(set(read))
        with told_of_input():
            open_folder(staged, watch)
        newer = {each.file: each for each in fetched_in(brought)}
        names = {each.name for each in new}
        # What somebody brings as a file in place of one that was fetched is fetched no more.
        kept = [
            newer.get(each.file, each) for each in fetched_in(staged) if each.file in newer or each.file not in names
        ]
        (staged / FETCHED).unlink(missing_ok=True)  # it may be the very file that is there
        if kept:
            note_fetched(staged, tuple(kept))

    def _whole_files(self, folder: Path) -> list[Path]:
        """What was brought, by name. Raises InputError where that is nothing, or a file holds nothing."""
        found = sorted(folder.iterdir())
        if not found:
            raise InputError("No file was brought yet.", "Choose the files with your data.")
        empty = [each.name for each in found if not each.stat().st_size]
        if empty:
            raise InputError(
                f"{' and '.join(empty[:3])} {'is' if len(empty) == 1 else 'are'} empty.",
                "Leave it out, or save it again.",
            )
        return found

    def _unpacked(self, folder: Path) -> list[Path]:
        """What was brought, with the tables of archives in place of these. Raises InputError, LimitError."""
        for each in self._whole_files(folder):
            if each.suffix.lower() == ARCHIVE:
                with told_of_input():
                    take_out(each, self.most_bytes, _MOST_FILES)
                each.unlink()
        return self._whole_files(folder)

    def _check_weight(self, files: Iterable[Path]) -> None:
        """Raises LimitError where to read some files would fill the memory."""
        if sum(unpacked_bytes(each, self.most_bytes) for each in files) > self.most_bytes:
            raise self._too_much()

    def mend(self) -> None:
        """Puts back what a server that ended in the middle of renewing a model had taken away."""
        for each in self._undone.iterdir() if self._undone.is_dir() else ():
            if (each / _OLD).is_dir() and (each / _RENEWED).is_file():
                model = self._models / (each / _RENEWED).read_text()
                if not model.exists():
                    (each / _OLD).rename(model)

    def _written(self, model: str) -> WrittenModel:
        if not (self._models / model).is_dir():
            raise NotFoundError("This model is not here any more.", "Load the page anew.")
        return find_written(self._models / model)

    def delete(self, model: str) -> None:
        """Takes a model away, to be brought back for a while: those that went before that are gone for good.

        Raises: NotFoundError where it is not there.
        """
        until = time.time() - KEPT_DAYS * 86_400
        self._deleted.mkdir(exist_ok=True)
        for each in self._deleted.iterdir():
            if each.stat().st_mtime < until:
                shutil.rmtree(each, ignore_errors=True)
        with self._locked(model):
            folder = self._written(model).folder
            os.utime(folder)
            folder.rename(self._deleted / model)

    def bring_back(self, model: str) -> None:
        """Puts a deleted model among the others again. Raises NotFoundError where it is gone."""
        with self._locked(model):
            if not (self._deleted / model).is_dir():
                raise NotFoundError("This model cannot be brought back any more.", "Bring its files anew.")
            (self._deleted / model).rename(self._models / model)

    def deleted(self) -> frozenset[str]:
        """The names of models that were deleted and can be brought back."""
        return frozenset(each.name for each in self._deleted.iterdir()) if self._deleted.is_dir() else frozenset()

    def _too_much(self) -> LimitError:
        most = f"{self.most_bytes / 1e6:,.0f} MB"
        return LimitError(
            f"More than {most} at once, unpacked, are not taken here.",
            "Bring a part of it; or ask the server's administrator to put the files among the models.",
        )

    def forget(self, id: str, person: str) -> None:
        """Lets go of what was brought. Raises NotFoundError."""
        with self._locked(id):
            self._folder(id, person)
            self._forget(id)

    def _forget(self, id: str) -> None:
        shutil.rmtree(self._undone / id, ignore_errors=True)

    def holding(self, model: str) -> Lock:
        """Held while a model's document or its files are put in place of others."""
        return self._locked(model)

    def _locked(self, id: str) -> Lock:
        with self._lock:
            return self._locks.setdefault(id, Lock())

    def _folder(self, id: str, person: str) -> Path:
        folder = self._undone / id
        is_theirs = id.isalnum() and (folder / _OWNER).is_file() and (folder / _OWNER).read_text() == person
        if not is_theirs or not (folder / _FILES).is_dir():
            raise NotFoundError("These files are not on their way any more.", "Bring them again.")
        return folder

    def _of_person(self, person: str) -> list[str]:
        """What a person has on the way, the oldest first."""
        found: list[tuple[float, str]] = []
        for each in self._undone.iterdir():
            with suppress(OSError):  # gone meanwhile
                if (each / _OWNER).read_text() == person:
                    found.append((each.stat().st_mtime, each.name))
        return [name for _, name in sorted(found)]


@contextmanager
def told_of_input() -> Iterator[None]:
    """What cannot be read is of what somebody brought, and not of what is served."""
    try:
        yield
    except SourceError as error:
        raise InputError(error.message, error.hint, details=error.details) from error


def _linked(source: str, target: str) -> None:
    """A second name for a file; a copy where the disk knows no such thing."""
    try:
        os.link(source, target)
    except OSError:
        shutil.copy2(source, target)


def _check_name(name: str) -> None:
    is_plain = name == Path(name).name and not name.startswith(".") and name.isprintable() and "\\" not in name
    if not is_plain or len(name) > _LONGEST_NAME:
        raise InputError(f"“{name[:40]}” is no name for a file here.", "Give the file a short, plain name.")
    if kind_of(Path(name)) not in (*TABLES, ARCHIVE):
        raise InputError(
            f"{name} cannot be read: it is no CSV (.csv, .tsv, .txt), spreadsheet (.xlsx, .ods), JSON lines, SQLite or "
            "Parquet, nor a zip of these.",
            "Save the table as one of these, then bring that.",
        )


def _shared_name(files: list[Path]) -> str:
    """What files are called in common; else after the largest."""
    stems = [each.name.split(".")[0] for each in files]
    shared = "".join(each[0] for each in takewhile(lambda each: len(set(each)) == 1, zip(*stems, strict=False)))
    shared = shared.strip("-_ ")
    largest = max(files, key=lambda each: each.stat().st_size).name.split(".")[0]
    return shared if len(shared) > 2 else largest


def _unwritable(error: OSError) -> SourceError:
    return SourceError(f"The file cannot be kept: {error.strerror}.", "Tell the server's administrator.")
