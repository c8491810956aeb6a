"""Files wait for their turn: the short ones for each other, and never for a long one."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Event
from time import sleep
from types import SimpleNamespace
from typing import Any, cast

import pytest

from dastan.core.engine.watch import Watch
from dastan.exports.order import Order
from dastan.server import writing
from dastan.server.writing import Writing


def order(name: str, size: int, records: tuple[object, ...] = ()) -> Order:
    return cast(Order, SimpleNamespace(file=Path(name), table=SimpleNamespace(size_bytes=size), records=records))


def test_a_short_file_does_not_wait_for_a_long_one(monkeypatch: pytest.MonkeyPatch) -> None:
    go, written, begun = Event(), [], Event()

    class Slow:
        def write(self, asked: Order, _: Watch) -> None:
            begun.set()
            if asked.file.name.startswith("long"):
                assert go.wait(20)
            written.append(asked.file.name)

    monkeypatch.setattr(writing, "PROCESSES", Slow())
    files, pool = Writing(2**30, 1), ThreadPoolExecutor(4)

    def write(*given: Any) -> object:
        return pool.submit(files.write, order(*given), given[0], "a file", Watch())

    long = [write("long table", 2**26)]
    assert begun.wait(20)
    long += [write("long for its records", 100, (object(),))]
    while not files.queues[1].tickets()[1]:
        sleep(0.01)
    for each in (write("short", 100), write("another", 2**19)):
        each.result(20)  # type: ignore[attr-defined]
    assert written == ["short", "another"]
    assert [len(some) for each in files.queues for some in each.tickets()] == [0, 0, 1, 1]
    go.set()
    for each in long:
        each.result(20)  # type: ignore[attr-defined]
    assert written[2:] == ["long table", "long for its records"]
