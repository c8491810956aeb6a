"""Following a question that takes its time, and taking it back."""

from __future__ import annotations

from fastapi import APIRouter

from dastan.server.access import PersonDep
from dastan.server.bodies import BoundedRoute
from dastan.server.context import ServerDep
from dastan.server.questions import QuestionProgress

router = APIRouter(prefix="/api/questions", tags=["questions"], route_class=BoundedRoute)


@router.get("/{name}")
def progress(name: str, server: ServerDep, person: PersonDep) -> QuestionProgress:
    return server.questions.progress(person.id, name)


@router.delete("/{name}", status_code=204)
def cancel(name: str, server: ServerDep, person: PersonDep) -> None:
    server.questions.cancel(person.id, name)
