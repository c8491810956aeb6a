"""Requests that Schemathesis makes from the server's own description, as a person and as an administrator.

Looks for replies of 5xx, and for such as the description does not tell of. Run by `make fuzz-openapi`, which fetches
Schemathesis into an environment of its own; ends with 1 where anything was found.
"""

from __future__ import annotations

import argparse
import asyncio
import subprocess
import sys
from pathlib import Path

import orjson

from bench.team_server import MODEL, PASSWORD, add_people, small_team, start
from bench.web_client import Client

SCHEMATHESIS = "schemathesis==4.32.5"
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"
LEFT_OUT = ("session-sign_out", "administration-end_sessions", "session-end", "administration-see_as")
"""What ends the session that asks, or changes whose rights it has."""
DOCUMENT = "docs/schema/openapi.json"
LARGEST = "Analysis"
"""The schema whose examples are not made at random: they take gigabytes. `make fuzz-server` makes such documents."""


def operations_of_largest() -> list[str]:
    """The operations whose bodies hold an analysis."""
    document = orjson.loads(Path(DOCUMENT).read_bytes())
    schemas = document["components"]["schemas"]
    holding, before = {LARGEST}, 0
    while len(holding) > before:
        before = len(holding)
        holding |= {name for name, own in schemas.items() if any(_refers(own, each) for each in holding)}
    operations = [each for path in document["paths"].values() for each in path.values()]
    return [
        each["operationId"]
        for each in operations
        if any(_refers(each.get("requestBody", {}), name) for name in holding)
    ]


def _refers(schema: object, name: str) -> bool:
    return f'"#/components/schemas/{name}"'.encode() in orjson.dumps(schema)


async def headers_of(name: str, port: int) -> list[str]:
    client = Client(port)
    assert await client.sign_in(name, PASSWORD) == 200
    while (await client.ask("POST", "/api/drafts", {"model": MODEL}))[0] != 201:
        await asyncio.sleep(0.5)
    await client.close()
    return [f"Cookie: {client.cookie}", f"x-dastan-csrf: {client.csrf}"]


def run(data: Path, port: int, seconds: int) -> int:
    """What Schemathesis ended with: 0 where it found nothing."""
    add_people(data, ["rufus", "ines"])  # the first administers
    process, found = start(data, port), 0
    try:
        # Both sign in beforehand: many wrong passwords are among the requests, and lock the address out.
        known = {name: asyncio.run(headers_of(name, port)) for name in ("ines", "rufus")}
        for name, headers in known.items():
            for phase, left_out in (("coverage", ()), ("fuzzing", tuple(operations_of_largest()))):
                print(f"As {name}, {phase}", flush=True)
                found |= _made(port, headers, phase, left_out, seconds // 4)
    finally:
        process.terminate()
        process.wait(20)
        print((data / "server.log").read_text()[-4000:])
    return 1 if found else 0


def _made(port: int, headers: list[str], phase: str, left_out: tuple[str, ...], seconds: int) -> int:
    command = [
        str(Path(sys.executable).with_name("uv")), "tool", "run", "--quiet", "--from", SCHEMATHESIS, "st",
        "run", DOCUMENT, "--url", f"http://127.0.0.1:{port}", "--checks", CHECKS, "--phases", phase,
        "--max-time", str(seconds), "--continue-on-failure", "--warnings", "off",
        *(part for each in headers for part in ("--header", each)),
        *(part for each in (*LEFT_OUT, *left_out) for part in ("--exclude-operation-id", each)),
    ]  # fmt: skip
    return subprocess.run(command, check=False).returncode


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seconds", type=int, default=600)
    parser.add_argument("--port", type=int, default=8695)
    given = parser.parse_args()
    with small_team() as data:
        sys.exit(run(data, given.port, given.seconds))


if __name__ == "__main__":
    main()
