"""No body is read beyond its bounds, nor waited for without end; a connection that is not used is closed."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import AsyncIterator, Callable, Coroutine
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager
from pathlib import Path

import pytest
import uvicorn
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.core.errors import InputError
from dastan.documents.bounds import Bounds, bounded_json
from dastan.server import bodies, connections
from dastan.server.app import create_app
from dastan.server.connections import ImpatientProtocol
from dastan.server.settings import Settings

Enter = Callable[[str], TestClient]


@pytest.mark.parametrize(
    ("raw", "code"),
    [
        (b"[" * 70 + b"]" * 70, "too-deep"),
        (b"[" * 5000 + b"]" * 5000, "input"),
        (b'{"a":' * 70 + b"1" + b"}" * 70, "too-deep"),
        (b"[" + b"[]," * 300_000 + b"[]]", "too-many-parts"),
        (b'{"a": {"b": "' + b"x" * 2001 + b'"}}', "text-too-long"),
        (b'{"a": {"' + b"x" * 2001 + b'": 1}}', "text-too-long"),
        (b'["' + b"x" * 20_001 + b'"]', "text-too-long"),
        (b'{"a": 9223372036854775808}', "input"),
        (b'{"a": -1e30}', "input"),
        (b'{"a": 1e999}', "input"),
        (b'{"a": NaN}', "input"),
        (rb'{"a": "\ud800"}', "input"),
        (b'{"a": "\xff"}', "input"),
        (rb'{"a": "\u0000"}', "input"),
        (b"{", "input"),
    ],
)
def test_what_goes_beyond_the_bounds_is_refused_by_name(raw: bytes, code: str) -> None:
    with pytest.raises(InputError) as caught:
        bounded_json(raw)
    assert caught.value.code == code
    assert caught.value.hint
    assert len(caught.value.message) < 200


def test_what_stays_within_them_is_read_as_it_is() -> None:
    document = {"a": [1, 2.5, None, True, "é" * 2000], "top": "x" * 20_000, "n": 2**63 - 1}
    assert bounded_json(json.dumps(document).encode()) == document
    assert bounded_json(b"[" * 60 + b"]" * 60)
    with pytest.raises(InputError):
        bounded_json(b"[1,2,3]", bounds=Bounds(parts=2))


def test_each_route_takes_no_more_than_it_needs(app: FastAPI, signed_in: Enter) -> None:
    signed_out = TestClient(app, raise_server_exceptions=False)
    signing_in = {"sign_in": "ines", "password": "x", "more": ["y" * 1000] * 5}
    reply = signed_out.post("/api/session", json=signing_in)
    assert (reply.status_code, reply.json()["code"]) == (413, "too-much")
    client = signed_in("ines")
    huge = {"model": "tickets", "analysis": "x" * (bodies.LARGEST_BODY + 1)}
    assert client.post("/api/drafts", json=huge).status_code == 413
    lines = [f"line {number:07}" for number in range(50_000)]
    by_line = {"dimension": "line", "hierarchy": "line"}
    assert client.post("/api/models/tickets/members/match", json={**by_line, "lines": lines}).status_code == 200
    for kind in ("text/plain", "application/x-www-form-urlencoded", ""):
        reply = client.post("/api/drafts", content=b'{"model": "tickets"}', headers={"content-type": kind})
        assert (reply.status_code, reply.json()["code"]) == (422, "input"), kind


def test_odd_texts_are_refused_or_not_found_and_never_a_fault(signed_in: Enter) -> None:
    client = signed_in("ines")
    raw = rb'{"sign_in": "\ud800", "password": "\udfff"}'
    assert client.post("/api/session", content=raw, headers={"content-type": "application/json"}).status_code == 422
    for path in (
        "/api/models/%ff/catalogue",
        "/api/models/%00/catalogue",
        "/api/drafts/%ed%a0%80",
        "/api/answers/é/window",
    ):
        assert client.get(path).status_code in (404, 422), path
    for name in ("x-dastan-csrf", "cookie", "content-type", "x-odd"):
        reply = client.post("/api/drafts", json={"model": "tickets"}, headers=[(name.encode(), "é".encode())])
        assert reply.status_code in (201, 403, 422), name


def alone(work: Coroutine[None, None, None]) -> None:
    """Runs it in an event loop of its own, whatever else this process does."""
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, work).result()


@asynccontextmanager
async def served(application: FastAPI) -> AsyncIterator[int]:
    """The application behind a real socket, in this event loop."""
    config = uvicorn.Config(application, port=0, log_level="critical", http=ImpatientProtocol, lifespan="off")
    server = uvicorn.Server(config)
    serving = asyncio.create_task(server.serve())
    while not server.started:
        await asyncio.sleep(0.01)
    yield server.servers[0].sockets[0].getsockname()[1]
    server.should_exit = True
    await serving


def test_half_a_request_is_hung_up_on_and_whole_ones_are_answered(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(connections, "HEAD_WITHIN_S", 0.3)
    application = create_app(Settings(tmp_path / "records.db", (), site=tmp_path / "none"))

    async def closed(port: int, sent: bytes) -> bytes:
        """What comes back until the server closes the connection."""
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        writer.write(sent)
        found = b""
        try:
            while part := await asyncio.wait_for(reader.read(65_536), 20):
                found += part
        except ConnectionResetError:
            pass
        writer.close()
        return found

    async def run() -> None:
        async with served(application) as port:
            halves = [b"", b"G", b"GET /api/session HTTP/1.1\r\nHost: x\r\nX-Long: "] * 30
            assert set(await asyncio.gather(*(closed(port, each) for each in halves))) == {b""}
            whole = b"GET /api/session HTTP/1.1\r\nHost: x\r\n\r\n"
            assert b"signed-out" in await closed(port, whole)
            # A second request on the same connection is answered too, half a third is not waited for.
            twice = await closed(port, whole + whole + b"GET /ap")
            assert twice.count(b"signed-out") == 2
            slow = b"POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 40\r\n\r\n{"
            started = time.monotonic()
            await closed(port, slow)
            assert time.monotonic() - started < 15

    monkeypatch.setattr(bodies.PatientBodies.__init__, "__defaults__", (0.5,))
    alone(run())
    application.state.server.close()


def test_a_head_does_not_go_on_for_ever(tmp_path: Path) -> None:
    application = create_app(Settings(tmp_path / "records.db", (), site=tmp_path / "none"))
    whole = b"GET /api/session HTTP/1.1\r\nHost: x\r\n\r\n"

    async def taken(port: int, before: bytes, part: bytes) -> int:
        """How many bytes are taken before the connection is closed, of two million."""
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        writer.write(before)
        for number in range(2_000_000 // len(part)):
            try:
                writer.write(part)
                await writer.drain()
                await asyncio.sleep(0)
                if reader.at_eof():
                    return number * len(part)
            except (ConnectionResetError, BrokenPipeError):
                return number * len(part)
        writer.close()
        return 2_000_000

    async def run() -> None:
        async with served(application) as port:
            for before in (b"", whole):
                assert await taken(port, before + b"GET /api/session HTTP/1.1\r\nX-Long: ", b"x" * 1_000) < 2_000_000
                assert await taken(port, before + b"GET /" + b"y" * 1_000, b"y" * 1_000) < 2_000_000

    alone(run())
    application.state.server.close()


def test_no_more_connections_than_can_be_held(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(connections, "MOST_CONNECTIONS", 5)
    application = create_app(Settings(tmp_path / "records.db", (), site=tmp_path / "none"))

    async def run() -> None:
        async with served(application) as port:
            held = [await asyncio.open_connection("127.0.0.1", port) for _ in range(5)]
            reader, writer = await asyncio.open_connection("127.0.0.1", port)
            with pytest.raises((ConnectionResetError, AssertionError)):
                assert await asyncio.wait_for(reader.read(1), 20)
            writer.close()
            for _, each in held:
                each.close()

    alone(run())
    application.state.server.close()
