"""A file that is there whole, or not at all."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from dastan.core.errors import SourceError


@contextmanager
def written_whole(file: Path) -> Iterator[Path]:
    """A file beside it to write to, which takes its name once all is there. Raises SourceError where the disk does not
    take it; nothing is left then."""
    part = part_of(file, os.getpid())
    try:
        yield part
        part.replace(file)
    except OSError as error:
        hint = "Make room there, or write it to another place."
        raise SourceError(f"{file.name} cannot be written: {error.strerror or error}.", hint) from error
    finally:
        part.unlink(missing_ok=True)


def part_of(file: Path, process: int) -> Path:
    """What a process writes to until all of the file is there: another one may be at the same file."""
    return file.with_name(f".{file.name}.{process}.part")
