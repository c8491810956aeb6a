"""The files of a model as they were when reading began: all that is read belongs to that one state of them."""

from __future__ import annotations

from pathlib import Path

from dastan.core.errors import SourceError

State = tuple[int, int, int, int]
"""A file's length, the times of its last change and of the last change of anything about it, and its number on its
disk: who sets the first time back, as some copying does, does not set the second."""


class Snapshot:
    """Each file's state. Never changes, so that threads share it."""

    def __init__(self, files: list[Path]) -> None:
        self.files: dict[Path, State] = {each: _state(each) for each in files}

    def check(self, file: Path | None = None) -> None:
        """Raises SourceError where a file, or any of them, is not what it was."""
        for each in (file,) if file is not None else tuple(self.files):
            if each in self.files and _state(each) != self.files[each]:
                raise changed(each)


def changed(file: Path) -> SourceError:
    """The error for a file that was replaced while it was read from."""
    return SourceError(
        f"{file.name} was replaced or changed while its model was open, so nothing of it was mixed with what was read.",
        "Ask again: the model is opened anew from the files as they are.",
        code="source-changed",
    )


def _state(file: Path) -> State:
    try:
        found = file.stat()
    except OSError as exc:
        raise SourceError(f"{file.name} has vanished.", "Put the file back.", code="source-changed") from exc
    return found.st_size, found.st_mtime_ns, found.st_ctime_ns, found.st_ino
