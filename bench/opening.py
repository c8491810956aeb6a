"""What it takes to open a large folder: made ready for the first time, and each time after that.

Prints, for journeys with five dimensions of which two are of their own columns, and for sixteen measures: the time and
memory of `dastan prepare` and what it keeps for each record; then the best of three of a question from the command line
and of a server, until it says where it is.
"""

from __future__ import annotations

import argparse
import os
import re
import resource
import shutil
import subprocess
import sys
import time
from pathlib import Path

from bench import star

OWN = """
  - name: route
    caption: Route
    table: journeys
    attributes: [{name: from_line, caption: Line, key: line}, {name: by_product, caption: Product, key: product}]
    hierarchies: [{name: route, caption: Route, levels: [from_line, by_product]}]
  - name: load
    caption: Load
    table: journeys
    attributes: [{name: load, caption: Load, key: boardings}]
    hierarchies: [{name: load, caption: Load, levels: [load]}]
"""
MEASURES = """
  - {name: journeys, caption: Journeys, table: journeys, aggregate: count}
  - {name: delayed, caption: Delayed, table: journeys, aggregate: count_values, expression: delay}
  - {name: paid, caption: Paid, table: journeys, aggregate: sum, expression: fare * boardings}
  - {name: half, caption: Half fare, table: journeys, aggregate: sum, expression: fare / 2}
  - {name: lost, caption: Lost, table: journeys, aggregate: sum, expression: delay * boardings}
  - {name: longest, caption: Longest delay, table: journeys, aggregate: max, expression: delay}
  - {name: stops, caption: Stops used, table: journeys, aggregate: distinct, expression: stop}
  - {name: spread, caption: Spread, table: journeys, aggregate: deviation, expression: fare}
"""
QUESTION = "fare and boardings by region against year"
TIMES = 3


def write_model(folder: Path) -> None:
    """The star's model, with more dimensions and measures."""
    before, after = star.MODEL.split("measures:\n")
    (folder / "model.yaml").write_text(f"{before.rstrip()}{OWN}measures:\n{after.rstrip()}{MEASURES}")


def timed(*arguments: str) -> float:
    """Seconds that a command takes."""
    start = time.perf_counter()
    subprocess.run([sys.executable, "-m", "dastan", *arguments], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


def until_served(folder: Path, port: int) -> float:
    """Seconds until a server over the folder says where it is."""
    start = time.perf_counter()
    command = [sys.executable, "-u", "-m", "dastan", "open", str(folder), "--port", str(port)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
        assert process.stdout is not None
        for line in process.stdout:
            if re.match("Dastan is at", line):
                break
        took = time.perf_counter() - start
        process.terminate()
    return took


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--journeys", type=int, default=6_000_000)
    parser.add_argument("--port", type=int, default=8791)
    asked = parser.parse_args()
    star.make(asked.folder, asked.journeys)
    write_model(asked.folder)
    shutil.rmtree(asked.folder / ".dastan", ignore_errors=True)
    folder = str(asked.folder)
    ready = timed("prepare", folder)
    most = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    files = [each.stat().st_size for each in (asked.folder / ".dastan").rglob("*") if each.is_file()]
    size = sum(files)
    print(f"made ready in {ready:.1f} s, {most:,.0f} MB at the most; {size / 2**20:,.0f} MB are kept,", end=" ")
    print(f"{size / asked.journeys:.0f} bytes a journey, in {len(files)} files")
    print(f"a question: {min(timed('ask', folder, QUESTION) for _ in range(TIMES)):.2f} s")
    print(f"a server: {min(until_served(asked.folder, asked.port) for _ in range(TIMES)):.2f} s")
    print(f"on {os.cpu_count()} processors")


if __name__ == "__main__":
    main()
