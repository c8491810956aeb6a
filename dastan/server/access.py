"""Who may do what: the one place where that is decided, for every route; `readers` tells which records they see.

A route names what it needs of these, and gets it or is refused: a session, a person, a model that was granted to them,
a draft of their own, an answer whose rights still hold, a saved analysis that is theirs or shared with them. A person
sees nothing of a model that nobody granted them, not even that it is there.

What a route needs is one dependency without others, and one look at the records on one thread: the framework works out
a tree of dependencies branch by branch, and that took longer than all of the deciding.
"""

from __future__ import annotations

import base64
import hmac
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Annotated, TypeVar

from fastapi import Depends, Request
from starlette.concurrency import run_in_threadpool

from dastan.core.errors import ForbiddenError, InputError, NotFoundError
from dastan.records.analyses import SavedAnalysis, analysis_seen_by
from dastan.records.database import transaction
from dastan.records.drafts import Draft, find_draft
from dastan.records.folders import Folder, folder_seen_by
from dastan.records.grants import roles_granted
from dastan.records.groups import all_groups
from dastan.records.item_rights import May, is_enough, may_with
from dastan.records.jobs import Job, find_job
from dastan.records.models import models_of
from dastan.records.people import Person, Session, all_people, find_session
from dastan.records.tokens import note_use, person_with_token
from dastan.server.answers import Asked
from dastan.server.clock import minutes_ago, now
from dastan.server.context import Server
from dastan.server.doorway import TokenNeededError
from dastan.server.frozen import FrozenModel
from dastan.server.lanes import SESSIONS
from dastan.server.passwords import hash_token
from dastan.server.readers import (
    Opening,
    Reader,
    reader_of,
    reader_of_frozen,
    reader_or_opening,
    require_model,
)
from dastan.server.reused import ReusedModel
from dastan.sources.files.written import WrittenModel, find_written

CSRF_HEADER = "x-dastan-csrf"
_READING = ("GET", "HEAD", "OPTIONS")


class SignedOutError(ForbiddenError):
    """Nobody is signed in."""

    code = "signed-out"


_SESSION = "dastan.session"
_Found = TypeVar("_Found")


async def _look(request: Request, work: Callable[[sqlite3.Connection, Session], _Found]) -> _Found:
    """Finds the session and whatever else is needed, on one thread. Raises SignedOutError, ForbiddenError."""
    return await SESSIONS.run(_looked, request, work)


def _looked(request: Request, work: Callable[[sqlite3.Connection, Session], _Found]) -> _Found:
    server: Server = request.app.state.server
    with server.connections.using() as connection:
        session = request.scope.get(_SESSION)
        if session is None:
            session = request.scope[_SESSION] = _session(request, server, connection)
        return work(connection, session)


def _session(request: Request, server: Server, connection: sqlite3.Connection) -> Session:
    token = request.cookies.get(server.settings.cookie)
    session = find_session(connection, hash_token(token), now()) if token else None
    if session is None:
        raise SignedOutError("You are not signed in.", "Sign in to go on; your draft is kept.")
    sent = request.headers.get(CSRF_HEADER, "").encode()
    if request.method not in _READING and not hmac.compare_digest(sent, session.csrf.encode()):
        raise ForbiddenError("This request did not come from the open page.", "Reload the page, then try again.")
    return session


async def session_of(request: Request) -> Session:
    """The session of the cookie. A request that changes something must also carry the session's own token,
    which no other site can read. Raises SignedOutError, ForbiddenError."""
    return await _look(request, lambda _, session: session)


SessionDep = Annotated[Session, Depends(session_of)]


async def person_of(request: Request) -> Person:
    return (await session_of(request)).person


PersonDep = Annotated[Person, Depends(person_of)]


async def administrator_of(request: Request) -> Person:
    """Raises ForbiddenError unless the person administers this server."""
    person = await person_of(request)
    if not person.is_administrator:
        raise ForbiddenError("This is for administrators.", "Ask one of them.")
    return person


AdministratorDep = Annotated[Person, Depends(administrator_of)]


def may_bring(person: Person, server: Server) -> bool:
    """Whether a person may bring files to a server."""
    return server.settings.bring == "everybody" or person.is_administrator


async def bringer_of(request: Request) -> Person:
    """Raises ForbiddenError unless the person may bring files to this server."""
    person = await person_of(request)
    if not may_bring(person, request.app.state.server):
        raise ForbiddenError("Only administrators bring files to this server.", "Ask one of them.")
    return person


BringerDep = Annotated[Person, Depends(bringer_of)]


@dataclass(frozen=True, slots=True)
class Shaped:
    """A model that a person may change, and its document as it is in use."""

    person: Person
    written: WrittenModel


def may_shape(person: Person, connection: sqlite3.Connection, model: str) -> bool:
    """Whether a person may change a model: one that they brought, or as an administrator one that was granted to them
    with all its records, since its tables are shown as they are."""
    if roles_granted(connection, person.rights_of, model) != ():
        return False
    return person.is_administrator or any(each.name == model for each in models_of(connection, person.id))


async def shaped_model(request: Request, model: str) -> Shaped:
    """The model that a route names, for whoever may change it, whether it can be opened or not.

    Raises: NotFoundError for one that was not granted to them; ForbiddenError for one that they may only read.
    """
    server: Server = request.app.state.server

    def look(connection: sqlite3.Connection, session: Session) -> Shaped:
        require_model(session.person, connection, model)
        place = server.shelf.find(model)
        if place is None:
            raise NotFoundError("This model is not here any more.", "Look for it in the library.")
        if not may_shape(session.person, connection, model):
            raise ForbiddenError(
                f"“{place.caption}” is yours to ask, and not to change.",
                "Whoever brought it may change it, and administrators who see all its records.",
            )
        return Shaped(session.person, find_written(place.folder))

    return await _look(request, look)


ShapedDep = Annotated[Shaped, Depends(shaped_model)]


async def reader_of_model(request: Request, model: str) -> Reader:
    """Who asks the model that a route names."""
    server: Server = request.app.state.server

    def look(connection: sqlite3.Connection, session: Session) -> Reader | Opening:
        return reader_or_opening(session.person, server, connection, model)

    while not isinstance(found := await _look(request, look), Reader):
        await found.opened()
    return found


ReaderDep = Annotated[Reader, Depends(reader_of_model)]


USE_NOTED_MINUTES = 1
"""A token's last use is noted no more often."""


@dataclass(frozen=True, slots=True)
class Feeder:
    """For whom a program reads: a person by their token, or whoever is signed in. `item` is the one analysis that it
    may read; all that the person may see without."""

    person: Person
    item: str | None = None


async def feeder_of(request: Request) -> Feeder:
    """Who reads by a token (as Bearer, or as the password of HTTP Basic), or else by the session of a browser.

    Raises: TokenNeededError where there is neither.
    """
    return await run_in_threadpool(_fed, request)


def _fed(request: Request) -> Feeder:
    server: Server = request.app.state.server
    kind, _, sent = request.headers.get("authorization", "").partition(" ")
    token = _token_in(kind.lower(), sent.strip())
    with server.connections.using() as connection:
        if token is None and server.settings.cookie in request.cookies:
            return Feeder(_session(request, server, connection).person)
        found = person_with_token(connection, hash_token(token), now()) if token else None
        if found is None:
            raise TokenNeededError(
                "This is read with a token." if token is None else "This token does not hold, or not any more.",
                "Make one under your name in Dastan; send it as Bearer, or as the password of HTTP Basic.",
            )
        person, own = found
        if own.used_at is None or own.used_at < minutes_ago(USE_NOTED_MINUTES):
            # Where nothing can be written it is read all the same.
            with suppress(sqlite3.Error), transaction(connection):
                note_use(connection, own.id, now(), request.client.host if request.client is not None else "")
    return Feeder(person, own.item)


def _token_in(kind: str, sent: str) -> str | None:
    """The token of an Authorization header; whatever name stands before it."""
    if kind == "bearer":
        return sent
    if kind != "basic":
        return None
    try:
        return base64.b64decode(sent, validate=True).decode().partition(":")[2]
    except ValueError:
        return ""


FeederDep = Annotated[Feeder, Depends(feeder_of)]


@dataclass(frozen=True, slots=True)
class FedAnalysis:
    """A saved analysis that a program reads, and for whom."""

    person: Person
    saved: SavedAnalysis


async def fed_analysis(request: Request, id: str) -> FedAnalysis:
    """The saved analysis that a feed names. Raises NotFoundError for one that is not its person's to see, and for one
    that its token is not for."""
    feeder = await feeder_of(request)
    if feeder.item is not None and feeder.item != id:
        raise NotFoundError("This token reads another analysis.", "Make one for this analysis, or for all of yours.")
    return await run_in_threadpool(_fed_analysis, request, feeder.person, id)


def _fed_analysis(request: Request, person: Person, id: str) -> FedAnalysis:
    server: Server = request.app.state.server
    with server.connections.using() as connection:
        return FedAnalysis(person, analysis_seen_by(connection, person.id, id))


FedAnalysisDep = Annotated[FedAnalysis, Depends(fed_analysis)]


async def fed_model(request: Request, model: str) -> Reader:
    """Who reads the model that a feed names. Raises NotFoundError, and ForbiddenError for a token of one analysis."""
    feeder = await feeder_of(request)
    if feeder.item is not None:
        raise ForbiddenError("This token reads one analysis and nothing else.", "Make one for all that you may see.")
    server: Server = request.app.state.server
    while not isinstance(found := await run_in_threadpool(_fed_reader, feeder.person, server, model), Reader):
        await found.opened()
    return found


def _fed_reader(person: Person, server: Server, model: str) -> Reader | Opening:
    with server.connections.using() as connection:
        return reader_or_opening(person, server, connection, model)


FedModelDep = Annotated[Reader, Depends(fed_model)]


@dataclass(frozen=True, slots=True)
class ReadDraft:
    """A person's own draft, and the reader of its model. `may` is what they may do with the analysis that it is of;
    None where it is of none, or of one that is not theirs to see any more."""

    draft: Draft
    reader: Reader
    may: May | None


async def own_draft(request: Request, id: str) -> Draft:
    """The draft that a route names. Raises NotFoundError for another's."""
    return await _look(request, lambda connection, session: find_draft(connection, session.person.id, id))


OwnDraftDep = Annotated[Draft, Depends(own_draft)]


async def read_draft(request: Request, id: str) -> ReadDraft:
    """The draft that a route names, as its model's reader sees it. Raises NotFoundError for another's."""
    server: Server = request.app.state.server

    def look(connection: sqlite3.Connection, session: Session) -> tuple[Draft, Reader | Opening, May | None]:
        draft = find_draft(connection, session.person.id, id)
        may = may_with(connection, session.person.id, draft.analysis) if draft.analysis is not None else None
        if draft.is_frozen:  # nothing that is done there changes it
            return draft, reader_of_frozen(session.person, server, connection, draft.analysis or ""), None
        return draft, reader_or_opening(session.person, server, connection, draft.model), may

    draft, found, may = await _look(request, look)
    while not isinstance(found, Reader):
        await found.opened()
        draft, found, may = await _look(request, look)
    return ReadDraft(draft, found, may)


DraftDep = Annotated[ReadDraft, Depends(read_draft)]


@dataclass(frozen=True, slots=True)
class OwnAnswer:
    """An answer's handle with its question, and its reader, whose rights are today what they were then."""

    handle: str
    asked: Asked
    reader: Reader


async def own_answer(request: Request, handle: str) -> OwnAnswer:
    """The answer that a route names. Raises NotFoundError for another's, and where the rights have changed since: what
    was answered then is not what its reader may see now."""
    server: Server = request.app.state.server
    return await _look(request, lambda connection, session: own_answer_of(handle, session.person, server, connection))


def own_answer_of(handle: str, person: Person, server: Server, connection: sqlite3.Connection) -> OwnAnswer:
    """A person's answer of that handle. Raises NotFoundError as `own_answer` does."""
    asked = server.answers.question(handle)
    if asked is None or asked.rights.reader != person.id:
        raise NotFoundError("This answer is no longer kept.", "Show the analysis again.", code="answer-gone")
    if isinstance(asked.shelved, FrozenModel):
        reader = reader_of_frozen(person, server, connection, asked.shelved.id)
        return OwnAnswer(handle, asked, reader)
    if isinstance(asked.shelved, ReusedModel):
        found = reader_or_opening(person, server, connection, asked.shelved.model.name)
        if not isinstance(found, Reader) or found.shelved is not asked.shelved:
            raise NotFoundError(
                "The table that this starts from has changed since this was answered.",
                "Show the analysis again.",
                code="answer-gone",
            )
        return OwnAnswer(handle, asked, found)
    place = server.shelf.find(asked.shelved.model.name)
    if place is None or not place.is_open or place.wait() is not asked.shelved:
        raise NotFoundError(
            "The model's files have changed since this was answered.", "Show the analysis again.", code="answer-gone"
        )
    reader = reader_of(person, place.wait(), connection)
    if reader.rights != asked.rights:
        raise NotFoundError(
            "What you may see has changed since this was answered.", "Show the analysis again.", code="answer-gone"
        )
    return OwnAnswer(handle, asked, reader)


OwnAnswerDep = Annotated[OwnAnswer, Depends(own_answer)]


async def seen_analysis(request: Request, id: str) -> SavedAnalysis:
    """The saved analysis that a route names, a person's own or one shared with them. Raises NotFoundError."""
    return await _look(request, lambda connection, session: analysis_seen_by(connection, session.person.id, id))


SeenAnalysisDep = Annotated[SavedAnalysis, Depends(seen_analysis)]


async def seen_folder(request: Request, id: str) -> Folder:
    """The folder that a route names, a person's own or one shared with them. Raises NotFoundError."""
    return await _look(request, lambda connection, session: folder_seen_by(connection, session.person.id, id))


SeenFolderDep = Annotated[Folder, Depends(seen_folder)]


async def own_job(request: Request, id: str) -> Job:
    """The job that a route names, a person's own. Raises NotFoundError, also where its model was taken from them since:
    what was made of it is not theirs to read any more."""

    def look(connection: sqlite3.Connection, session: Session) -> Job:
        job = find_job(connection, session.person.id, id)
        saved = analysis_seen_by(connection, session.person.id, job.item)
        require_model(session.person, connection, saved.model)
        return job

    return await _look(request, look)


OwnJobDep = Annotated[Job, Depends(own_job)]

DECIDE = (
    session_of, person_of, administrator_of, bringer_of, reader_of_model, own_draft, read_draft, own_answer,
    seen_analysis, seen_folder, own_job, feeder_of, fed_analysis, fed_model, shaped_model,
)  # fmt: skip
"""What a route may ask for. Each looks for the session first; feeds for a token, or a session."""


def require_no_limits(reader: Reader, what: str) -> None:
    """Raises ForbiddenError unless the reader sees every record of the model."""
    if not reader.sees_all:
        raise ForbiddenError(f"{what} hold records that you may not see.", "Ask somebody who sees all of them.")


def colleagues_of(person: Person, connection: sqlite3.Connection) -> list[Person]:
    """Those whom a person may share with: everybody, by name."""
    return all_people(connection)


def require_colleagues(people: list[str], person: Person, connection: sqlite3.Connection) -> None:
    """Raises InputError for the first that a person cannot share with."""
    known = {each.id for each in colleagues_of(person, connection)}
    for each in people:
        if each not in known:
            raise InputError(f"There is no person “{each}” here.", "Choose someone from the list.")


def require_groups(groups: list[str], connection: sqlite3.Connection) -> None:
    """Raises InputError for the first that is not there. Everybody may share with every group."""
    known = {each.id for each in all_groups(connection)}
    for each in groups:
        if each not in known:
            raise InputError("There is no such group here any more.", "Choose one from the list.")


_REFUSED: dict[May, tuple[str, str]] = {
    "see": ("is not shared with you", "Ask its owner to share it."),
    "explore": (
        "is yours to look at, to go down in and to answer its questions, and no more",
        "Ask its owner to let you explore it.",
    ),
    "change": ("is yours to read and explore but not to change", "Save a copy of your own."),
    "manage": (
        "can be renamed, moved, shared and removed only by its owner and those whom they let",
        "Ask its owner, or save a copy of your own.",
    ),
}


def require_may(thing: SavedAnalysis | Folder, needed: May) -> None:
    """Raises ForbiddenError unless the person that it was read for may do that with a folder or an analysis."""
    if not is_enough(thing.may, needed):
        refused, hint = _REFUSED[needed]
        raise ForbiddenError(f"“{thing.name}” belongs to {thing.owner_name}, and {refused}.", hint)


def require_exploring(may: May | None) -> None:
    """Raises ForbiddenError where a draft is of an analysis that its person may only look at. Of none, or of one that
    is not there any more, it is the person's own."""
    if may == "see":
        refused, hint = _REFUSED["explore"]
        raise ForbiddenError(f"This analysis {refused}.", hint, code="only-seen")


def require_place(folder: str | None, person: Person, connection: sqlite3.Connection) -> Folder | None:
    """The folder in which a person may put things; none for the outermost place.

    Raises: NotFoundError, ForbiddenError.
    """
    if folder is None:
        return None
    found = folder_seen_by(connection, person.id, folder)
    if not is_enough(found.may, "change"):
        raise ForbiddenError(
            f"“{found.name}” belongs to {found.owner_name}, who lets you see what lies in it but put nothing there.",
            "Choose a folder of your own.",
        )
    return found
