"""Zip archives: the tables that they hold, and what is refused, with nothing half taken out."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest

from dastan.core.errors import SourceError
from dastan.sources.files.zipped import take_out

TAPS = b"day,line,people\n2025-01-02,T1,3\n"


def packed(folder: Path, members: dict[str, bytes], how: int = zipfile.ZIP_DEFLATED) -> Path:
    file = folder / "year.zip"
    with zipfile.ZipFile(file, "w", how) as archive:
        for name, held in members.items():
            archive.writestr(name, held)
    return file


def take(file: Path) -> list[Path]:
    return take_out(file, 2**30, 60)


def test_tables_are_taken_out_and_all_else_stays(tmp_path: Path) -> None:
    members = {
        "2025/taps.csv": TAPS, "2024/taps.csv": TAPS * 2, "read me.pdf": b"%PDF", "__MACOSX/2025/._taps.csv": b"x",
        ".hidden/lines.csv": b"x", "2025/lines.csv.gz": b"\x1f\x8b",
    }  # fmt: skip
    made = take(packed(tmp_path, members))
    assert sorted(each.name for each in made) == ["lines.csv.gz", "taps (2).csv", "taps.csv"]
    assert (tmp_path / "taps.csv").read_bytes() == TAPS
    assert (tmp_path / "taps (2).csv").read_bytes() == TAPS * 2


def test_nothing_is_written_outside_the_folder(tmp_path: Path) -> None:
    inside = tmp_path / "inside"
    inside.mkdir()
    file = packed(inside, {"../../taps.csv": TAPS, "/etc/lines.csv": TAPS})
    take(file)
    assert sorted(each.name for each in tmp_path.iterdir()) == ["inside"]
    assert sorted(each.name for each in inside.iterdir()) == ["lines.csv", "year.zip"]


@pytest.mark.parametrize("lies", [False, True])
def test_what_unpacks_to_too_much_is_refused(tmp_path: Path, lies: bool) -> None:
    file = packed(tmp_path, {"taps.csv": b"0" * 200_000_000})
    if lies:
        # Both headers say that it is small.
        held = file.read_bytes()
        file.write_bytes(held.replace((200_000_000).to_bytes(4, "little"), (2_000).to_bytes(4, "little")))
    with pytest.raises(SourceError, match=r"would unpack to|damaged"):
        take(file)
    assert [each.name for each in tmp_path.iterdir()] == ["year.zip"]


def test_what_cannot_be_unpacked_is_told(tmp_path: Path) -> None:
    file = packed(tmp_path, {"notes.pdf": b"x"})
    with pytest.raises(SourceError, match="holds no table"):
        take(file)
    file = packed(tmp_path, {"taps.csv": TAPS * 1000, "lines.csv": TAPS * 1000}, zipfile.ZIP_STORED)
    held = bytearray(file.read_bytes())
    held[-3000 - len(TAPS) * 500] ^= 0xFF
    file.write_bytes(held)
    with pytest.raises(SourceError, match="damaged"):
        take(file)
    assert [each.name for each in tmp_path.iterdir()] == ["year.zip"]
    file.write_bytes(b"PK no archive")
    with pytest.raises(SourceError, match="damaged"):
        take(file)
    file = packed(tmp_path, {"taps.csv": TAPS})
    locked = bytearray(file.read_bytes())
    for mark in (b"PK\x03\x04", b"PK\x01\x02"):
        locked[locked.index(mark) + (6 if mark[2] == 3 else 8)] |= 1
    file.write_bytes(locked)
    with pytest.raises(SourceError, match="password"):
        take(file)
