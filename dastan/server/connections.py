"""Connections that are not used are closed: half a request does not stand for ever, nor a reply that nobody reads."""

from __future__ import annotations

import asyncio
from typing import cast

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEAD_WITHIN_S = 15.0
"""A request's head comes whole within this time of the connection or of its first byte."""
READ_WITHIN_S = 60.0
"""A reply that is not read for so long is given up."""
MOST_CONNECTIONS = 1_000
"""At a time; one more is closed at once."""
LARGEST_HEAD = 64 * 1024
"""Bytes of a request's address and headers; what comes at once with the last of them is not counted."""


class ImpatientProtocol(HttpToolsProtocol):
    """Uvicorn's protocol with an end to waiting. One object for each connection, used by the event loop alone."""

    _head_timer: asyncio.TimerHandle | None = None
    _read_timer: asyncio.TimerHandle | None = None
    _reads_head = True
    _head_bytes = 0

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        super().connection_made(cast(asyncio.Transport, transport))
        if len(self.connections) > MOST_CONNECTIONS:
            self.transport.abort()
            return
        self._watch_head()

    def data_received(self, data: bytes) -> None:
        if self._reads_head:
            if self._head_bytes > LARGEST_HEAD:
                self.transport.abort()
                return
            self._head_bytes += len(data)
        super().data_received(data)
        self._watch_head()

    def on_headers_complete(self) -> None:
        super().on_headers_complete()
        self._reads_head = False

    def on_message_complete(self) -> None:
        super().on_message_complete()
        self._reads_head, self._head_bytes = True, 0

    def on_response_complete(self) -> None:
        super().on_response_complete()
        self._watch_head()

    def connection_lost(self, exc: Exception | None) -> None:
        for timer in (self._head_timer, self._read_timer):
            if timer is not None:
                timer.cancel()
        super().connection_lost(exc)

    def pause_writing(self) -> None:
        super().pause_writing()
        self._read_timer = self.loop.call_later(READ_WITHIN_S, self.transport.abort)

    def resume_writing(self) -> None:
        if self._read_timer is not None:
            self._read_timer.cancel()
        super().resume_writing()

    def _watch_head(self) -> None:
        """Sets the clock while a request is waited for, and stops it while one is answered."""
        is_answering = self.cycle is not None and not self.cycle.response_complete
        if is_answering and self._head_timer is not None:
            self._head_timer.cancel()
            self._head_timer = None
        if not is_answering and self._head_timer is None and not self.transport.is_closing():
            self._head_timer = self.loop.call_later(HEAD_WITHIN_S, self._hang_up)

    def _hang_up(self) -> None:
        self._head_timer = None
        self.transport.abort()
