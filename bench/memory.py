"""Memory before, during and after large questions: eight people at once open everything in stops, days and lines.

Each asks for another measure, so that nothing is answered from what a colleague asked; then all of them do it again, in
drafts of their own. What is kept of answers and groups has its limits: it is told beside the state before anybody asked
and, once it is full, beside the first round; at once, and when large answers are let go of that nobody looked at since.
Run by `make bench-memory`.
"""

from __future__ import annotations

import argparse
import asyncio
from collections import Counter
from pathlib import Path
from typing import Any
from uuid import uuid4

from bench.load import GREEDY
from bench.team_server import MODEL, PASSWORD, add_people, resident_mb, start
from bench.web_client import Client
from dastan.server.answers import LARGE_FOR_S

PEOPLE = 8
SHOWN: list[dict[str, Any]] = [
    {"kind": "put_measure", "measure": measure, "aggregate": aggregate}
    for measure in ("fare_revenue", "boardings")
    for aggregate in ("sum", "average", "min", "max")
]


async def large(name: str, port: int, first: dict[str, Any], told: Counter[str]) -> None:
    """Takes one person's steps, each with the largest answer so far."""
    client = Client(port)
    await client.sign_in(name, PASSWORD)
    _, draft = await client.ask("POST", "/api/drafts", {"model": MODEL})
    parent, document = draft["shown_step"], draft["steps"][0]["document"]
    for gesture in (first, *GREEDY):
        id = uuid4().hex
        body = {"id": id, "parent": parent, "document": document, "gesture": gesture}
        status, shown = await client.ask("POST", f"/api/drafts/{draft['id']}/steps", body)
        told[f"{status} {shown.get('code', '')}".strip()] += 1
        if status == 200:
            parent, document = id, shown["document"]
    await client.close()


async def run(port: int, rounds: int, process: Any) -> None:
    client, told = Client(port), Counter[str]()
    await client.sign_in("person0", PASSWORD)
    while (await client.ask("POST", "/api/drafts", {"model": MODEL}))[0] != 201:
        await asyncio.sleep(1)
    await large("person0", port, {"kind": "put_measure", "measure": "taps"}, told)
    await asyncio.sleep(20)
    before = resident_mb(process)
    print(f"before: {before:.0f} MB")
    full = 0.0
    for number in range(rounds):
        most, told = 0.0, Counter()
        working = asyncio.gather(*(large(f"person{at + 1}", port, SHOWN[at], told) for at in range(PEOPLE)))
        while not working.done():
            await asyncio.sleep(0.3)
            most = max(most, resident_mb(process))
        await working
        print(f"round {number + 1}: {most:.0f} MB at the most", dict(told))
        for wait in (5, LARGE_FOR_S + 10):
            await asyncio.sleep(wait)
            after = resident_mb(process)
            full = full or after
            kept = (await client.ask("GET", "/api/administration/running"))[1]["kept_answers_bytes"] / 2**20
            print(
                f"   {wait:.0f} s later: {after:.0f} MB, {kept:.0f} of it answers that are kept; "
                f"{after / before:.2f} of before, {after / full:.2f} of the first round"
            )


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("data", type=Path, help="a team's folder, with the demo's data in models/varrow_bay")
    parser.add_argument("--rounds", type=int, default=4)
    parser.add_argument("--memory-mb", type=int, default=4096)
    parser.add_argument("--port", type=int, default=8694)
    given = parser.parse_args()
    add_people(given.data, [f"person{at}" for at in range(PEOPLE + 1)])
    process = start(given.data, given.port, "--memory-mb", str(given.memory_mb))
    try:
        asyncio.run(run(given.port, given.rounds, process))
    finally:
        process.terminate()
        process.wait(20)


if __name__ == "__main__":
    main()
