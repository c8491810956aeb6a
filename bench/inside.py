"""What the comparison with others does not show, of Dastan alone: import, opening, memory, later steps, taking back.

Each measure runs in a process of its own: `measure(name, folder)` returns what it came to.
"""

from __future__ import annotations

import multiprocessing
import os
import shutil
import statistics
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path

Lines = list[str]


def measure(name: str, folder: Path) -> Lines:
    """The lines of one measure, taken in a fresh process."""
    context = multiprocessing.get_context("spawn")
    pipe, other = context.Pipe()
    process = context.Process(target=_serve, args=(name, folder, other), daemon=True)
    process.start()
    found: Lines = pipe.recv()
    process.join()
    return found


def _serve(name: str, folder: Path, pipe: Connection) -> None:
    measures: dict[str, Callable[[Path], Lines]] = {
        "import": importing, "opening": opening, "memory": memory, "steps": steps, "taking back": taking_back,
    }  # fmt: skip
    pipe.send(measures[name](folder))


def importing(folder: Path) -> Lines:
    """From Parquet to all that questions need, on one processor."""
    os.sched_setaffinity(0, {0})
    from dastan.sources.columnar import load_kernels
    from dastan.sources.folders.folder import open_folder

    load_kernels()
    shutil.rmtree(folder / ".dastan", ignore_errors=True)
    started = time.perf_counter()
    source = open_folder(folder).source
    source.warm()
    taken = time.perf_counter() - started
    count = source.tables["journeys"].row_count
    size = source.prepared.size_bytes() / 2**20 if source.prepared is not None else 0
    return [
        f"Import from Parquet on one processor, with everything that is prepared: {taken:.1f} s, "
        f"**{count / taken / 1e6:.2f} million records a second**; {size:,.0f} MB kept."
    ]


def opening(folder: Path) -> Lines:
    """A folder that was imported before, in a fresh process."""
    started = time.perf_counter()
    from dastan.sources.columnar import load_kernels

    load_kernels()
    kernels = time.perf_counter() - started
    from bench.ours import Own

    started = time.perf_counter()
    own = Own(folder, warm=False)
    opened = time.perf_counter() - started
    started = time.perf_counter()
    own.ask("crosstab")
    first = time.perf_counter() - started
    return [
        f"Opening what was imported before: **{opened:.2f} s**, its first crosstab {first * 1000:.0f} ms after that; "
        f"imports and compiled kernels before it {kernels:.1f} s."
    ]


def memory(folder: Path) -> Lines:
    """What all questions leave in memory, beside the bytes of the columns that they touched."""
    from bench.engines import QUESTIONS, resident
    from bench.ours import Own

    own = Own(folder, warm=False)
    own.source.takes_shortcuts = False
    before = resident()
    for question in QUESTIONS:
        own.forget()
        own.ask(question)
    mappings = _mappings()
    touched = sum(each["Size"] for each in mappings if each["Rss"] > each["Size"] / 2)
    pages = sum(each["Rss"] for each in mappings)
    after = resident()
    return [
        f"Memory after all questions: {after / 2**20:,.0f} MB resident, of which {before / 2**20:,.0f} MB the program "
        f"before the first; the coded columns that they touched have {touched / 2**20:,.0f} MB: resident is "
        f"**{after / touched:.2f}** times that, and **{(after - before) / touched:.2f}** times without the program. "
        "With the pages of columns of which they touched less, as the list of records does, they touched "
        f"{pages / 2**20:,.0f} MB: resident is **{after / pages:.2f}** times that."
    ]


def _mappings() -> list[dict[str, int]]:
    """Size and resident bytes of the prepared files that are mapped into memory."""
    found: list[dict[str, int]] = []
    is_ours = False
    for line in Path("/proc/self/smaps").read_text().splitlines():
        head = line.split()[0]
        if "-" in head and not head.endswith(":"):
            is_ours = ".dastan/prepared" in line
            if is_ours:
                found.append({})
        elif is_ours and head in ("Size:", "Rss:"):
            found[-1][head[:-1]] = int(line.split()[1]) * 1024
    return found


def steps(folder: Path) -> Lines:
    """Steps that follow a question and need no second scan."""
    from bench.ours import Own

    own = Own(folder)
    own.source.takes_shortcuts = False
    scans = 0
    group = own.source.group

    def counted(request: object) -> object:
        nonlocal scans
        scans += 1
        return group(request)  # type: ignore[arg-type]

    own.source.group = counted  # type: ignore[method-assign, assignment]
    own.forget()
    lines = ["", "| step after years by regions | ms | scans |", "|---|---|---|"]
    for words, ask in own.followed():
        scans, taken = 0, []
        for _ in range(3):
            started = time.perf_counter()
            ask()
            taken.append((time.perf_counter() - started) * 1000)
        lines.append(f"| {words} | {taken[0]:.1f} | {scans} |")
    return lines


def taking_back(folder: Path) -> Lines:
    """How long a question goes on after it was taken back."""
    from bench.ours import Own
    from dastan.core.engine.waist import Joined, LevelRef, MemberSet, Request, Rights
    from dastan.core.engine.watch import Watch
    from dastan.core.errors import CancelledError
    from dastan.core.formula.bases import BaseAggregate
    from dastan.core.model.reach import Grain

    source = Own(folder).source
    source.takes_shortcuts = False
    levels = (LevelRef("line", "line", "line"), LevelRef("stop", "stop", "area"))
    either = Joined("any", (MemberSet("line", "line", ((3, 3),), False), MemberSet("product", "product", ((5, 5),))))
    kinds = {
        "sums": ((BaseAggregate("sum", "fare"),), ()),
        "distinct counts": ((BaseAggregate("distinct", "card"),), ()),
        "the plain way": ((BaseAggregate("max", "delay"), BaseAggregate("variance", "delay")), (either,)),
    }
    lines = ["", "| question taken back | as a whole, ms | ended after, ms: median, longest |", "|---|---|---|"]
    for words, (aggregates, condition) in kinds.items():
        request = Request(Grain("journeys", ()), levels, aggregates, condition, Rights("bench"))
        source.group(request)
        started = time.perf_counter()
        source.group(request)
        whole = time.perf_counter() - started
        ended = []
        for part in range(1, 16):
            watch = Watch()
            end: list[float] = []

            def ask(watch: Watch = watch, end: list[float] = end, request: Request = request) -> None:
                try:
                    watch.watched(source.group)(request)
                except CancelledError:
                    end.append(time.perf_counter())

            asking = threading.Thread(target=ask)
            asking.start()
            time.sleep(whole * part / 18)
            taken_back = time.perf_counter()
            watch.cancel()
            asking.join()
            ended += [(each - taken_back) * 1000 for each in end]
        late = f"{statistics.median(ended):.0f}, **{max(ended):.0f}**" if ended else "was answered before"
        lines.append(f"| {words} | {whole * 1000:.0f} | {late} |")
    return lines
