"""Zip archives: the tables that they hold, taken out beside them, bounded."""

from __future__ import annotations

import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path, PurePosixPath

from dastan.core.errors import SourceError
from dastan.sources.files.packed import LARGE_BYTES, MOST_UNPACKED, TABLES, kind_of

ARCHIVE = ".zip"
_PART = 2**20
_LOCKED = 0x1
"""The bit of a member that is held by a password."""


def take_out(archive: Path, most_bytes: int, most_files: int) -> list[Path]:
    """Takes the tables of an archive out, into its own folder under names of their own; all else in it stays.

    Returns: the files that were made. Raises: SourceError for an archive that is damaged, held by a password, holds no
    table, or unpacks to too much: then nothing of it is there.
    """
    made: list[Path] = []
    try:
        with zipfile.ZipFile(archive) as packed:
            members = list(_tables(packed, archive))
            unpacked = sum(each.file_size for each in members)
            _check_size(archive, unpacked, min(most_bytes, _most(archive)))
            if len(members) > most_files:
                raise SourceError(f"{archive.name} holds more than {most_files} tables.", "Bring a part of them.")
            for each in members:
                made.append(_free(archive.parent, PurePosixPath(each.filename).name))
                _write(packed, each, made[-1], unpacked)
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError) as error:
        _take_away(made)
        raise SourceError(
            f"{archive.name} cannot be unpacked: it is damaged or cut short.", "Pack it again."
        ) from error
    except SourceError:
        _take_away(made)
        raise
    return made


def _tables(packed: zipfile.ZipFile, archive: Path) -> Iterator[zipfile.ZipInfo]:
    found = False
    for each in packed.infolist():
        name = PurePosixPath(each.filename)
        is_hidden = any(part.startswith((".", "__")) for part in name.parts)
        if each.is_dir() or is_hidden or kind_of(Path(name.name)) not in TABLES:
            continue
        if each.flag_bits & _LOCKED:
            raise SourceError(f"{archive.name} is held by a password.", "Pack it again without one.")
        found = True
        yield each
    if not found:
        raise SourceError(
            f"{archive.name} holds no table: no CSV, spreadsheet, JSON lines, SQLite or Parquet file.",
            "Look what is in it.",
        )


def _most(archive: Path) -> int:
    return max(LARGE_BYTES, MOST_UNPACKED * archive.stat().st_size)


def _check_size(archive: Path, unpacked: int, most: int) -> None:
    if unpacked > most:
        raise SourceError(
            f"{archive.name} would unpack to {unpacked / 2**20:,.0f} MiB, and {most / 2**20:,.0f} MiB are the most.",
            "Unpack it yourself, and bring what you need of it.",
        )


def _write(packed: zipfile.ZipFile, member: zipfile.ZipInfo, file: Path, most: int) -> None:
    """Writes one member. What it says of its size is not believed."""
    count = 0
    with packed.open(member) as opened, file.open("xb") as out:
        while part := opened.read(_PART):
            count += len(part)
            _check_size(Path(packed.filename or ""), count, most)
            out.write(part)


def _free(folder: Path, name: str) -> Path:
    """A file of that name, or of one beside it where it is taken: two folders of an archive may have the same."""
    stem, dot, ending = name.partition(".")
    file, number = folder / name, 2
    while file.exists():
        file, number = folder / f"{stem} ({number}){dot}{ending}", number + 1
    return file


def _take_away(files: list[Path]) -> None:
    for each in files:
        each.unlink(missing_ok=True)
