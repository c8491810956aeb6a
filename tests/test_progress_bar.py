"""The line on standard error that tells how far a long piece of work is."""

from __future__ import annotations

import io
import time

import pytest

from dastan import progress_bar
from dastan.core.engine.watch import Watch


class Screen(io.StringIO):
    def isatty(self) -> bool:
        return True


def test_a_long_piece_of_work_leaves_one_line_that_is_complete(monkeypatch: pytest.MonkeyPatch) -> None:
    screen = Screen()
    monkeypatch.setattr("sys.stderr", screen)
    monkeypatch.setattr(progress_bar, "SHORT_S", 0.0)
    watch = Watch()
    watch.expect(2)
    with progress_bar.followed(watch, "Opening"):
        watch.begin("sales: line")
        watch.note_done()
        until = time.monotonic() + 30
        while "sales: line" not in screen.getvalue() and time.monotonic() < until:
            time.sleep(0.01)
        assert "Opening:  50 %" in screen.getvalue()
        watch.note_done()
    assert screen.getvalue().count("\n") == 1
    last = screen.getvalue().rstrip("\n").split("\r")[-1]
    assert last.startswith("Opening: 100 %")
    assert "sales" not in last


def test_a_short_one_leaves_none(monkeypatch: pytest.MonkeyPatch) -> None:
    screen = Screen()
    monkeypatch.setattr("sys.stderr", screen)
    with progress_bar.followed(Watch(), "Opening"):
        pass
    assert screen.getvalue() == ""
