"""Reads the body of a request: no more than the route takes, not for ever, and off the event loop where it is long."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Coroutine
from typing import Any

from fastapi import Request, Response
from fastapi.routing import APIRoute
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from dastan.core.errors import InputError
from dastan.documents.bounds import bounded_json
from dastan.server.errors import Problem, problem

LARGEST_BODY = 2**20
"""Bytes of a body, unless its route says otherwise."""
READ_WITHIN_S = 30.0
_TROUBLE = {"model": Problem, "description": "What went wrong, and what to do."}
_SHORT = 16 * 1024
"""Bytes that are read faster than another thread is asked for."""


def _operation_id(route: APIRoute) -> str:
    return f"{route.tags[0]}-{route.name}" if route.tags else route.name


class BoundedRoute(APIRoute):
    """A route whose body is JSON within bounds; what is not is told as any other error, which all routes describe.

    It is whole as it is made, so that the application takes it over as it stands: to include its router would work all
    that it takes and gives out a second time, which takes seconds.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **more: Any) -> None:
        more["responses"] = {"default": _TROUBLE} | (more.get("responses") or {})
        more["generate_unique_id_function"] = _operation_id
        super().__init__(path, endpoint, **more)

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handle = super().get_route_handler()
        if self.body_field is None:
            return handle

        async def handle_bounded(request: Request) -> Response:
            raw = await request.body()
            kind = request.headers.get("content-type", "").split(";")[0].strip().lower()
            if raw and kind != "application/json":
                raise InputError("What was sent is not said to be JSON.", "Send it as application/json.")
            if raw:
                # The framework takes what has been read already.
                is_short = len(raw) <= _SHORT
                request._json = bounded_json(raw) if is_short else await run_in_threadpool(bounded_json, raw)
            return await handle(request)

        return handle_bounded


class PatientBodies:
    """Gives up on a body that does not come within `READ_WITHIN_S` in all."""

    def __init__(self, app: ASGIApp, within_s: float = READ_WITHIN_S) -> None:
        self._app = app
        self._within_s = within_s

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        until = asyncio.get_running_loop().time() + self._within_s
        is_whole = False

        async def received() -> Message:
            nonlocal is_whole
            if is_whole:
                return await receive()
            try:
                async with asyncio.timeout_at(until):
                    message = await receive()
            except TimeoutError:
                return {"type": "http.disconnect"}
            is_whole = message["type"] != "http.request" or not message.get("more_body", False)
            return message

        await self._app(scope, received, send)


class TooLargeIsAProblem:
    """Says of a body that is too large what it says of any other error; the framework's own limit says a bare line."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        is_replaced = False

        async def sent(message: Message) -> None:
            nonlocal is_replaced
            if message["type"] == "http.response.start" and message["status"] == 413:
                kind = dict(message["headers"]).get(b"content-type", b"")
                if kind.startswith(b"text/plain"):
                    is_replaced = True
                    told = "What was sent is larger than this address takes."
                    reply = problem(413, "Limit", told, "Make it smaller.", "too-much", {})
                    await reply(scope, receive, send)
            if not is_replaced:
                await send(message)

        await self._app(scope, receive, sent)
