"""A small OpenID Connect provider for tests: made-up people, chosen by a click, and tokens that can be spoiled on purpose.

By hand, for a look at the pages: `python -m tests.server.stand_in_provider 8700`.
"""

from __future__ import annotations

import base64
import hashlib
import json
import secrets
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated, Any
from urllib.parse import parse_qsl, urlencode

import uvicorn
from fastapi import FastAPI, Header, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from joserfc import jwt
from joserfc.jwk import OctKey, RSAKey

CLIENT, SECRET = "dastan", "a secret between the two"
PEOPLE: dict[str, dict[str, Any]] = {
    "s-1": {"preferred_username": "Lena.Frost", "name": "Lena Frost", "groups": ["planning", "everybody"]},
    "s-2": {"preferred_username": "ines", "name": "Another Ines", "groups": []},
    "s-3": {"preferred_username": "a name with blanks", "name": "Nobody"},
}


class StandIn:
    """What it knows and does; `spoils` says what is wrong with the tokens that it makes."""

    def __init__(self) -> None:
        self.issuer = ""
        self.people = {subject: dict(claims) for subject, claims in PEOPLE.items()}
        self.key = RSAKey.generate_key(2048, {"kid": "first"})
        self.spoils = ""
        self.tells_by_token = True
        self.can_be_left = True
        self._codes: dict[str, dict[str, str]] = {}
        self._tokens: dict[str, str] = {}

    def turn_key(self) -> None:
        """Signs with another key from now on."""
        self.key = RSAKey.generate_key(2048, {"kid": secrets.token_hex(4)})

    def let_in(self, subject: str, asked: dict[str, str]) -> str:
        """Where the browser goes back to, with a code for the person that was chosen."""
        code = secrets.token_urlsafe(16)
        self._codes[code] = {**asked, "subject": subject}
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state'], 'iss': self.issuer})}"

    def exchange(self, code: str, verifier: str, back: str) -> dict[str, Any] | None:
        """The tokens for a code, once, to whoever began the attempt."""
        asked = self._codes.pop(code, None)
        challenge = base64.urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest()).rstrip(b"=").decode()
        if asked is None or challenge != asked["code_challenge"] or back != asked["redirect_uri"]:
            return None
        access = secrets.token_urlsafe(16)
        self._tokens[access] = asked["subject"]
        return {"access_token": access, "token_type": "Bearer", "id_token": self._token(asked), "expires_in": 300}

    def details(self, access: str) -> dict[str, Any] | None:
        subject = self._tokens.get(access)
        if subject is None:
            return None
        return {"sub": "s-9" if self.spoils == "details" else subject, **self.people[subject]}

    def _token(self, asked: dict[str, str]) -> str:
        moment = int(time.time()) - (7200 if self.spoils == "expired" else 0)
        claims: dict[str, Any] = {
            "iss": "http://127.0.0.1:1" if self.spoils == "issuer" else self.issuer,
            "aud": "somebody-else" if self.spoils == "audience" else CLIENT,
            "nonce": "another" if self.spoils == "nonce" else asked["nonce"],
            "sub": asked["subject"], "iat": moment, "exp": moment + 300,
        }  # fmt: skip
        if self.tells_by_token:
            claims |= self.people[asked["subject"]]
        if self.spoils == "shared key":
            return jwt.encode({"alg": "HS256", "kid": self.key.kid}, claims, OctKey.import_key(SECRET))
        if self.spoils == "unsigned":
            parts = ({"alg": "none"}, claims)
            text = [base64.urlsafe_b64encode(json.dumps(each).encode()).rstrip(b"=").decode() for each in parts]
            return f"{text[0]}.{text[1]}."
        key = RSAKey.generate_key(2048, {"kid": str(self.key.kid)}) if self.spoils == "key" else self.key
        return jwt.encode({"alg": "RS256", "kid": self.key.kid}, claims, key)


def pages_of(stand_in: StandIn) -> FastAPI:
    app = FastAPI()

    @app.get("/.well-known/openid-configuration")
    def metadata() -> dict[str, Any]:
        at = stand_in.issuer
        return {
            "issuer": at, "authorization_endpoint": f"{at}/authorize", "token_endpoint": f"{at}/token",
            **({"end_session_endpoint": f"{at}/leave?by=link"} if stand_in.can_be_left else {}),
            "jwks_uri": f"{at}/keys", "userinfo_endpoint": f"{at}/userinfo", "response_types_supported": ["code"],
            "subject_types_supported": ["public"], "id_token_signing_alg_values_supported": ["RS256"],
        }  # fmt: skip

    @app.get("/keys")
    def keys() -> dict[str, Any]:
        return {"keys": [stand_in.key.as_dict(private=False, use="sig", alg="RS256")]}

    @app.get("/leave")
    def leave(by: str, client_id: str, post_logout_redirect_uri: str) -> HTMLResponse:
        if client_id != CLIENT or by != "link":
            return HTMLResponse("Who sends you?", 400)
        return HTMLResponse(
            f'<!doctype html><title>Stand-in</title><h1>Bye</h1><a href="{post_logout_redirect_uri}">Back</a>'
        )

    @app.get("/authorize")
    def authorize(
        state: str, redirect_uri: str, client_id: str, nonce: str, code_challenge: str, person: str = ""
    ) -> Any:
        asked = {"state": state, "redirect_uri": redirect_uri, "nonce": nonce, "code_challenge": code_challenge}
        if client_id != CLIENT:
            return HTMLResponse("Who sends you?", 400)
        if person == "nobody":
            return RedirectResponse(f"{redirect_uri}?{urlencode({'error': 'access_denied', 'state': state})}", 303)
        if person:
            return RedirectResponse(stand_in.let_in(person, asked), 303)
        links = "".join(
            f'<p><a href="?{urlencode({**asked, "client_id": client_id, "person": subject})}">{claims["name"]}</a></p>'
            for subject, claims in stand_in.people.items()
        )
        return HTMLResponse(f"<!doctype html><title>Stand-in</title><h1>Who are you?</h1>{links}")

    @app.post("/token")
    async def token(request: Request, authorization: Annotated[str, Header()] = "") -> JSONResponse:
        form = dict(parse_qsl((await request.body()).decode()))
        known = base64.b64encode(f"{CLIENT}:{SECRET}".encode()).decode()
        if authorization != f"Basic {known}":
            return JSONResponse({"error": "invalid_client"}, 401)
        found = stand_in.exchange(form["code"], form["code_verifier"], form["redirect_uri"])
        return JSONResponse(found or {"error": "invalid_grant"}, 200 if found else 400)

    @app.get("/userinfo")
    def userinfo(authorization: Annotated[str, Header()] = "") -> JSONResponse:
        found = stand_in.details(authorization.removeprefix("Bearer "))
        return JSONResponse(found or {"error": "invalid_token"}, 200 if found else 401)

    return app


@contextmanager
def running(port: int = 0) -> Iterator[StandIn]:
    """The provider on a thread of its own, at a port of this machine: one that is free, unless it is said which."""
    stand_in = StandIn()
    server = uvicorn.Server(uvicorn.Config(pages_of(stand_in), port=port, log_level="warning"))
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started and thread.is_alive():
        time.sleep(0.01)
    stand_in.issuer = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    try:
        yield stand_in
    finally:
        server.should_exit = True
        thread.join()


if __name__ == "__main__":
    with running(int(sys.argv[1])):
        threading.Event().wait()
