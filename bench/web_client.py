"""A client of the server's routes that costs next to nothing, so that what is measured is the server."""

from __future__ import annotations

import asyncio
from typing import Any

import orjson


class Client:
    """One person's browser: a connection that is kept, a session, and the token that changes carry."""

    def __init__(self, port: int) -> None:
        self._port = port
        self.cookie = ""
        self.csrf = ""
        self._stream: tuple[asyncio.StreamReader, asyncio.StreamWriter] | None = None

    async def sign_in(self, name: str, password: str) -> int:
        status, reply = await self.ask("POST", "/api/session", {"sign_in": name, "password": password})
        self.csrf = reply.get("csrf", "")
        return status

    async def ask(self, method: str, path: str, body: object = None) -> tuple[int, Any]:
        """The status and what was said; status 0 where the server did not answer."""
        for _ in range(2):  # a connection that was kept may have been closed meanwhile
            is_new = self._stream is None
            try:
                return await self._ask(method, path, body)
            except (OSError, asyncio.IncompleteReadError):
                await self.close()
                if is_new:
                    break
        return 0, {}

    async def close(self) -> None:
        if self._stream is not None:
            self._stream[1].close()
        self._stream = None

    async def _ask(self, method: str, path: str, body: object) -> tuple[int, Any]:
        if self._stream is None:
            self._stream = await asyncio.open_connection("127.0.0.1", self._port, limit=2**24)
        reader, writer = self._stream
        raw = b"" if body is None else orjson.dumps(body)
        head = [f"{method} {path} HTTP/1.1", "host: 127.0.0.1", f"content-length: {len(raw)}"]
        head += ["content-type: application/json"] if raw else []
        head += [f"cookie: {self.cookie}"] if self.cookie else []
        head += [f"x-dastan-csrf: {self.csrf}"] if self.csrf else []
        writer.write(("\r\n".join(head) + "\r\n\r\n").encode() + raw)
        await writer.drain()
        lines = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1").split("\r\n")
        headers = dict(line.lower().split(": ", 1) for line in lines[1:] if ": " in line)
        for line in lines:
            if line.lower().startswith("set-cookie: "):
                self.cookie = line.split(": ", 1)[1].split(";")[0]
        if headers.get("transfer-encoding") == "chunked":
            parts = []
            while size := int(await reader.readline(), 16):
                parts.append(await reader.readexactly(size))
                await reader.readline()
            await reader.readline()
            said = b"".join(parts)
        else:
            said = await reader.readexactly(int(headers.get("content-length", "0")))
        status = int(lines[0].split()[1])
        return status, orjson.loads(said) if said and "json" in headers.get("content-type", "") else {}
