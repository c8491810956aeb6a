"""What every reply tells the browser: to run nothing but ours, to be shown in no other page, to keep no answer."""

from __future__ import annotations

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

_CONTENT = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",  # colours of the theme and sizes of the table are set as styles
        "img-src 'self' data: blob:",
        "font-src 'self' data:",
        "connect-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
_ALWAYS = {
    "content-security-policy": _CONTENT,
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
}
_A_YEAR = "public, max-age=31536000, immutable"


class SafeHeaders:
    """Adds the headers to every reply, problems too; one that a route has set itself stays."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        # What is built has its contents in its name; anything else may be other the next time.
        keeps = _A_YEAR if scope["path"].startswith("/assets/") else "no-store"

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _ALWAYS.items():
                    headers.setdefault(name, value)
                headers.setdefault("cache-control", keeps if message["status"] < 400 else "no-store")
            await send(message)

        await self._app(scope, receive, sent)
