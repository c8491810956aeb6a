"""A file is there whole, or it is not there."""

from __future__ import annotations

import errno
from dataclasses import replace
from pathlib import Path
from typing import get_args

import pytest

from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.core.errors import SourceError
from dastan.exports import order
from dastan.exports.files import write_file
from dastan.exports.kinds import FileKind
from dastan.exports.order import About
from dastan.exports.seen import SeenTable
from tests.core.asked import STAR, ask, by, question


@pytest.mark.parametrize("kind", get_args(FileKind))
def test_a_disk_that_is_full_leaves_what_was_there_before(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: FileKind
) -> None:
    document = question("boardings", rows=(by("line", "mode"),))
    table = SeenTable(ask(document), document, Dress(), STAR.model, STAR.members)
    file = tmp_path / f"table.{kind}"
    write_file(table, Dress(), About("Boardings by Mode", "Star"), file, kind, Watch())
    before = file.read_bytes()

    def full(self: Path, target: Path) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(Path, "replace", full)
    with pytest.raises(SourceError, match=rf"table.{kind} cannot be written: No space left") as error:
        write_file(table, Dress(), About("Boardings by Mode", "Star"), file, kind, Watch())
    assert error.value.hint.startswith("Make room")
    assert [each.read_bytes() for each in tmp_path.iterdir()] == [before]


def test_what_is_said_of_a_table_tells_its_data_its_day_and_who_took_it(monkeypatch: pytest.MonkeyPatch) -> None:
    document = question("boardings")
    answer = replace(ask(document), newest="2024-01-01")
    table = SeenTable(answer, document, Dress(), STAR.model, STAR.members)
    monkeypatch.setattr(order, "date", FixedDay)
    assert About("Boardings", "Star", "Ines").lines(table) == (
        "Star",
        "data to 1 Jan 2024",
        "taken on 2 Mar 2026 by Ines",
    )


class FixedDay:
    @staticmethod
    def today() -> FixedDay:
        return FixedDay()

    def isoformat(self) -> str:
        return "2026-03-02"
