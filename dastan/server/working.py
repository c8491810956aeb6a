"""Jobs from their beginning to their end: whether their page is open or not, and over the end of a server.

What is to be done is in the records before it begins, and what became of it once it has ended: a server that ends in
the middle begins it again. A job is begun by one statement that only one thread can win.
"""

from __future__ import annotations

import logging
import sqlite3
from datetime import UTC, datetime
from functools import partial
from uuid import uuid4

from dastan.core.errors import AppError, CancelledError, NotFoundError
from dastan.records import jobs as records
from dastan.records.database import transaction
from dastan.records.events import note_event
from dastan.records.items import remove_item
from dastan.records.jobs import Job, JobState
from dastan.records.people import Person, find_person
from dastan.records.schedules import due_schedules, set_next
from dastan.server.clock import now
from dastan.server.context import Server
from dastan.server.fetching_times import look_at_times
from dastan.server.mail import put_mail
from dastan.server.making import Made, file_of, make
from dastan.server.times import Times

_logger = logging.getLogger(__name__)
MOST_TRIES = 3
"""A job is begun so often at most, when the server ends in the middle of it."""
KEPT = 20
"""So many results of an analysis are kept for a person."""


def take_up_jobs(server: Server) -> None:
    """Goes on with what waited or ran when the server ended, and looks at the schedules from now on."""
    with server.connections.using() as connection:
        with transaction(connection):
            records.put_back_running(connection)
        known = records.job_ids(connection)
        waiting = records.waiting_jobs(connection)
    for file in server.settings.made_folder.glob("*"):
        if file.name.lstrip(".").partition(".")[0] not in known:
            file.unlink(missing_ok=True)
    for id in waiting:
        begin_soon(id, server)
    server.jobs.every_while(lambda: begin_due(server, datetime.now(UTC)))
    server.jobs.every_while(server.shelf.look_at_files)
    look_at_times(server)


def begin_soon(id: str, server: Server) -> None:
    """Begins a job that waits in the records, as soon as a thread is free."""
    server.jobs.submit(partial(_run, id, server))


def begin_due(server: Server, moment: datetime) -> list[str]:
    """Puts a job for each schedule whose time has come among those that wait; returns their ids. What was missed while
    no server ran is made once."""
    begun = []
    with server.connections.using() as connection, transaction(connection):
        for each in due_schedules(connection, moment.isoformat(timespec="microseconds")):
            id = uuid4().hex
            records.put_job(
                connection, id=id, owner=each.owner, item=each.item, schedule=each.id, makes=each.makes,
                is_mailed=each.is_mailed, now=now(),
            )  # fmt: skip
            next_at = Times.model_validate_json(each.times).after(moment)
            set_next(connection, each.id, next_at.isoformat(timespec="microseconds"))
            begun.append(id)
    for id in begun:
        begin_soon(id, server)
    return begun


def take_back(id: str, server: Server, connection: sqlite3.Connection) -> None:
    """Takes back a job that waits or runs. Raises NotFoundError for one that has ended."""
    watch = server.jobs.watch_of(id)
    if watch is not None:
        watch.cancel()
        return
    with transaction(connection):
        has_waited = records.take_back_waiting(connection, id, now())
    if not has_waited:
        raise NotFoundError("It has ended already.", "Look at the list again.")


def _run(id: str, server: Server) -> None:
    try:
        with server.connections.using() as connection:
            with transaction(connection):
                job = records.begin_job(connection, id)
            if job is not None:
                _finish(job, server, connection)
    except Exception:
        _logger.exception("A job could not be begun or ended")


def _finish(job: Job, server: Server, connection: sqlite3.Connection) -> None:
    state: JobState = "failed"
    made, trouble, hint, person = Made(), "", "", None
    try:
        person = find_person(connection, job.owner)
        if person is None:
            raise NotFoundError("Whose it was is not here any more.")
        if job.tries > MOST_TRIES:
            raise AppError("The server ended each time that it was made.", "Ask whoever runs it what its log says.")
        with server.jobs.watched(job.id) as watch:
            made = make(job, person, server, connection, watch)
        state = "done"
    except CancelledError:
        if server.jobs.is_ending:
            return  # it is begun again
        state = "taken_back"
    except AppError as error:
        trouble, hint = error.message, error.hint
    except Exception:
        _logger.exception("A job met an error that was not foreseen")
        trouble, hint = "Something went wrong that was not foreseen.", "The server's log says more; try it again."
    surplus = _ended(job, state, made, (trouble, hint), connection)
    for each in surplus:
        file_of(each, server.settings.made_folder).unlink(missing_ok=True)
    if job.is_mailed and state != "taken_back" and person is not None:
        _mail(job, person, server, trouble, hint)


def _ended(job: Job, state: JobState, made: Made, why: tuple[str, str], connection: sqlite3.Connection) -> list[Job]:
    """Notes what became of a job; forgets what is more than is kept, and returns it."""
    with transaction(connection):
        records.end_job(
            connection, job.id, state, now(), result_item=made.frozen, file_bytes=made.file_bytes, trouble=why[0],
            hint=why[1],
        )  # fmt: skip
        if state == "done":
            note_event(connection, now(), "exported", job.owner, f"“{job.item_name}”, {job.makes}", item=job.item)
        surplus = records.surplus_jobs(connection, job.owner, job.item, KEPT)
        for each in surplus:
            if each.result_item is not None:
                remove_item(connection, each.result_item, now())
            records.remove_job(connection, each.id)
    return surplus


def _mail(job: Job, person: Person, server: Server, trouble: str, hint: str) -> None:
    folder, called = server.settings.mail_folder, f"“{job.item_name}”"
    ending = job.makes.partition(".")[2]
    if trouble:
        put_mail(folder, person, f"{called} could not be made", f"{trouble}\n{hint}\n")
    elif not ending:
        put_mail(folder, person, f"{called} was frozen", "The frozen copy is in your library.\n")
    else:
        file = file_of(job, server.settings.made_folder)
        name = f"{job.item_name}.{ending}".replace("/", "-")
        put_mail(folder, person, called, "It is in Dastan too, with the earlier ones.\n", file, name)
