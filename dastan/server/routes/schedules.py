"""What is made of an analysis at set times or by itself, and what came of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter
from fastapi.responses import FileResponse
from pydantic import BaseModel, StringConstraints

from dastan.core.errors import ConflictError, InputError, NotFoundError
from dastan.records import jobs as records
from dastan.records.analyses import SavedAnalysis
from dastan.records.database import transaction
from dastan.records.jobs import Job, JobState
from dastan.records.schedules import KeptSchedule, count_schedules, put_schedule, remove_schedule, schedules_of
from dastan.server.access import OwnJobDep, PersonDep, SeenAnalysisDep, require_may
from dastan.server.bodies import BoundedRoute
from dastan.server.clock import now
from dastan.server.context import ConnectionDep, Server, ServerDep
from dastan.server.making import Makes, file_of
from dastan.server.times import Times
from dastan.server.working import KEPT, begin_soon, take_back

router = APIRouter(prefix="/api", tags=["schedules"], route_class=BoundedRoute)

MOST_SCHEDULES = 50
"""So many a person may have."""


@dataclass(frozen=True, slots=True)
class Schedule:
    """What a person lets be made of an analysis, when, and when next."""

    id: str
    makes: str
    times: Times
    is_mailed: bool
    next_at: str


@dataclass(frozen=True, slots=True)
class Result:
    """Something that is being made, or was: `done` of `total` parts are there, `place` is its place in the queue. A
    file of so many bytes, or a frozen copy; or why there is none."""

    id: str
    item: str
    item_name: str
    makes: str
    state: JobState
    asked_at: str
    ended_at: str | None
    done: int
    total: int
    place: int | None
    file_bytes: int | None
    frozen: str | None
    trouble: str
    hint: str


@dataclass(frozen=True, slots=True)
class MadeOfAnalysis:
    """A person's schedules of an analysis, and what was made of it for them lately. `clock` is the server's zone."""

    schedules: tuple[Schedule, ...]
    results: tuple[Result, ...]
    clock: str


class ScheduleIn(BaseModel):
    """What to make, and when."""

    makes: Makes
    times: Times
    is_mailed: bool = False


class MakeIn(BaseModel):
    makes: Makes


def result_of(job: Job, server: Server) -> Result:
    """A job as its owner sees it."""
    watch = server.jobs.watch_of(job.id)
    progress = watch.progress if watch is not None else None
    return Result(
        job.id, job.item, job.item_name, job.makes, job.state, job.asked_at, job.ended_at,
        progress.done if progress is not None else 0, progress.total if progress is not None else 0,
        server.questions.place(watch) if watch is not None else None, job.file_bytes, job.result_item, job.trouble,
        job.hint,
    )  # fmt: skip


@router.get("/analyses/{id}/made")
def made_of(
    analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> MadeOfAnalysis:
    return MadeOfAnalysis(
        tuple(
            Schedule(each.id, each.makes, Times.model_validate_json(each.times), each.is_mailed, each.next_at)
            for each in schedules_of(connection, person.id, analysis.id)
        ),
        tuple(result_of(each, server) for each in records.jobs_of(connection, person.id, analysis.id, KEPT)),
        datetime.now().astimezone().tzname() or "UTC",
    )


@router.post("/analyses/{id}/made", status_code=201)
def make_now(
    asked: MakeIn, analysis: SeenAnalysisDep, server: ServerDep, connection: ConnectionDep, person: PersonDep
) -> Result:
    """Makes something now, which goes on when the page is closed."""
    _check_makes(asked.makes, analysis)
    id = uuid4().hex
    with transaction(connection):
        latest = records.jobs_of(connection, person.id, analysis.id, KEPT)
        if any(each.state in ("waiting", "running") and each.makes == asked.makes for each in latest):
            raise ConflictError("This is being made already.", "Wait for it, or take it back.")
        records.put_job(
            connection, id=id, owner=person.id, item=analysis.id, schedule=None, makes=asked.makes, is_mailed=False,
            now=now(),
        )  # fmt: skip
    begin_soon(id, server)
    return result_of(records.find_job(connection, person.id, id), server)


@router.post("/analyses/{id}/schedules", status_code=201)
def set_times(asked: ScheduleIn, analysis: SeenAnalysisDep, connection: ConnectionDep, person: PersonDep) -> Schedule:
    if analysis.frozen is not None:
        raise InputError("A frozen copy is the same at all times.", "Set times for the live analysis.")
    _check_makes(asked.makes, analysis)
    next_at = asked.times.after(datetime.now(UTC)).isoformat(timespec="microseconds")
    kept = KeptSchedule(
        uuid4().hex, analysis.id, person.id, asked.makes, asked.times.model_dump_json(), asked.is_mailed, next_at
    )
    with transaction(connection):
        if count_schedules(connection, person.id) >= MOST_SCHEDULES:
            raise ConflictError(f"You have set times {MOST_SCHEDULES} times already.", "End some of them first.")
        put_schedule(connection, kept)
    return Schedule(kept.id, kept.makes, asked.times, kept.is_mailed, kept.next_at)


def _check_makes(makes: Makes, analysis: SavedAnalysis) -> None:
    """Raises InputError, ForbiddenError where no frozen copy can be made of an analysis, or not by this person."""
    if makes != "frozen":
        return
    require_may(analysis, "explore")
    if analysis.frozen is not None:
        raise InputError("This is a frozen copy already.", "Make a copy of it in the library.")


@router.delete("/schedules/{id}", status_code=204)
def end_times(
    id: Annotated[str, StringConstraints(max_length=64)], connection: ConnectionDep, person: PersonDep
) -> None:
    """Ends a schedule. What it made stays."""
    with transaction(connection):
        remove_schedule(connection, person.id, id)


@router.get("/jobs/{id}/file", response_class=FileResponse)
def file(job: OwnJobDep, server: ServerDep) -> FileResponse:
    path = file_of(job, server.settings.made_folder)
    if job.state != "done" or job.file_bytes is None or not path.is_file():
        raise NotFoundError("There is no such file.", "Make it once more.")
    return FileResponse(path, filename=f"{job.item_name}{path.suffix}")


@router.delete("/jobs/{id}", status_code=204)
def take_job_back(job: OwnJobDep, server: ServerDep, connection: ConnectionDep) -> None:
    take_back(job.id, server, connection)


@router.put("/jobs/{id}/read", status_code=204)
def note_failure_read(job: OwnJobDep, connection: ConnectionDep, person: PersonDep) -> None:
    """Says that its owner has read why it could not be made."""
    with transaction(connection):
        records.note_read(connection, person.id, job.id)
