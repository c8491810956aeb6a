"""The way to the provider and back: OpenID Connect's authorization code flow with PKCE.

Who comes back is believed when the provider, asked by the server itself, has signed for them: for this server, for the
very attempt that their browser began, a moment ago.
"""

from __future__ import annotations

import hmac
import secrets
import time
from collections.abc import Mapping
from dataclasses import dataclass
from threading import Lock
from typing import Any

import httpx2
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.httpx_client import OAuth2Client
from authlib.oidc.core import CodeIDToken
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from dastan.server.sign_on.provider import Provider, safe_address
from dastan.server.sign_on.trouble import SignOnError

SIGNATURES = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512", "EdDSA"]
"""By keys of which the provider alone has the secret half: never by one that is shared, never by none."""
_TIMEOUT_S = 10.0
_LARGEST_REPLY = 1_000_000
_KEPT_S = 3600.0
"""What the provider says of itself is asked for again after so long."""
_AGAIN_S = 10.0
"""Keys are asked for again this seldom, whatever token is shown."""
_LEEWAY_S = 60
_MOST_CLAIMED = 500


@dataclass(frozen=True, slots=True)
class Attempt:
    """One way to the provider, kept by the browser until it comes back; `to` is the page that was wanted."""

    state: str
    nonce: str
    verifier: str
    to: str


@dataclass(frozen=True, slots=True)
class Claims:
    """Whom the provider vouches for. `groups` is None where it says nothing of groups at all."""

    issuer: str
    subject: str
    sign_in: str
    name: str
    groups: tuple[str, ...] | None


@dataclass(frozen=True, slots=True)
class _Known:
    """What the provider says of itself, and its keys, as of a moment."""

    metadata: Mapping[str, Any]
    keys: KeySet
    at: float


class SignOn:
    """Asks one provider. Safe for threads: what is known of it is replaced whole, under the lock."""

    def __init__(self, provider: Provider) -> None:
        self.provider = provider
        self._lock = Lock()
        self._known: _Known | None = None

    def way_there(self, back: str, to: str) -> tuple[str, Attempt]:
        """The provider's address for a new attempt. Args: `back` is this server's own for coming back. Raises
        SignOnError."""
        attempt = Attempt(secrets.token_urlsafe(24), secrets.token_urlsafe(24), secrets.token_urlsafe(48), to)
        with self._client(back) as client:
            address, _ = client.create_authorization_url(
                self._asked().metadata["authorization_endpoint"],
                state=attempt.state, nonce=attempt.nonce, code_verifier=attempt.verifier,
            )  # fmt: skip
        return str(address), attempt

    def came_back(self, attempt: Attempt, query: Mapping[str, str], back: str) -> Claims:
        """Whom the provider vouches for. Args: `query` is what the browser was sent back with. Raises SignOnError."""
        if not hmac.compare_digest(query.get("state", "").encode(), attempt.state.encode()):
            raise SignOnError("stale")
        if query.get("iss", self.provider.issuer) != self.provider.issuer:
            raise SignOnError("unclear", "another issuer came back")
        if "error" in query or not query.get("code"):
            raise SignOnError("refused", query.get("error", "no code")[:100])
        known = self._asked()
        with self._client(back) as client:
            try:
                token = client.fetch_token(
                    known.metadata["token_endpoint"], grant_type="authorization_code", code=query["code"],
                    code_verifier=attempt.verifier, redirect_uri=back,
                )  # fmt: skip
            except httpx2.HTTPError as exc:
                raise SignOnError("unreachable", str(exc)) from exc
            except (AuthlibBaseError, ValueError) as exc:
                raise SignOnError("unclear", f"the code was not taken: {exc}") from exc
            claims = self._checked(token, attempt)
            return self._claims({**self._more(client, claims), **claims})

    def way_out(self, back: str) -> str:
        """The provider's address for signing out there, as OpenID Connect has it (RP-Initiated Logout 1.0).

        Args: `back` is the page to come back to. Raises SignOnError where the provider has none."""
        address = self._asked().metadata.get("end_session_endpoint")
        if not isinstance(address, str):
            raise SignOnError("stays", "it has no end_session_endpoint")
        try:
            safe_address(address)
        except ValueError as exc:
            raise SignOnError("stays", f"its end_session_endpoint does not hold: {exc}") from exc
        asked = httpx2.URL(address).copy_merge_params(
            {"client_id": self.provider.client_id, "post_logout_redirect_uri": back}
        )
        return str(asked)

    def _checked(self, token: Mapping[str, Any], attempt: Attempt) -> dict[str, Any]:
        """What the identity token says, once its signature and all that it must say are right."""
        raw = token.get("id_token")
        if not isinstance(raw, str):
            raise SignOnError("unclear", "no identity token came")
        provider = self.provider
        try:
            read = self._verified(raw)
            claims = CodeIDToken(
                read.claims, read.header,
                options={"iss": {"essential": True, "value": provider.issuer},
                         "aud": {"essential": True, "value": provider.client_id}},
                params={"nonce": attempt.nonce, "client_id": provider.client_id,
                        "access_token": token.get("access_token")},
            )  # fmt: skip
            claims.validate(leeway=_LEEWAY_S)
        except (JoseError, AuthlibBaseError, ValueError, TypeError) as exc:
            raise SignOnError("unclear", f"the identity token does not hold: {exc}") from exc
        return dict(claims)

    def _verified(self, raw: str) -> jwt.Token:
        """Reads a token by the provider's keys; by newer ones where those that are known do not fit."""
        try:
            return jwt.decode(raw, self._asked().keys, algorithms=SIGNATURES)
        except (JoseError, ValueError):
            fresh = self._asked(older_than_s=_AGAIN_S)
            return jwt.decode(raw, fresh.keys, algorithms=SIGNATURES)

    def _more(self, client: OAuth2Client, claims: Mapping[str, Any]) -> dict[str, Any]:
        """What the provider tells only when it is asked for the person; nothing where the token told everything."""
        wanted = (self.provider.sign_in_claim, self.provider.name_claim, self.provider.groups_claim)
        address = self._asked().metadata.get("userinfo_endpoint")
        if address is None or all(each in claims for each in wanted):
            return {}
        try:
            found = client.get(address).raise_for_status().json()
        except (httpx2.HTTPError, AuthlibBaseError, ValueError) as exc:
            raise SignOnError("unreachable", str(exc)) from exc
        if not isinstance(found, dict) or found.get("sub") != claims["sub"]:
            raise SignOnError("unclear", "another person's details came")
        return found

    def _claims(self, told: Mapping[str, Any]) -> Claims:
        provider = self.provider
        sign_in = _line(told.get(provider.sign_in_claim)).lower()
        subject = _line(told.get("sub"))
        if not subject or not sign_in:
            raise SignOnError("unclear", f"it does not tell “{provider.sign_in_claim}”")
        groups = told.get(provider.groups_claim)
        if isinstance(groups, str):
            groups = [groups]
        named = None
        if isinstance(groups, list):
            named = tuple(dict.fromkeys(name for each in groups[:_MOST_CLAIMED] if (name := _line(each))))
        return Claims(provider.issuer, subject, sign_in, _line(told.get(provider.name_claim)), named)

    def _asked(self, older_than_s: float = _KEPT_S) -> _Known:
        """What is known of the provider, asked for anew where it is older than that."""
        with self._lock:
            known = self._known
            if known is None or time.monotonic() - known.at > older_than_s:
                known = self._known = self._ask()
            return known

    def _ask(self) -> _Known:
        issuer = self.provider.issuer
        with httpx2.Client(timeout=_TIMEOUT_S) as client:
            metadata = _fetch(client, f"{issuer.rstrip('/')}/.well-known/openid-configuration")
            if metadata.get("issuer") != issuer:
                raise SignOnError("unreachable", f"it calls itself “{metadata.get('issuer')}”, not “{issuer}”")
            try:
                for each in ("authorization_endpoint", "token_endpoint", "jwks_uri"):
                    safe_address(str(metadata.get(each, "")))
                keys = KeySet.import_key_set(_fetch(client, metadata["jwks_uri"]))  # type: ignore[arg-type]
            except (JoseError, ValueError, TypeError, KeyError) as exc:
                raise SignOnError("unreachable", f"what it says of itself does not hold: {exc}") from exc
        return _Known(metadata, keys, time.monotonic())

    def _client(self, back: str) -> OAuth2Client:
        provider = self.provider
        return OAuth2Client(
            provider.client_id, provider.client_secret.get_secret_value(), scope=provider.scopes, redirect_uri=back,
            code_challenge_method="S256", timeout=_TIMEOUT_S,
        )  # fmt: skip


def _fetch(client: httpx2.Client, address: str) -> dict[str, Any]:
    """A JSON object from an address, if it is not large. Raises SignOnError."""
    try:
        reply = client.get(address).raise_for_status()
        if len(reply.content) > _LARGEST_REPLY:
            raise ValueError("it is too large")
        found = reply.json()
    except (httpx2.HTTPError, ValueError) as exc:
        raise SignOnError("unreachable", f"{address}: {exc}") from exc
    if not isinstance(found, dict):
        raise SignOnError("unreachable", f"{address} does not say what it should")
    return found


def _line(told: object) -> str:
    """A text that the provider tells, on one line and not too long; "" for anything else."""
    if not isinstance(told, str):
        return ""
    return " ".join(told.encode("utf-8", "replace").decode().replace("\0", " ").split())[:200]
