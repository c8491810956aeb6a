"""A file that another process writes is the same file; and nothing is left of one that it does not write."""

from __future__ import annotations

import os
import signal
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

import openpyxl
import pytest

from dastan.core.analysis.document import Dress
from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError, InputError, SourceError
from dastan.exports.apart.process import WritingProcess
from dastan.exports.feed import carry_out
from dastan.exports.kinds import FeedKind, FeedPart
from dastan.exports.order import About, Order
from dastan.exports.record_sheet import BATCH, RecordSheet
from dastan.exports.seen import SeenTable
from tests.core.asked import STAR, ask, by, question


@pytest.fixture(scope="module")
def process() -> Iterator[WritingProcess]:
    found = WritingProcess()
    yield found
    found.end()


@pytest.fixture
def other() -> Iterator[WritingProcess]:
    """One that does not live long."""
    found = WritingProcess()
    yield found
    found.end()


def order(file: Path, part: FeedPart, kind: FeedKind, *records: RecordSheet) -> Order:
    document = question("boardings", "repairs", rows=(by("line", "mode"),))
    table = SeenTable(ask(document), document, Dress(), STAR.model, STAR.members)
    return Order(table, Dress(), About("Boardings by Mode", "Star"), file, part, kind, records)


def endless(told: list[int]) -> Iterator[list[object]]:
    """Records without an end; tells how many were taken."""
    while True:
        told.append(1)
        yield ["x"]


@pytest.mark.parametrize("of", ["table.csv", "table.html", "table.txt", "numbers.csv", "numbers.arrow"])
def test_it_is_the_same_file_that_this_process_would_write(tmp_path: Path, process: WritingProcess, of: str) -> None:
    part, _, kind = of.partition(".")
    process.write(order(tmp_path / "apart", part, kind), Watch())  # type: ignore[arg-type]
    carry_out(order(tmp_path / "here", part, kind), Watch())  # type: ignore[arg-type]
    assert (tmp_path / "apart").read_bytes() == (tmp_path / "here").read_bytes() != b""
    assert process.is_fit


def test_records_are_handed_out_over_the_pipe_and_its_progress_comes_back(
    tmp_path: Path, process: WritingProcess
) -> None:
    count, watch = 2 * BATCH + 5, Watch()
    sheets = [
        RecordSheet(name, ["Number"], count, lambda start=start: ([start + at] for at in range(count)))  # type: ignore[misc]
        for name, start in (("Sales", 0), ("Incidents", 10**6))
    ]
    process.write(order(tmp_path / "table.xlsx", "table", "xlsx", *sheets), watch)
    book = openpyxl.load_workbook(tmp_path / "table.xlsx", read_only=True)
    for name, start in (("Records of Sales", 0), ("Records of Incidents", 10**6)):
        values = [row[0] for row in book[name].iter_rows(values_only=True)]
        assert values == ["Number", *range(start, start + count)]
    assert watch.progress.done >= 4
    assert watch.progress.done <= watch.progress.total


def test_one_that_is_taken_back_leaves_nothing_and_the_next_one_is_written(
    tmp_path: Path, process: WritingProcess
) -> None:
    watch, told = Watch(), list[int]()
    sheet = RecordSheet("Sales", ["Name"], 900_000, lambda: endless(told))
    thrown: list[BaseException] = []

    def write() -> None:
        try:
            process.write(order(tmp_path / "table.xlsx", "table", "xlsx", sheet), watch)
        except CancelledError as error:
            thrown.append(error)

    thread = Thread(target=write)
    thread.start()
    while not told:
        thread.join(0.01)
    watch.cancel()
    thread.join()
    assert len(thrown) == 1
    assert list(tmp_path.iterdir()) == []
    process.write(order(tmp_path / "table.csv", "table", "csv"), Watch())
    assert (tmp_path / "table.csv").stat().st_size > 0


def test_what_it_cannot_write_is_told_as_if_it_were_written_here(tmp_path: Path, process: WritingProcess) -> None:
    with pytest.raises(InputError, match=r"There is no numbers\.pdf\.") as error:
        process.write(order(tmp_path / "numbers.pdf", "numbers", "pdf"), Watch())
    assert error.value.hint.startswith("There are numbers.csv,")
    with pytest.raises(SourceError, match="cannot be written: No such file or directory"):
        process.write(order(tmp_path / "gone" / "table.csv", "table", "csv"), Watch())
    with pytest.raises(RuntimeError, match="TypeError"):  # what was not foreseen stands in the log whole
        process.write(order(tmp_path / "t.xlsx", "table", "xlsx", RecordSheet("x", [], "many", list)), Watch())  # type: ignore[arg-type]
    assert process.is_fit


def test_one_that_is_killed_in_the_middle_leaves_nothing_and_is_not_used_again(
    tmp_path: Path, other: WritingProcess
) -> None:
    def rows() -> Iterator[list[object]]:
        yield ["x"]
        os.kill(other._process.pid, signal.SIGKILL)
        for at in range(3 * BATCH):
            yield [str(at)]

    sheet = RecordSheet("Sales", ["Name"], 3 * BATCH, rows)
    with pytest.raises(SourceError, match="came to its end") as error:
        other.write(order(tmp_path / "table.xlsx", "table", "xlsx", sheet), Watch())
    assert "smaller table" in error.value.hint
    assert not other.is_fit
    assert list(tmp_path.iterdir()) == []


def test_what_keeps_records_from_being_read_is_told(tmp_path: Path, other: WritingProcess) -> None:
    def rows() -> Iterator[list[object]]:
        yield ["x"]
        raise SourceError("The file is another one now.")

    sheet = RecordSheet("Sales", ["Name"], 5, rows)
    with pytest.raises(SourceError, match="another one now"):
        other.write(order(tmp_path / "table.xlsx", "table", "xlsx", sheet), Watch())
    assert list(tmp_path.iterdir()) == []


def test_it_ends_with_whom_it_writes_for(other: WritingProcess) -> None:
    scratch = Path(other._scratch.name)
    assert scratch.is_dir()
    other._pipe.close()
    assert other._process.wait(60) == 0
    assert not scratch.exists()
