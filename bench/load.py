"""Fifty people at once for two minutes: gestures with half a second's thought, saves and exports among them.

Prints how many requests there were, every status, the times, how long the event loop was held, seen from outside (a
cheap request all the while) and from inside, and the memory. With `--greedy N`, N of the people ask what is huge or
refused instead; with `--no-files` nobody takes any. Run by `make bench-load`; it measures and asserts nothing.
"""

from __future__ import annotations

import argparse
import asyncio
import random
import statistics
import time
from collections import Counter
from pathlib import Path
from typing import Any
from uuid import uuid4

from bench.team_server import MODEL, PASSWORD, add_people, processor_s, resident_mb, start, stolen_s
from bench.web_client import Client

GESTURES: list[dict[str, Any]] = [
    {"kind": "put_measure", "measure": "fare_revenue"},
    {"kind": "put_dimension", "dimension": "line", "hierarchy": "line", "axis": "rows"},
    {"kind": "put_dimension", "dimension": "calendar", "hierarchy": "calendar", "axis": "columns"},
    {"kind": "open_member", "dimension": "line", "hierarchy": "line", "path": ["ferry"]},
    {"kind": "open_member", "dimension": "calendar", "hierarchy": "calendar", "path": [2024]},
    {"kind": "filter_members", "dimension": "line", "hierarchy": "line", "action": "leave_out", "members": [["tram"]]},
    {"kind": "swap_axes"},
    {"kind": "put_dimension", "dimension": "stop", "hierarchy": "stop", "axis": "rows"},
    {"kind": "take_dimension", "dimension": "stop", "hierarchy": "stop"},
    {"kind": "set_view", "view": "both"},
]
GREEDY: list[dict[str, Any]] = [
    {"kind": "put_dimension", "dimension": "stop", "hierarchy": "stop", "axis": "rows"},
    {"kind": "open_all", "dimension": "stop", "hierarchy": "stop"},
    {"kind": "put_dimension", "dimension": "calendar", "hierarchy": "calendar", "axis": "columns"},
    {"kind": "open_all", "dimension": "calendar", "hierarchy": "calendar"},
    {"kind": "put_dimension", "dimension": "line", "hierarchy": "line", "axis": "rows"},
    {"kind": "open_all", "dimension": "line", "hierarchy": "line"},
    {"kind": "put_dimension", "dimension": "passenger_group", "hierarchy": "passenger_group", "axis": "rows"},
]
THOUGHT_S = 0.5


class Tally:
    def __init__(self) -> None:
        self.times: dict[str, list[float]] = {"modest": [], "greedy": [], "cheap": []}
        self.statuses: Counter[tuple[str, int, str]] = Counter()
        self.kinds: dict[str, list[float]] = {}

    async def timed(self, who: str, client: Client, method: str, path: str, body: object = None) -> tuple[int, Any]:
        started = time.perf_counter()
        status, reply = await client.ask(method, path, body)
        took = time.perf_counter() - started
        self.times[who].append(took)
        if who == "modest":
            self.kinds.setdefault(_kind_of(method, path, body), []).append(took)
        code = reply.get("code", "") if isinstance(reply, dict) and status >= 400 else ""
        self.statuses[who, status, code] += 1
        return status, reply


def _kind_of(method: str, path: str, body: object) -> str:
    """What a request is: its gesture where it is a step, else its path without ids."""
    gesture = body.get("gesture") if isinstance(body, dict) else None
    if isinstance(gesture, dict):
        return str(gesture["kind"])
    if "/table." in path:
        return f"take {path.rpartition('.')[2]}"
    return f"{method} {path.split('/')[2]}{' kept' if path.endswith('/kept') else ''}"


async def person(
    name: str, port: int, until: float, tally: Tally, gestures: list[dict[str, Any]], who: str, takes_files: bool
) -> None:
    chance, client = random.Random(name), Client(port)
    await client.sign_in(name, PASSWORD)
    while time.monotonic() < until:
        status, draft = await tally.timed(who, client, "POST", "/api/drafts", {"model": MODEL})
        if status != 201:
            continue
        parent, document = draft["shown_step"], draft["steps"][0]["document"]
        first = {"kind": "put_measure", "measure": chance.choice(["boardings", "taps", "fare_revenue"])}
        for gesture in (first, *(gestures if who == "greedy" else chance.sample(gestures, len(gestures)))):
            if time.monotonic() > until:
                break
            await asyncio.sleep(chance.uniform(0.5, 1.5) * THOUGHT_S)
            id = uuid4().hex
            body = {"id": id, "parent": parent, "document": document, "gesture": gesture}
            status, shown = await tally.timed(who, client, "POST", f"/api/drafts/{draft['id']}/steps", body)
            if status != 200:
                continue
            parent, document = id, shown["document"]
            await tally.timed(who, client, "GET", f"/api/drafts/{draft['id']}/steps/{id}/kept")
        saved = {"draft": draft["id"], "step": parent, "document": document, "name": f"of {name}"}
        await tally.timed(who, client, "POST", "/api/analyses", saved)
        if takes_files and status == 200 and shown["answered"] is not None and time.monotonic() < until:
            kind = chance.choice(["xlsx", "ods", "pdf", "html", "parquet", "csv"])
            path = f"/api/answers/{shown['answered']['handle']}/table.{kind}"
            await tally.timed(who, client, "POST", path, {"dress": {}})
    await client.close()


async def look(name: str, port: int, until: float, tally: Tally) -> None:
    """Asks who is signed in, again and again: what that takes is how long the server was held."""
    client = Client(port)
    await client.sign_in(name, PASSWORD)
    while time.monotonic() < until:
        await tally.timed("cheap", client, "GET", "/api/session")
        await asyncio.sleep(0.05)
    await client.close()


def shares(times: list[float]) -> str:
    if not times:
        return "none"
    ordered = sorted(times)
    at = [f"p{share} {1000 * ordered[int(len(ordered) * share / 100)]:.0f}" for share in (50, 95, 99)]
    mean, most = 1000 * statistics.mean(times), 1000 * ordered[-1]
    return f"{len(times):,} in all, mean {mean:.0f}, {', '.join(at)}, most {most:.0f} ms"


async def run(port: int, people: int, greedy: int, seconds: float, takes_files: bool, process: Any) -> None:
    tally, client = Tally(), Client(port)
    await client.sign_in("person0", PASSWORD)
    while (await client.ask("POST", "/api/drafts", {"model": MODEL}))[0] != 201:
        await asyncio.sleep(1)
    await asyncio.sleep(30)  # until the model is warm
    before, most = resident_mb(process), 0.0
    used, stolen = processor_s(process), stolen_s()
    until = time.monotonic() + seconds
    tasks = [look("person0", port, until, tally)]
    for at in range(people):
        is_greedy = at < greedy
        own = (GREEDY, "greedy") if is_greedy else (GESTURES, "modest")
        tasks.append(person(f"person{at + 1}", port, until, tally, *own, takes_files))
    working = asyncio.gather(*tasks)
    held = 0.0
    while not working.done():
        await asyncio.sleep(1)
        most = max(most, resident_mb(process))
        held = max(held, (await client.ask("GET", "/api/administration/running"))[1].get("held_ms", 0.0))
    await working
    used = processor_s(process) - used
    for who, times in tally.times.items():
        print(f"{who:<7} {shares(times)}")
    for kind, times in sorted(tally.kinds.items(), key=lambda each: -sum(each[1])):
        print(f"  {kind:<22} {shares(times)}")
    for (who, status, code), number in sorted(tally.statuses.items()):
        print(f"{who:<7} {status} {code}: {number:,}")
    asked = sum(len(times) for times in tally.times.values())
    print(f"processor: {used / seconds:.2f} of one, {1000 * used / asked:.1f} ms a request")
    print(f"taken from this machine by others meanwhile: {(stolen_s() - stolen) / seconds:.2f} of a processor")
    print(f"event loop held for {held:.0f} ms at the most, seen from inside")
    end = resident_mb(process)
    print(f"memory of its own: {before:.0f} MB before, {most:.0f} MB at the most, {end:.0f} MB at the end")
    await client.close()


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("data", type=Path, help="a team's folder, with the demo's data in models/varrow_bay")
    parser.add_argument("--people", type=int, default=50)
    parser.add_argument("--greedy", type=int, default=0)
    parser.add_argument("--seconds", type=float, default=120)
    parser.add_argument("--files", action=argparse.BooleanOptionalAction, default=True)
    parser.add_argument("--memory-mb", type=int, default=1024)
    parser.add_argument("--at-once", type=int, default=0)
    parser.add_argument("--port", type=int, default=8699)
    given = parser.parse_args()
    add_people(given.data, [f"person{at}" for at in range(given.people + 1)])
    process = start(given.data, given.port, "--memory-mb", str(given.memory_mb), "--at-once", str(given.at_once))
    try:
        asyncio.run(run(given.port, given.people, given.greedy, given.seconds, given.files, process))
    finally:
        process.terminate()
        process.wait(20)


if __name__ == "__main__":
    main()
