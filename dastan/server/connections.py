"""Connections that are not used are closed: half a request does not stand for ever, nor a reply that nobody reads."""

from __future__ import annotations

import asyncio
from typing import cast

from uvicorn.protocols.http.h11_impl import H11Protocol

HEAD_WITHIN_S = 15.0
"""A request's head comes whole within this time of the connection or of its first byte."""
READ_WITHIN_S = 60.0
"""A reply that is not read for so long is given up."""
MOST_CONNECTIONS = 1_000
"""At a time; one more is closed at once."""


class ImpatientProtocol(H11Protocol):
    """Uvicorn's protocol with an end to waiting. One object for each connection, used by the event loop alone."""

    _head_timer: asyncio.TimerHandle | None = None
    _read_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        super().connection_made(cast(asyncio.Transport, transport))
        if len(self.connections) > MOST_CONNECTIONS:
            self.transport.abort()
            return
        self._watch_head()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        self._watch_head()

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
