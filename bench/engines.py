"""Dastan beside DuckDB and Polars on the same journeys: `make bench-engines`. Writes bench/RESULTS.md.

Each engine has a process of its own, limited to two threads; questions go to one after another in turns, so that the
machine's noise falls on all alike. Their numbers are compared before any time counts.
"""

from __future__ import annotations

import argparse
import multiprocessing
import os
import statistics
import time
from multiprocessing.connection import Connection
from pathlib import Path

import numpy as np

from bench.inside import measure
from bench.star import make

QUESTIONS = {
    "crosstab": ("2 axes of 60 x 40 members, 1 measure", 0.15),
    "subtotals": ("the same with every subtotal on both axes, 3 measures", 0.18),
    "filtered": ("2 of 8 categories and one year, 60 x 400", 0.25),
    "distinct": ("distinct cards by 60 x 8, with totals", 0.03),
    "records": ("first 1,000 backing records of a cell, and their count", 0.1),
    "best": ("five best lines in each region in one year, with others", 0.15),
    "wide": ("12,000 x 60 = 720,000 cells", 0.06),
    "drill": ("year > quarter > month > day, eight regions across", 0.17),
    "median": ("the median delay by 60 x 5 years", 0.2),
    "spread": ("least and greatest fare and the deviation of the delay by 60 x 8", 0.2),
    "either": ("2 of 8 categories or one year, 60 x 40", 0.2),
}
BYTES = {
    "crosstab": 1 + 1 + 1, "subtotals": 1 + 1 + 1 + 2 + 8 + 1, "filtered": 1 + 2 + 1 + 2 + 1,
    "distinct": 4 + 3 * (4 + 1), "records": 1 + 1 + 2, "best": 1 + 2 + 1, "wide": 2 + 1 + 1, "drill": 2 + 1 + 1,
    "median": 4 + 1 + 2, "spread": 4 + 8 + 1 + 1 + 1, "either": 1 + 1 + 1 + 2,
}  # fmt: skip
"""Of the columns that a question needs, a record, as Dastan keeps them."""
BANDWIDTH = 20e9
INSIDE = ("memory", "opening", "steps", "taking back", "import")
"""What is measured of Dastan alone; the import last, for it makes anew what was prepared."""
RESULTS = Path(__file__).with_name("RESULTS.md")


def serve(name: str, folder: Path, pipe: Connection) -> None:
    """One engine, in its own process: answers until it is told to stop."""
    os.environ["POLARS_MAX_THREADS"] = "2"
    from bench.ours import Own
    from bench.peers import Bear, Duck

    started = time.perf_counter()
    engine = {"Dastan": Own, "DuckDB": Duck, "Polars": Bear}[name](folder)
    pipe.send((time.perf_counter() - started, resident()))
    found = None
    while True:
        asked, question = pipe.recv()
        if asked.startswith("ask"):
            time.sleep(0.05)  # the one before may still be clearing up
            if isinstance(engine, Own):
                engine.source.takes_shortcuts = asked == "ask as served"
                if asked != "ask again":
                    engine.forget()
            started = time.perf_counter()
            found = engine.ask(question)
            pipe.send((time.perf_counter() - started) * 1000)
        elif asked == "cells":
            pipe.send(engine.cells(question, found))
        elif asked == "memory":
            pipe.send(resident())
        else:
            return


def resident() -> int:
    """The process's resident memory, in bytes."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE")


class Engine:
    """A process that holds one engine."""

    def __init__(self, name: str, folder: Path) -> None:
        context = multiprocessing.get_context("spawn")
        self.name = name
        self._pipe, other = context.Pipe()
        self._process = context.Process(target=serve, args=(name, folder, other), daemon=True)
        self._process.start()
        self.load_s, self.memory = self._pipe.recv()

    def tell(self, asked: str, question: str = "") -> object:
        self._pipe.send((asked, question))
        return self._pipe.recv()

    def stop(self) -> None:
        self._pipe.send(("stop", ""))
        self._process.join()


def compare(engines: list[Engine], question: str) -> str:
    """What differs between the engines' last results, "" where they agree."""
    first, *others = [(each.name, each.tell("cells", question)) for each in engines]
    for name, cells in others:
        if set(cells) != set(first[1]):  # type: ignore[call-overload]
            odd = sorted(map(str, set(cells) ^ set(first[1])))[:3]  # type: ignore[call-overload]
            return f"{name} and {first[0]} have other cells, such as {odd}"
        for key, values in first[1].items():  # type: ignore[attr-defined]
            if not np.allclose(
                [np.nan if each is None else each for each in values],
                [np.nan if each is None else each for each in cells[key]],  # type: ignore[index]
                rtol=1e-6, atol=1e-5, equal_nan=True,
            ):  # fmt: skip
                return f"{name} and {first[0]} differ at {key}: {cells[key]} and {values}"  # type: ignore[index]
    return ""


def run(count: int, folder: Path, rounds: int, shuffled: bool) -> list[str]:
    """The report on one size, line by line."""
    make(folder, count, shuffled=shuffled)
    engines = [Engine(name, folder) for name in ("Dastan", "DuckDB", "Polars")]
    ours, *peers = engines
    lines = [
        f"## {count:,} journeys, {'in random order' if shuffled else 'in order of date'}", "",
        "| question | DuckDB ms | Polars ms | Dastan ms | ratio | goal | as served ms | ratio | asked again ms "
        "| limit ms |",
        "|---|---|---|---|---|---|---|---|---|---|",
    ]  # fmt: skip
    ratios, ratios_served = [], []
    for question, (words, goal) in QUESTIONS.items():
        for each in engines:
            each.tell("ask", question)
        differs = compare(engines, question)
        if differs:
            raise SystemExit(f"{question}: {differs}")
        taken: dict[str, list[float]] = {each.name: [] for each in engines}
        again, as_served = [], []
        ours.tell("ask as served", question)
        differs = compare(engines, question)
        if differs:
            raise SystemExit(f"{question}, as served: {differs}")
        for _ in range(rounds):
            for each in engines:
                taken[each.name].append(float(each.tell("ask", question)))  # type: ignore[arg-type]
            again.append(float(ours.tell("ask again", question)))  # type: ignore[arg-type]
            as_served.append(float(ours.tell("ask as served", question)))  # type: ignore[arg-type]
        median = {name: statistics.median(each) for name, each in taken.items()}
        best = min(median[each.name] for each in peers)
        ratio = median["Dastan"] / best
        ratio_served = statistics.median(as_served) / best
        ratios.append(ratio)
        ratios_served.append(ratio_served)
        limit = BYTES[question] * count / BANDWIDTH * 1000
        lines.append(
            f"| {words} | {median['DuckDB']:.1f} | {median['Polars']:.1f} | {median['Dastan']:.1f} | {ratio:.2f} "
            f"| {goal} | {statistics.median(as_served):.1f} | {ratio_served:.2f} | {statistics.median(again):.1f} "
            f"| {limit:.1f} |"
        )
        print(lines[-1], flush=True)
    means = [float(np.exp(np.mean(np.log(each)))) for each in (ratios, ratios_served)]
    memory = ", ".join(f"{each.name} {int(str(each.tell('memory'))) / 2**20:,.0f} MB" for each in engines)
    load = ", ".join(f"{each.name} {each.load_s:.1f} s" for each in engines)
    lines += [
        "",
        f"Geometric mean of the ratios: **{means[0]:.2f}**, as served **{means[1]:.2f}** (goal 0.12).",
        "",
        f"Resident memory after all questions: {memory}. Made ready in: {load}.",
        "",
    ]
    print("\n".join(lines[-4:]), flush=True)
    for each in engines:
        each.stop()
    for name in INSIDE if not shuffled else ():
        own = measure(name, folder)
        print("\n".join(own), flush=True)
        lines += own
    return [*lines, ""]


HEAD = """# Dastan beside DuckDB and Polars

Made by `make bench-engines` on {cpus} processors. Medians of {rounds} rounds, the engines in turns, each in a process
of its own with two threads; all three returned the same numbers. The peers have the level columns joined on beforehand
as enums. Ratios are Dastan's time to the better of the two. Dastan answers whole: headers in order, totals and layout
(but for the wide question, which is groups alone, as the others give). *Asked again* is from what it remembers. The
*limit* is the bytes of the columns that a question needs over a bandwidth of 20 GB/s.

What Dastan has prepared beforehand that the others are not given: the cards' column a second time in order of its
values, with the levels beside it in that order (for distinct counts); the least and greatest code of each block of
65,536 records; *summaries*, what the journeys come to by each two small dimensions; and *postings*, where the journeys
of each line and product, and of each stop, stand. The column *Dastan* and its ratio are without summaries and postings,
every question scanned; *as served* and its ratio are with them, as a server answers.
"""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--folder", type=Path, default=Path("bench/data"))
    parser.add_argument("--journeys", type=int, nargs="+", default=[1_000_000, 10_000_000, 40_000_000])
    parser.add_argument("--rounds", type=int, default=7)
    parser.add_argument("--shuffled", type=int, nargs="*", default=[10_000_000])
    asked = parser.parse_args()
    lines = [HEAD.format(cpus=os.cpu_count(), rounds=asked.rounds)]
    for count in asked.journeys:
        lines += run(count, asked.folder / str(count), asked.rounds, False)
    for count in asked.shuffled:
        lines += run(count, asked.folder / f"{count}-shuffled", asked.rounds, True)
    RESULTS.write_text("\n".join(lines))
    print(f"Written to {RESULTS}.")


if __name__ == "__main__":
    main()
