"""What is kept beside a folder is opened again as it was, and never taken for what another state came to."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from threading import Event, Thread

import numpy as np
import pytest

from dastan.core.engine.waist import LevelRef, RecordsRequest, Request, Rights
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.reach import Grain
from dastan.core.values import Values
from dastan.sources.columnar.kept import CODED, WORKED_OUT
from dastan.sources.columnar.prepared import MISSING, Prepared
from dastan.sources.files import text_table
from dastan.sources.folders import folder as folders
from dastan.sources.folders.check import MatchNote
from dastan.sources.folders.folder import OpenModel, open_folder
from tests.sources.folder import write_folder

SALES = Grain("sales", ())
WHOLE = Rights("a")


@pytest.fixture(autouse=True)
def small_folders() -> Iterator[None]:
    """Small folders are kept too."""
    before = folders.PREPARE_FROM
    folders.PREPARE_FROM = 0
    yield
    folders.PREPARE_FROM = before


def answers(opened: OpenModel) -> list[object]:
    """Some of what the source answers: by a level, in all, distinct, and the records."""
    source = opened.source
    source.warm()
    found: list[object] = []
    for dimension in source.model.dimensions:
        for hierarchy in dimension.hierarchies:
            for level in hierarchy.levels:
                for measure in source.model.measures:
                    if measure.table == "sales" and measure.aggregate in ("sum", "count", "distinct"):
                        kind = measure.aggregate
                        asked = BaseAggregate(kind, measure.expression or "" if kind != "count" else "")
                        request = Request(
                            SALES,
                            (LevelRef(dimension.name, hierarchy.name, level),),
                            (BaseAggregate("count"), asked),
                            (),
                            WHOLE,
                        )
                        groups = source.group(request)
                        found.append(
                            [each.tolist() for each in groups.codes] + [each.data.tolist() for each in groups.values]
                        )
    found.append(source.records(RecordsRequest(SALES, (), WHOLE)).rows)
    return found


def kept(path: Path) -> list[Path]:
    return sorted((path / ".dastan" / "prepared").iterdir())


def test_opened_again_it_is_mapped_and_answers_the_same(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    maker = open_folder(folder)
    first = answers(maker)
    again = open_folder(folder)
    assert answers(again) == first
    assert first
    for each in (maker, again):
        codes = each.source.codes(SALES, each.model.dimensions[0], None)
        assert isinstance(codes.base, np.memmap)
        # Who made it maps it anew as well, when all is made.
        assert Path(str(codes.base.filename)).suffix == ".npy"


def test_opened_again_no_record_is_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = write_folder(tmp_path)
    sales = folder / "sales.csv"
    sales.write_text(sales.read_text() + ",X9,Boat,1,1.00\n")
    maker = open_folder(folder)
    first = answers(maker)
    maker.source.prepared.settle()  # type: ignore[union-attr]

    def read(*_: object) -> None:
        raise AssertionError("A file of records was read.")

    monkeypatch.setattr(text_table, "read_csv", read)
    monkeypatch.setattr("dastan.sources.folders.check.check_data", read)
    again = open_folder(folder)
    assert again.notes == maker.notes
    assert any(isinstance(each, MatchNote) for each in again.notes)
    assert answers(again) == first


def test_what_is_kept_of_what_is_worked_out_has_a_room_that_can_be_set(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    plenty = open_folder(folder, room=100.0)
    first = answers(plenty)
    prepared = plenty.source.prepared
    assert prepared is not None
    assert prepared.size_bytes(("level",)) > 0
    coded, most = prepared.size_bytes(CODED), prepared.size_bytes()
    assert most == sum(each.stat().st_size for each in prepared.folder.glob("*.*") if each.suffix != ".jsonl")
    room = prepared.size_bytes(WORKED_OUT) / coded / 2
    less = open_folder(folder, room=room)  # what is too much by now goes
    assert answers(less) == first
    prepared = less.source.prepared
    assert prepared is not None
    assert 0 < prepared.size_bytes(WORKED_OUT) <= room * coded
    assert prepared.size_bytes(CODED) == coded
    assert prepared.size_bytes() == sum(
        each.stat().st_size for each in prepared.folder.glob("*.*") if each.suffix != ".jsonl"
    )
    assert answers(open_folder(folder, room=0.0)) == first


def test_questions_go_on_while_all_is_mapped_anew(tmp_path: Path) -> None:
    opened = open_folder(write_folder(tmp_path))
    expected = answers(opened)
    ended = Event()

    def map_anew() -> None:
        while not ended.is_set():
            opened.source.map_anew()

    mapping = Thread(target=map_anew)
    mapping.start()
    try:
        for _ in range(20):
            assert answers(opened) == expected
    finally:
        ended.set()
        mapping.join()


def test_a_changed_file_is_another_state_and_the_old_one_goes(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    before = answers(open_folder(folder))
    (one,) = kept(folder)
    sales = folder / "sales.csv"
    lines = sales.read_text().splitlines()
    sales.write_text("\n".join([*lines, lines[-1]]) + "\n")
    after = answers(open_folder(folder))
    assert after != before
    (other,) = kept(folder)
    assert other != one


def test_a_damaged_file_is_noticed_and_made_again(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    before = answers(open_folder(folder))
    (place,) = kept(folder)
    files = sorted(place.glob("*.npy"))
    damaged = files[0].read_bytes()
    files[0].write_bytes(damaged[:-1] + bytes([damaged[-1] ^ 1]))
    files[1].write_bytes(files[1].read_bytes()[:-3])
    files[2].write_bytes(b"?" + files[2].read_bytes()[1:])
    assert answers(open_folder(folder)) == before
    assert Prepared(place.parent, place.name).broken() == []


PULLED = """
import os, sys
from pathlib import Path
import numpy as np
from dastan.sources.columnar import prepared
kept = prepared.Prepared(Path(sys.argv[1]), "state")
setattr({place}, "{step}", lambda *_: os._exit(9))
kept.put("two", np.arange(9))
kept.settle()
"""


@pytest.mark.parametrize(("place", "step"), [("os", "fsync"), ("Path", "replace"), ("kept", "_note")])
def test_what_was_interrupted_leaves_what_was_there(tmp_path: Path, place: str, step: str) -> None:
    prepared = Prepared(tmp_path, "state")
    prepared.put("one", np.arange(5))
    prepared.settle()
    manifest = (tmp_path / "state" / "manifest.jsonl").read_text()
    ended = subprocess.run([sys.executable, "-c", PULLED.format(place=place, step=step), tmp_path], check=False)
    assert ended.returncode == 9
    assert (tmp_path / "state" / "manifest.jsonl").read_text() == manifest
    again = Prepared(tmp_path, "state")
    assert again.get("two") is MISSING
    assert again.get("one").tolist() == [0, 1, 2, 3, 4]
    again.put("two", np.arange(9))
    again.settle()
    assert again.get("two").tolist() == list(range(9))


@pytest.fixture
def disk_answers(monkeypatch: pytest.MonkeyPatch) -> Event:
    """Until it is set, nothing that is written reaches the disk."""
    gate, synced = Event(), os.fsync

    def later(file: int) -> None:
        gate.wait(10)
        synced(file)

    monkeypatch.setattr("dastan.sources.columnar.prepared.os.fsync", later)
    return gate


def test_what_has_not_settled_is_used_and_made_anew_under_the_same_name(tmp_path: Path, disk_answers: Event) -> None:
    prepared = Prepared(tmp_path, "state")
    first = prepared.put("one", np.arange(5))
    assert first.tolist() == [0, 1, 2, 3, 4]
    assert not prepared.is_filled
    disk_answers.set()
    assert prepared.put("one", np.arange(3)).tolist() == [0, 1, 2]
    prepared.settle()
    assert first.tolist() == [0, 1, 2, 3, 4]
    assert Prepared(tmp_path, "state").get("one").tolist() == [0, 1, 2]


def test_two_that_make_the_same_do_not_disturb_each_other(tmp_path: Path, disk_answers: Event) -> None:
    one, other = Prepared(tmp_path, "state"), Prepared(tmp_path, "state")
    first = one.put("one", np.arange(5000))
    second = other.put("one", np.arange(5000))
    assert first.tolist() == second.tolist() == list(range(5000))
    disk_answers.set()
    one.settle()
    other.settle()
    assert first.tolist() == second.tolist() == list(range(5000))
    assert Prepared(tmp_path, "state").get("one").tolist() == list(range(5000))


def test_what_was_left_half_written_goes_after_a_while(tmp_path: Path) -> None:
    prepared = Prepared(tmp_path, "state")
    prepared.put("one", np.arange(5))
    prepared.settle()
    old, new = (tmp_path / "state" / f"{name}.making" for name in ("old", "new"))
    old.touch()
    new.touch()
    os.utime(old, (0, 0))
    prepared.forget_others()
    assert (old.exists(), new.exists()) == (False, True)
    assert prepared.get("one").tolist() == [0, 1, 2, 3, 4]


def test_a_manifest_that_cannot_be_read_is_begun_anew(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    before = answers(open_folder(folder))
    (place,) = kept(folder)
    manifest = place / "manifest.jsonl"
    for wrong in (b"{", b"[]", b"\xff\xfe", manifest.read_bytes()[:-9]):
        manifest.write_bytes(wrong)
        assert answers(open_folder(folder)) == before
        whole = manifest.read_bytes().splitlines()[1:]
        assert len([json.loads(each) for each in whole if each.endswith(b"}}")]) > 5
        assert Prepared(place.parent, place.name).is_filled


def test_every_kind_comes_back_as_it_was(tmp_path: Path) -> None:
    prepared = Prepared(tmp_path, "state")
    values = Values(np.array([1, 2]), 2, np.array([True, False]))
    found = prepared.put("values", values)
    assert (found.data.tolist(), found.scale, found.present.tolist()) == ([1, 2], 2, [True, False])
    assert prepared.put("none", None) is None
    assert prepared.put("text", "2025-12-31") == "2025-12-31"
    assert [each.tolist() for each in prepared.put("pair", (np.arange(2), np.arange(3)))] == [[0, 1], [0, 1, 2]]
    thing = object()
    assert prepared.put("other", thing) is thing
    assert prepared.get("other") is MISSING


def test_a_folder_that_takes_nothing_is_answered_all_the_same(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    tried: list[str] = []

    def refused(self: Prepared, name: str, write: object) -> dict[str, object]:
        tried.append(name)
        raise PermissionError(name)

    monkeypatch.setattr(Prepared, "_write", refused)
    folder = write_folder(tmp_path)
    found = answers(open_folder(folder))
    assert len(tried) == 1
    monkeypatch.undo()
    assert answers(open_folder(folder)) == found


def test_a_damaged_column_is_read_anew(tmp_path: Path) -> None:
    folder = write_folder(tmp_path)
    before = answers(open_folder(folder))
    (place,) = kept(folder)
    for file in place.glob("*.arrow"):
        whole = bytearray(file.read_bytes())
        middle = whole.index(b"ARROW1", 8)
        whole[middle - 1] ^= 1
        file.write_bytes(bytes(whole))
    opened = open_folder(folder)
    assert answers(opened) == before
    assert opened.source.prepared is not None
    assert opened.source.prepared.broken() == []
