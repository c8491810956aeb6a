"""What models have from databases, fetched again at set times, whether anybody is there or not."""

from __future__ import annotations

import logging
import sqlite3
from datetime import UTC, datetime
from functools import partial

from dastan.core.errors import AppError, CancelledError, ForbiddenError, NotFoundError
from dastan.records.database import transaction
from dastan.records.fetching_times import KeptFetchingTimes, due_fetching_times, note_fetching, set_next_fetching
from dastan.records.people import Person, find_person
from dastan.server.access import may_shape
from dastan.server.clock import now
from dastan.server.context import Server
from dastan.server.fetching import fetch_again
from dastan.server.mail import put_mail
from dastan.server.times import Times
from dastan.sources.files.written import find_written

_logger = logging.getLogger(__name__)


def look_at_times(server: Server) -> None:
    """Fetches, from now on, what is to be fetched at set times."""
    server.jobs.every_while(lambda: begin_due_fetches(server, datetime.now(UTC)))


def begin_due_fetches(server: Server, moment: datetime) -> list[str]:
    """Begins to fetch what each model has whose time has come; returns the models. What was missed while no server ran
    is fetched once."""
    with server.connections.using() as connection, transaction(connection):
        due = due_fetching_times(connection, moment.isoformat(timespec="microseconds"))
        for each in due:
            next_at = Times.model_validate_json(each.times).after(moment)
            set_next_fetching(connection, each.model, next_at.isoformat(timespec="microseconds"))
    for each in due:
        server.jobs.submit(partial(_fetch, each, server))
    return [each.model for each in due]


def _fetch(kept: KeptFetchingTimes, server: Server) -> None:
    """Fetches as the person may who set the time, and tells them what newly goes wrong."""
    try:
        with server.connections.using() as connection:
            person = find_person(connection, kept.owner)
            if person is None:
                return  # and so the times are gone too
            trouble, hint = "", ""
            try:
                _fetch_as(person, kept.model, server, connection)
            except CancelledError:
                return  # the server ends; it is fetched at its next time
            except AppError as error:
                trouble, hint = error.message, error.hint
            except Exception:
                _logger.exception("What a model has from a database could not be fetched at its time")
                trouble, hint = "Something went wrong that was not foreseen.", "The server's log says more."
            with transaction(connection):
                note_fetching(connection, kept.model, now(), trouble, hint)
        if trouble and trouble != kept.trouble:  # once, however often it goes on
            told = f"{trouble}\n{hint}\nNothing was changed: what was fetched before goes on answering.\n"
            put_mail(server.settings.mail_folder, person, f"“{kept.model}” could not be fetched", told)
    except Exception:
        _logger.exception("What became of a fetching could not be noted or told")


def _fetch_as(person: Person, model: str, server: Server, connection: sqlite3.Connection) -> None:
    place = server.shelf.find(model)
    if place is None:
        raise NotFoundError("The model is not here.", "Put it back, or set its times no more.")
    if not may_shape(person, connection, model):
        raise ForbiddenError(f"“{place.caption}” is not yours to change any more.", "Ask an administrator.")
    with server.jobs.watched(f"fetching {model}") as watch:
        fetch_again(find_written(place.folder), person, server, connection, watch)
