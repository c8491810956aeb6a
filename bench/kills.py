"""Kills the server again and again while people take steps, save, freeze, comment and let things be made: what was
acknowledged is there afterwards, whole.

A save is acknowledged by its reply; a step by the reply that says that it is kept. After each kill the server starts
again and everything acknowledged is looked for. Run by `make bench-kills`; prints what is missing, and ends with 1.
"""

from __future__ import annotations

import argparse
import asyncio
import random
import sys
from pathlib import Path
from typing import Any
from uuid import uuid4

from bench.team_server import MODEL, PASSWORD, add_people, small_team, start
from bench.web_client import Client

GESTURES: list[dict[str, Any]] = [
    {"kind": "put_measure", "measure": "sold"},
    {"kind": "put_dimension", "dimension": "line", "hierarchy": "line", "axis": "rows"},
    {"kind": "swap_axes"},
]


class Acknowledged:
    """What the server said that it keeps."""

    def __init__(self) -> None:
        self.steps: dict[tuple[str, str], tuple[str, dict[str, Any]]] = {}
        self.saves: dict[str, tuple[str, int, str]] = {}
        self.beside: list[tuple[str, str, str]] = []
        """Of whom, at which address, and what is to be read there."""
        self.jobs: list[tuple[str, str, str]] = []


async def work(name: str, port: int, known: Acknowledged, dead: asyncio.Event) -> None:
    """Takes steps and saves until the server is gone."""
    client = Client(port)
    if await client.sign_in(name, PASSWORD) != 200:
        return
    while not dead.is_set():
        status, draft = await client.ask("POST", "/api/drafts", {"model": MODEL})
        if status != 201:
            break
        parent, document = draft["shown_step"], draft["steps"][0]["document"]
        for gesture in GESTURES:
            id = uuid4().hex
            body = {"id": id, "parent": parent, "document": document, "gesture": gesture}
            status, shown = await client.ask("POST", f"/api/drafts/{draft['id']}/steps", body)
            if status != 200:
                return
            parent, document = id, shown["document"]
            if (await client.ask("GET", f"/api/drafts/{draft['id']}/steps/{id}/kept"))[0] == 204:
                known.steps[draft["id"], id] = (name, document)
            title = f"{name} {uuid4().hex}"
            body = {"draft": draft["id"], "step": parent, "document": document, "name": title}
            status, saved = await client.ask("POST", "/api/analyses", body)
            if status == 201:
                known.saves[saved["id"]] = (name, saved["version"], title)
                await _keep_more(client, name, draft["id"], saved["id"], document, known)
    await client.close()


async def _keep_more(
    client: Client, name: str, draft: str, item: str, document: dict[str, Any], known: Acknowledged
) -> None:
    """A frozen copy, a comment and a schedule beside what was saved, and something that is made of it."""
    title = f"{name} {uuid4().hex}"
    status, frozen = await client.ask("POST", f"/api/drafts/{draft}/frozen", {"document": document, "name": title})
    if status == 201:
        known.saves[frozen["id"]] = (name, frozen["version"], title)
    status, _ = await client.ask("POST", f"/api/analyses/{item}/comments", {"text": title})
    if status == 201:
        known.beside.append((name, f"/api/analyses/{item}/comments", title))
    asked = {"makes": "table.csv", "times": {"every": "day", "at": "07:00"}}
    status, schedule = await client.ask("POST", f"/api/analyses/{item}/schedules", asked)
    if status == 201:
        known.beside.append((name, f"/api/analyses/{item}/made", schedule["id"]))
    status, job = await client.ask("POST", f"/api/analyses/{item}/made", {"makes": "table.csv"})
    if status == 201:
        known.jobs.append((name, item, job["id"]))


async def _unmade(client: Client, item: str, job: str) -> str:
    """What is wrong with a job that was acknowledged; nothing where it is done in the end, and its file is there."""
    state = "waiting"
    for _ in range(200):
        _, found = await client.ask("GET", f"/api/analyses/{item}/made")
        own = next((each for each in found.get("results", ()) if each["id"] == job), None)
        if own is None:
            return "not listed"
        state = own["state"]
        if state not in ("waiting", "running"):
            status, _ = await client.ask("GET", f"/api/jobs/{job}/file")
            is_there = (state, status) == ("done", 200)
            return "" if is_there else f"{state}, its file {status}: {own['trouble']}"
        await asyncio.sleep(0.1)
    return f"still {state} after twenty seconds"


async def missing(port: int, names: list[str], known: Acknowledged) -> list[str]:
    """What was acknowledged and is not there, or not whole."""
    found = []
    for name in names:
        client = Client(port)
        await client.sign_in(name, PASSWORD)
        listed = {each["id"]: each for each in (await client.ask("GET", "/api/library"))[1]["entries"]}
        for id, (owner, version, title) in known.saves.items():
            if owner == name and (id not in listed or (listed[id]["version"], listed[id]["name"]) != (version, title)):
                found.append(f"analysis {id} of {owner}")
        for owner, path, what in known.beside:
            if owner == name and what not in str((await client.ask("GET", path))[1]):
                found.append(f"{what} at {path} of {owner}")
        for owner, item, job in known.jobs:
            if owner == name and (wrong := await _unmade(client, item, job)):
                found.append(f"what job {job} of {owner} makes: {wrong}")
        drafts: dict[str, dict[str, Any]] = {}
        for (draft, step), (owner, document) in known.steps.items():
            if owner != name:
                continue
            if draft not in drafts:
                _, opened = await client.ask("GET", f"/api/drafts/{draft}")
                drafts[draft] = {each["id"]: each["document"] for each in opened.get("steps", ())}
            if drafts[draft].get(step) != document:
                found.append(f"step {step} of draft {draft}")
        await client.close()
    return found


async def run(data: Path, port: int, kills: int, people: int) -> int:
    names = [f"person{at}" for at in range(people)]
    add_people(data, names)
    lost, saves, steps = [], 0, 0
    process = start(data, port)
    for number in range(kills):
        known, dead = Acknowledged(), asyncio.Event()
        working = [asyncio.create_task(work(name, port, known, dead)) for name in names]
        await asyncio.sleep(random.uniform(0.3, 2.0))
        process.kill()
        process.wait()
        dead.set()
        await asyncio.gather(*working)
        process = start(data, port)
        gone = await missing(port, names, known)
        for each in gone:
            print(each, flush=True)
        lost += gone
        saves, steps = saves + len(known.saves) + len(known.beside) + len(known.jobs), steps + len(known.steps)
        if (number + 1) % 10 == 0:
            print(
                f"{number + 1} kills: {saves:,} saves and {steps:,} steps acknowledged, {len(lost)} missing", flush=True
            )
    process.terminate()
    process.wait(20)
    if not saves or not steps:
        print("Nothing was acknowledged, so that nothing was tried.")
    return 1 if lost or not saves or not steps else 0


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--kills", type=int, default=200)
    parser.add_argument("--people", type=int, default=4)
    parser.add_argument("--port", type=int, default=8697)
    given = parser.parse_args()
    with small_team() as data:
        sys.exit(asyncio.run(run(data, given.port, given.kills, given.people)))


if __name__ == "__main__":
    main()
