"""A person's own tokens, by which their other programs read."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from secrets import token_urlsafe
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from dastan.records import tokens as records
from dastan.records.analyses import analysis_seen_by
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.tokens import Token
from dastan.server.access import PersonDep
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep
from dastan.server.passwords import hash_token
from dastan.server.routes.library import Name
from dastan.server.routes.session import address_of

router = APIRouter(prefix="/api/tokens", tags=["tokens"], route_class=BoundedRoute)

LONGEST_DAYS = 366


class TokenIn(BaseModel):
    """What a token is for, how long it holds, and the one analysis that it reads; all that may be seen without."""

    name: Name
    days: Annotated[int, Field(ge=1, le=LONGEST_DAYS)] = 90
    analysis: str | None = None


@dataclass(frozen=True, slots=True)
class NewToken:
    """A token that was made: it is told this once."""

    token: str


@router.get("")
def own(connection: ConnectionDep, person: PersonDep) -> list[Token]:
    return records.tokens_of(connection, person.id)


@router.post("", status_code=201)
def make(asked: TokenIn, connection: ConnectionDep, person: PersonDep, request: Request) -> NewToken:
    token = f"dst_{token_urlsafe(32)}"
    expires = (datetime.now(UTC) + timedelta(days=asked.days)).isoformat(timespec="microseconds")
    with transaction(connection):
        if asked.analysis is not None:
            analysis_seen_by(connection, person.id, asked.analysis)
        records.put_token(
            connection, id=uuid4().hex, token_hash=hash_token(token), person=person.id, name=asked.name,
            item=asked.analysis, now=now(), expires_at=expires,
        )  # fmt: skip
        note_event(connection, now(), "token_made", person.id, f"“{asked.name}”", address_of(request))
    return NewToken(token)


@router.delete("/{id}", status_code=204)
def end(id: str, connection: ConnectionDep, person: PersonDep, request: Request) -> None:
    with transaction(connection):
        records.remove_token(connection, person.id, id)
        note_event(connection, now(), "token_ended", person.id, address=address_of(request))
