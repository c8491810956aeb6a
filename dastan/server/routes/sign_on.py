"""Signing on by the team's provider: there, and back."""

from __future__ import annotations

import sqlite3
import time
from dataclasses import asdict, dataclass
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import OctKey
from starlette.concurrency import run_in_threadpool

from dastan.core.errors import NotFoundError
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.people import Person
from dastan.records.secrets import secret_of
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.lanes import PROVIDER
from dastan.server.routes.session import address_of, begin_session
from dastan.server.sign_on.admit import admitted
from dastan.server.sign_on.exchange import Attempt, Claims, SignOn
from dastan.server.sign_on.trouble import TROUBLES, SignOnError, trouble_words

router = APIRouter(prefix="/api/sign-on", tags=["sign-on"], route_class=BoundedRoute)

_MINUTES = 10
"""So long somebody may take at the provider."""
_MOST_WAITING = 50
_LONGEST_PAGE = 1_000
"""An address of a page that is longer would make a cookie that browsers do not take."""


@dataclass(frozen=True, slots=True)
class SignOnTrouble:
    """What kept somebody from signing on, and what to do."""

    message: str
    hint: str


@dataclass(frozen=True, slots=True)
class SignOnOffer:
    """What the page for signing in offers: the provider's caption; None where there is none."""

    caption: str | None
    trouble: SignOnTrouble | None


@router.get("")
async def offer(server: ServerDep, trouble: str | None = None) -> SignOnOffer:
    """Whether somebody can sign on here. Args: `trouble` is what an attempt ended with."""
    if server.sign_on is None:
        return SignOnOffer(None, None)
    caption = server.sign_on.provider.caption
    told = SignOnTrouble(*trouble_words(trouble, caption)) if trouble in TROUBLES else None  # type: ignore[arg-type]
    return SignOnOffer(caption, told)


@router.get("/begin", include_in_schema=False)
async def begin(server: ServerDep, connection: ConnectionDep, request: Request, to: str = "/") -> RedirectResponse:
    """Sends the browser to the provider, to come back for the page that was wanted."""
    sign_on = _sign_on(server)
    try:
        _require_room()
        address, attempt = await PROVIDER.run(sign_on.way_there, _back(server, request), _own_page(to))
        response = RedirectResponse(address, 303)
        kept = await run_in_threadpool(_kept, connection, attempt)
    except SignOnError as exc:
        return await run_in_threadpool(_failed, exc, connection, request)
    response.set_cookie(
        _cookie(server), kept, max_age=_MINUTES * 60, path=router.prefix, httponly=True,
        samesite="lax",  # it has to come along when the provider sends the browser back
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return response


@router.get("/done", include_in_schema=False)
async def done(server: ServerDep, connection: ConnectionDep, request: Request) -> RedirectResponse:
    """Where the provider sends the browser back to: begins a session, or tells what is in the way."""
    sign_on = _sign_on(server)
    try:
        _require_room()
        attempt = await run_in_threadpool(_attempt, connection, request.cookies.get(_cookie(server)))
        claims = await PROVIDER.run(sign_on.came_back, attempt, dict(request.query_params), _back(server, request))
        response = await run_in_threadpool(_signed_on, sign_on, claims, attempt, server, connection, request)
    except SignOnError as exc:
        response = await run_in_threadpool(_failed, exc, connection, request)
    response.delete_cookie(_cookie(server), path=router.prefix)
    return response


@router.get("/leave", include_in_schema=False)
async def leave(server: ServerDep, request: Request) -> RedirectResponse:
    """Sends the browser to the provider to sign out there too, which asks them first and sends them back to sign in."""
    try:
        _require_room()
        address = await PROVIDER.run(_sign_on(server).way_out, f"{_site(server, request)}/sign-in")
    except SignOnError as exc:
        return RedirectResponse(f"/sign-in?{urlencode({'trouble': exc.code})}", 303)
    return RedirectResponse(address, 303)


def _signed_on(
    sign_on: SignOn, claims: Claims, attempt: Attempt, server: Server, connection: sqlite3.Connection, request: Request
) -> RedirectResponse:
    person: Person = admitted(sign_on.provider, claims, connection)
    response = RedirectResponse(attempt.to, 303)
    begin_session(person, server, connection, request, response, hours=sign_on.provider.session_hours)
    return response


def _failed(error: SignOnError, connection: sqlite3.Connection, request: Request) -> RedirectResponse:
    told = str(error).encode("utf-8", "replace").decode()  # some of it may be a stranger's
    with transaction(connection):
        note_event(connection, now(), "sign_on_failed", None, told, address_of(request))
    return RedirectResponse(f"/sign-in?{urlencode({'trouble': error.code})}", 303)


def _sign_on(server: Server) -> SignOn:
    if server.sign_on is None:
        raise NotFoundError("Nobody signs on by a provider here.", "Sign in with a name and a password.")
    return server.sign_on


def _require_room() -> None:
    if PROVIDER.waiting >= _MOST_WAITING:
        raise SignOnError("busy")


def _back(server: Server, request: Request) -> str:
    """The address that the provider sends back to, which it must know beforehand."""
    return f"{_site(server, request)}{router.prefix}/done"


def _site(server: Server, request: Request) -> str:
    """The address of this server's pages."""
    return server.settings.address or str(request.base_url).rstrip("/")


def _own_page(to: str) -> str:
    """A page of this site: nobody is sent elsewhere by a link to sign on."""
    is_own = to.startswith("/") and not to.startswith(("//", "/\\")) and to.isprintable()
    return to if is_own and len(to) <= _LONGEST_PAGE else "/"


def _cookie(server: Server) -> str:
    return f"{server.settings.cookie}_on"


def _key(connection: sqlite3.Connection) -> OctKey:
    return OctKey.import_key(secret_of(connection, "sign-on"))


def _kept(connection: sqlite3.Connection, attempt: Attempt) -> str:
    """An attempt as the browser keeps it: the server keeps none, so that beginning many takes nothing from it."""
    return jwt.encode({"alg": "HS256"}, {**asdict(attempt), "exp": int(time.time()) + _MINUTES * 60}, _key(connection))


def _attempt(connection: sqlite3.Connection, kept: str | None) -> Attempt:
    try:
        told = jwt.decode(kept or "", _key(connection), algorithms=["HS256"]).claims
        jwt.JWTClaimsRegistry(exp={"essential": True}).validate(told)
        return Attempt(**{name: told[name] for name in ("state", "nonce", "verifier", "to")})
    except (JoseError, ValueError, KeyError) as exc:
        raise SignOnError("stale") from exc
