"""What administrators do: people, groups, grants, what was done by whom, and what runs now."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Literal
from uuid import uuid4

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, StringConstraints

from dastan.core.errors import ConflictError, InputError, NotFoundError, did_you_mean
from dastan.records.database import transaction
from dastan.records.events import Event, EventKind, find_events, note_event
from dastan.records.grants import Grant, all_grants, put_grant, take_grant
from dastan.records.groups import Group, all_groups, put_group, remove_group, set_members
from dastan.records.identities import (
    SignsOn,
    all_who_sign_on,
    claims_seen,
    end_sign_on,
    fill_group,
    let_sign_on,
)
from dastan.records.invites import people_invited
from dastan.records.people import (
    SIGN_IN_PATTERN,
    Person,
    all_people,
    end_sessions_of,
    find_person,
    people_with_password,
    put_person,
    session_counts,
    set_administrator,
    set_disabled,
    set_password,
    set_sees_as,
)
from dastan.server.access import AdministratorDep, SessionDep
from dastan.server.admission import Ticket
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.memory import resident_bytes
from dastan.server.routes.session import address_of
from dastan.server.routes.welcome import make_link

router = APIRouter(prefix="/api/administration", tags=["administration"], route_class=BoundedRoute)

Line = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200)]
SignIn = Annotated[str, StringConstraints(strip_whitespace=True, to_lower=True, pattern=SIGN_IN_PATTERN)]


@dataclass(frozen=True, slots=True)
class AdministeredPerson:
    """A person as an administrator sees them. `sees` says, per model, what they see of it and why."""

    id: str
    sign_in: str
    name: str
    is_administrator: bool
    is_disabled: bool
    is_invited: bool
    has_password: bool
    sessions: int
    signs_on: SignsOn
    sees: tuple[Sight, ...]


@dataclass(frozen=True, slots=True)
class Sight:
    """What somebody sees of a model: all records, or a role's; granted to them, or to a group that they are in."""

    model: str
    caption: str
    role: str
    words: str
    group: str | None


@dataclass(frozen=True, slots=True)
class AdministeredRole:
    name: str
    caption: str


@dataclass(frozen=True, slots=True)
class AdministeredModel:
    name: str
    caption: str
    state: Literal["open", "opening", "failed"]
    roles: tuple[AdministeredRole, ...]
    records: int
    """Of its largest fact; 0 while it is not open."""
    prepared_bytes: int


@dataclass(frozen=True, slots=True)
class Administration:
    """Everything about who may do what."""

    people: tuple[AdministeredPerson, ...]
    groups: tuple[Group, ...]
    grants: tuple[Grant, ...]
    models: tuple[AdministeredModel, ...]
    provider: str | None
    """The caption of the provider by which people may sign on."""
    claims: tuple[str, ...]
    """The groups that the provider has named for somebody."""


@dataclass(frozen=True, slots=True)
class Link:
    """The path by which a person comes in, to be handed to them: of a link that opens once, or of the sign-in page."""

    path: str


@dataclass(frozen=True, slots=True)
class RunningQuestion:
    number: int
    person: str
    model: str
    memory_bytes: int
    is_running: bool
    seconds: float


@dataclass(frozen=True, slots=True)
class Running:
    """What the server does just now, and what it takes."""

    questions: tuple[RunningQuestion, ...]
    memory_bytes: int
    memory_for_questions: int
    kept_answers_bytes: int
    records_bytes: int
    held_ms: float
    """The longest within a minute that nobody at all could be answered."""


class NewPerson(BaseModel):
    """Who comes in by a link, or by the provider."""

    sign_in: SignIn
    name: Line
    signs_on: bool = False


class PersonChange(BaseModel):
    """What is not said stays as it is."""

    is_disabled: bool | None = None
    is_administrator: bool | None = None
    signs_on: bool | None = None


class NewGroup(BaseModel):
    name: Line


class GroupMembers(BaseModel):
    people: list[Line]


class GroupClaim(BaseModel):
    """The provider's group that fills one; by hand again without."""

    claim: Line | None = None


class GrantIn(BaseModel):
    """To a person or to a group; by a role of the model, or in whole without."""

    model: Line
    person: str | None = None
    group: str | None = None
    role: str = ""


class SeeAsIn(BaseModel):
    """Whose rights to look with; one's own without."""

    person: str | None = None


@router.get("")
def show(server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep) -> Administration:
    groups, grants = all_groups(connection), all_grants(connection)
    models = tuple(_model(each.name, server) for each in server.shelf.places())
    sessions, moment = session_counts(connection, now()), now()
    asked, known = people_invited(connection, moment), people_with_password(connection)
    sign_on = all_who_sign_on(connection)
    people = tuple(
        AdministeredPerson(
            each.id,
            each.sign_in,
            each.name,
            each.is_administrator,
            each.is_disabled,
            each.id in asked,
            each.id in known,
            sessions.get(each.id, 0),
            sign_on.get(each.id, "no"),
            _sights(each, groups, grants, models),
        )
        for each in all_people(connection)
    )
    provider = server.settings.provider
    return Administration(
        people, tuple(groups), tuple(grants), models, provider.caption if provider is not None else None,
        tuple(claims_seen(connection)),
    )  # fmt: skip


@router.post("/people", status_code=201)
def add_person(asked: NewPerson, connection: ConnectionDep, administrator: AdministratorDep, request: Request) -> Link:
    """Adds a person, who comes in by the link that is returned."""
    with transaction(connection):
        if any(asked.sign_in in (each.id, each.sign_in) for each in all_people(connection)):
            raise ConflictError(f"There is somebody who signs in as “{asked.sign_in}”.", "Choose another name.")
        put_person(connection, Person(asked.sign_in, asked.sign_in, asked.name), None)
        _note(connection, "person_added", administrator, request, asked.sign_in)
        if asked.signs_on:
            let_sign_on(connection, asked.sign_in)
            return Link("/sign-in")
        return Link(make_link(connection, asked.sign_in))


@router.post("/people/{id}/link")
def invite(id: str, connection: ConnectionDep, administrator: AdministratorDep, request: Request) -> Link:
    """A new link for a person, whose password no longer holds and who is signed out everywhere."""
    with transaction(connection):
        person = _person(connection, id)
        set_password(connection, person.id, None)
        end_sessions_of(connection, person.id)
        _note(connection, "invited", administrator, request, person.sign_in)
        return Link(make_link(connection, person.id))


@router.put("/people/{id}", status_code=204)
def change_person(
    id: str, asked: PersonChange, connection: ConnectionDep, administrator: AdministratorDep, request: Request
) -> None:
    with transaction(connection):
        person = _person(connection, id)
        if person.id == administrator.id and (asked.is_disabled or asked.is_administrator is False):
            raise InputError("You cannot shut yourself out.", "Let another administrator do it.")
        if asked.is_disabled is not None:
            set_disabled(connection, person.id, now() if asked.is_disabled else None)
            kind: EventKind = "person_disabled" if asked.is_disabled else "person_enabled"
            _note(connection, kind, administrator, request, person.sign_in)
        if asked.is_administrator is not None:
            set_administrator(connection, person.id, asked.is_administrator)
            kind = "made_administrator" if asked.is_administrator else "no_longer_administrator"
            _note(connection, kind, administrator, request, person.sign_in)
        if asked.signs_on is not None:
            (let_sign_on if asked.signs_on else end_sign_on)(connection, person.id)
            about = f"{person.sign_in}: {'may' if asked.signs_on else 'may no longer'} sign on"
            _note(connection, "sign_on_changed", administrator, request, about)


@router.delete("/people/{id}/sessions", status_code=204)
def end_sessions(id: str, connection: ConnectionDep, administrator: AdministratorDep, request: Request) -> None:
    """Signs a person out everywhere, at once."""
    with transaction(connection):
        person = _person(connection, id)
        end_sessions_of(connection, person.id)
        _note(connection, "session_ended", administrator, request, person.sign_in)


@router.post("/groups", status_code=201)
def add_group(asked: NewGroup, connection: ConnectionDep, administrator: AdministratorDep, request: Request) -> Group:
    id = uuid4().hex
    with transaction(connection):
        put_group(connection, id, asked.name)
        _note(connection, "group_changed", administrator, request, f"added {asked.name}")
    return Group(id, asked.name, ())


@router.delete("/groups/{id}", status_code=204)
def drop_group(id: str, connection: ConnectionDep, administrator: AdministratorDep, request: Request) -> None:
    with transaction(connection):
        name = _group(connection, id).name
        remove_group(connection, id)
        _note(connection, "group_changed", administrator, request, f"removed {name}")


@router.put("/groups/{id}/people", status_code=204)
def put_members(
    id: str, asked: GroupMembers, connection: ConnectionDep, administrator: AdministratorDep, request: Request
) -> None:
    """Makes just these people the members of a group."""
    with transaction(connection):
        group = _group(connection, id)
        if group.claim is not None:
            raise InputError(f"{group.name} is filled by “{group.claim}” of the provider.", "Fill it by hand first.")
        people = [_person(connection, each).id for each in asked.people]
        set_members(connection, id, people)
        _note(connection, "group_changed", administrator, request, f"{group.name}: {', '.join(people) or 'nobody'}")


@router.put("/groups/{id}/claim", status_code=204)
def fill(
    id: str, asked: GroupClaim, connection: ConnectionDep, administrator: AdministratorDep, request: Request
) -> None:
    """Lets a group be filled with the people of one of the provider's."""
    with transaction(connection):
        group = _group(connection, id)
        fill_group(connection, id, asked.claim)
        how = f"filled by “{asked.claim}” of the provider" if asked.claim is not None else "filled by hand"
        _note(connection, "group_changed", administrator, request, f"{group.name}: {how}")


@router.post("/grants", status_code=204)
def grant(
    asked: GrantIn, server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep, request: Request
) -> None:
    with transaction(connection):
        made = _grant(asked, connection)
        known = {each.name: _model(each.name, server) for each in server.shelf.places()}
        if made.model not in known:
            raise NotFoundError(f"There is no model “{made.model}” here.", did_you_mean(made.model, known))
        roles = [each.name for each in known[made.model].roles]
        if made.role and made.role not in roles:
            raise NotFoundError(f"The model has no role “{made.role}”.", did_you_mean(made.role, roles))
        put_grant(connection, made)
        _note(connection, "granted", administrator, request, _grant_words(made, connection))


@router.delete("/grants", status_code=204)
def take(asked: GrantIn, connection: ConnectionDep, administrator: AdministratorDep, request: Request) -> None:
    """Takes a grant back. It holds no longer from the next request on."""
    with transaction(connection):
        made = _grant(asked, connection)
        if not take_grant(connection, made):
            raise NotFoundError("There is no such grant any more.", "Look at the list again.")
        _note(connection, "grant_taken", administrator, request, _grant_words(made, connection))


@router.put("/see-as", status_code=204)
def see_as(
    asked: SeeAsIn, session: SessionDep, connection: ConnectionDep, administrator: AdministratorDep, request: Request
) -> None:
    """Looks at models with another person's rights, in this session; saved analyses stay one's own."""
    with transaction(connection):
        other = _person(connection, asked.person) if asked.person is not None else None
        set_sees_as(connection, session.id, other.id if other is not None else None)
        _note(connection, "seen_as", administrator, request, other.sign_in if other is not None else "themselves again")


@router.get("/events")
def events(
    connection: ConnectionDep,
    administrator: AdministratorDep,
    words: Annotated[str, Query(max_length=200)] = "",
    before: Annotated[int | None, Query(ge=0, le=2**62)] = None,
) -> list[Event]:
    """What was done by whom, newest first, a hundred at a time."""
    return find_events(connection, words, before)


@router.get("/running")
def running(server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep) -> Running:
    names = {each.id: each.name for each in all_people(connection)}
    tickets = [each.tickets() for each in (server.admission, *server.writing.queues)]
    records: Path = server.settings.records
    return Running(
        tuple(_question(each, names) for state in zip(*tickets, strict=True) for some in state for each in some),
        resident_bytes(),
        server.admission.memory_bytes,
        server.answers.size_bytes,
        sum(each.stat().st_size for each in records.parent.glob(f"{records.name}*")),
        server.pulse.held_ms,
    )


@router.delete("/running/{number}", status_code=204)
def end_question(
    number: int, server: ServerDep, connection: ConnectionDep, administrator: AdministratorDep, request: Request
) -> None:
    """Ends a question that runs or waits."""
    waits = (server.admission, *server.writing.queues)
    for each in (each for admission in waits for some in admission.tickets() for each in some):
        if each.number == number:
            each.watch.cancel()
            with transaction(connection):
                _note(connection, "question_ended", administrator, request, f"of {each.person}")
            return
    raise NotFoundError("This question has ended by itself.", "Look at the list again.")


def _note(connection: sqlite3.Connection, kind: EventKind, administrator: Person, request: Request, about: str) -> None:
    note_event(connection, now(), kind, administrator.id, about, address_of(request))


def _person(connection: sqlite3.Connection, id: str) -> Person:
    found = find_person(connection, id)
    if found is None:
        raise NotFoundError(f"There is no person “{id}” here.", "Look at the list again.")
    return found


def _group(connection: sqlite3.Connection, id: str) -> Group:
    for each in all_groups(connection):
        if each.id == id:
            return each
    raise NotFoundError("There is no such group any more.", "Look at the list again.")


def _grant(asked: GrantIn, connection: sqlite3.Connection) -> Grant:
    if (asked.person is None) == (asked.group is None):
        raise InputError("A model is granted to a person or to a group.", "Name one of them.")
    person = _person(connection, asked.person).id if asked.person is not None else None
    group = _group(connection, asked.group).id if asked.group is not None else None
    return Grant(asked.model, person, group, asked.role)


def _grant_words(made: Grant, connection: sqlite3.Connection) -> str:
    to = made.person or f"group {_group(connection, made.group or '').name}"
    return f"{made.model}{f' as {made.role}' if made.role else ''} to {to}"


def _model(name: str, server: Server) -> AdministeredModel:
    place = server.shelf.find(name)
    assert place is not None
    roles = tuple(AdministeredRole(*each) for each in place.roles)
    if not place.is_open:
        return AdministeredModel(name, place.caption, "failed" if place.trouble else "opening", roles, 0, 0)
    source = place.wait().opened.source
    records = max((each.row_count for each in source.tables.values()), default=0)
    prepared = source.prepared.size_bytes() if source.prepared is not None else 0
    return AdministeredModel(name, place.caption, "open", roles, records, prepared)


def _sights(
    person: Person, groups: list[Group], grants: list[Grant], models: tuple[AdministeredModel, ...]
) -> tuple[Sight, ...]:
    own = {each.id: each.name for each in groups if person.id in each.people}
    captions = {each.name: each.caption for each in models}
    roles = {(each.name, role.name): role.caption for each in models for role in each.roles}
    found = []
    for each in grants:
        if each.person == person.id or each.group in own:
            words = (
                "every record" if not each.role else f"as far as {roles.get((each.model, each.role), each.role)} may"
            )
            group = own[each.group] if each.group is not None else None
            found.append(Sight(each.model, captions.get(each.model, each.model), each.role, words, group))
    return tuple(found)


def _question(ticket: Ticket, names: dict[str, str]) -> RunningQuestion:
    return RunningQuestion(
        ticket.number, names.get(ticket.person, ticket.person), ticket.words, ticket.held or ticket.wanted,
        ticket.is_running, ticket.seconds,
    )  # fmt: skip
