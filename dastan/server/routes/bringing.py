"""Bringing files: part by part, then a model of them."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.grants import all_grants, grant_to_person
from dastan.records.models import own_model, put_model
from dastan.server.access import BringerDep, PersonDep
from dastan.server.bodies import BoundedRoute
from dastan.server.bringing import BroughtFile, FilesBrought
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, ServerDep
from dastan.server.lanes import QUESTIONS, in_lane
from dastan.server.questions import QuestionName
from dastan.server.readers import places_for

router = APIRouter(prefix="/api/bringing", tags=["bringing"], route_class=BoundedRoute)


@dataclass(frozen=True, slots=True)
class BroughtModel:
    """The model that was made, and how much of it was taken to be so."""

    model: str
    caption: str
    assumed: int
    unsure: int


@router.post("", status_code=201)
def begin(person: BringerDep, server: ServerDep) -> FilesBrought:
    return server.bringing.begin(person.id)


@router.get("/{id}")
def look(id: str, person: BringerDep, server: ServerDep) -> FilesBrought:
    return server.bringing.look(id, person.id)


_PART = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@router.put("/{id}/files/{name}", openapi_extra=_PART)
async def receive(
    id: str, name: str, request: Request, person: BringerDep, server: ServerDep, offset: int = Query(ge=0, le=2**50)
) -> BroughtFile:
    """Puts a part of a file behind what is there of it, a megabyte at the most."""
    part = await request.body()
    return await run_in_threadpool(server.bringing.receive, id, person.id, name, offset, part)


@router.delete("/{id}", status_code=204)
def forget(id: str, person: BringerDep, server: ServerDep) -> None:
    server.bringing.forget(id, person.id)


@router.post("/{id}/model", status_code=201)
@in_lane(QUESTIONS)
def make_model(
    id: str, person: BringerDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None
) -> BroughtModel:
    """Makes a model of what was brought, for whoever brought it alone. Under the name of a question its progress can be
    asked, and it can be taken back: the files are there still."""
    # Nor one that somebody was granted once: they would see what they were not given.
    taken = [each.name for each in server.shelf.places()] + [each.model for each in all_grants(connection)]
    with (
        server.questions.asked(person.id, question) as watch,
        server.admission.running(person.id, watch, "a look at files"),
    ):
        captions = [each.caption for each in places_for(person, server, connection)]
        model = server.bringing.make(id, person.id, taken, captions, watch)
    with transaction(connection):
        put_model(connection, model.name, model.caption, person.id, now())
        grant_to_person(connection, person.id, model.name)
        note_event(connection, now(), "brought", person.id, model.caption)
    server.shelf.look_again()
    unsure = sum(each.is_unsure for each in model.assumed)
    return BroughtModel(model.name, model.caption, len(model.assumed), unsure)


@router.delete("/models/{model}", status_code=204)
def delete_model(model: str, person: PersonDep, server: ServerDep, connection: ConnectionDep) -> None:
    """Deletes a model that the person brought, with its files."""
    found = own_model(connection, model, person.id)
    server.bringing.delete(found.name)
    server.shelf.look_again()
    with transaction(connection):
        note_event(connection, now(), "removed", person.id, f"the model “{found.caption}”")


@router.post("/models/{model}/back", status_code=204)
def bring_model_back(model: str, person: PersonDep, server: ServerDep, connection: ConnectionDep) -> None:
    """Brings back a model that the person deleted."""
    server.bringing.bring_back(own_model(connection, model, person.id).name)
    server.shelf.look_again()


@router.post("/{id}/into/{model}", status_code=204)
@in_lane(QUESTIONS)
def renew_model(
    id: str, model: str, person: BringerDep, server: ServerDep, connection: ConnectionDep, question: QuestionName = None
) -> None:
    """Puts newer files in place of those of the same names in a model that the person brought."""
    found = own_model(connection, model, person.id)
    with (
        server.questions.asked(person.id, question) as watch,
        server.admission.running(person.id, watch, "a look at files"),
    ):
        server.bringing.renew(id, person.id, found.name, watch)
    with transaction(connection):
        note_event(connection, now(), "brought", person.id, f"{found.caption}, anew")
    server.shelf.look_again()
