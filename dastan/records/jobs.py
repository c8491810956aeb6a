"""Jobs: work that goes on by itself, what became of it, and what it made."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from dastan.core.errors import NotFoundError

JobState = Literal["waiting", "running", "done", "failed", "taken_back"]


@dataclass(frozen=True, slots=True)
class Job:
    """Something that is made of an item. `result_item` is the frozen copy that it made, `file_bytes` the size of its
    file; `trouble` and `hint` say why it failed and what to do."""

    id: str
    owner: str
    item: str
    item_name: str
    schedule: str | None
    makes: str
    is_mailed: bool
    state: JobState
    tries: int
    asked_at: str
    ended_at: str | None
    result_item: str | None
    file_bytes: int | None
    trouble: str
    hint: str


_SEEN = """
SELECT jobs.id, jobs.owner, jobs.item, items.name AS item_name, jobs.schedule, jobs.makes, jobs.is_mailed, jobs.state,
    jobs.tries, jobs.asked_at, jobs.ended_at, jobs.result_item, jobs.file_bytes, jobs.trouble, jobs.hint
FROM jobs JOIN items ON items.id = jobs.item
"""


def _job(row: sqlite3.Row) -> Job:
    return Job(**{**dict(row), "is_mailed": bool(row["is_mailed"])})


def put_job(
    connection: sqlite3.Connection, *, id: str, owner: str, item: str, schedule: str | None, makes: str,
    is_mailed: bool, now: str,
) -> None:  # fmt: skip
    """Puts a job among those that wait."""
    connection.execute(
        "INSERT INTO jobs (id, owner, item, schedule, makes, is_mailed, state, asked_at) "
        "VALUES (:id, :owner, :item, :schedule, :makes, :is_mailed, 'waiting', :now)",
        {"id": id, "owner": owner, "item": item, "schedule": schedule, "makes": makes, "is_mailed": int(is_mailed),
         "now": now},
    )  # fmt: skip


def find_job(connection: sqlite3.Connection, owner: str, id: str) -> Job:
    """A person's own job. Raises NotFoundError."""
    row = connection.execute(
        _SEEN + "WHERE jobs.id = :id AND jobs.owner = :owner", {"id": id, "owner": owner}
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such result any more.", "Look at the list again.")
    return _job(row)


def jobs_of(connection: sqlite3.Connection, owner: str, item: str, count: int) -> list[Job]:
    """What a person let be made of an item lately, the last first."""
    rows = connection.execute(
        _SEEN + "WHERE jobs.owner = :owner AND jobs.item = :item ORDER BY jobs.asked_at DESC, jobs.id LIMIT :count",
        {"owner": owner, "item": item, "count": count},
    )
    return [_job(row) for row in rows]


def unread_failures(connection: sqlite3.Connection, owner: str, count: int) -> list[Job]:
    """What could not be made for a person who has not read so yet, the last of each schedule, the last first."""
    rows = connection.execute(
        _SEEN
        + """WHERE jobs.owner = :owner AND jobs.state = 'failed' AND NOT jobs.is_read
            AND items.removed_at IS NULL AND NOT EXISTS (
                SELECT 1 FROM jobs AS later WHERE later.item = jobs.item AND later.makes = jobs.makes
                    AND later.owner = jobs.owner AND later.asked_at > jobs.asked_at
                    AND later.state IN ('done', 'failed'))
        ORDER BY jobs.asked_at DESC LIMIT :count""",
        {"owner": owner, "count": count},
    )
    return [_job(row) for row in rows]


def note_read(connection: sqlite3.Connection, owner: str, id: str) -> None:
    """Remembers that a person has read that a job failed, and those before it of the same kind."""
    connection.execute(
        "UPDATE jobs SET is_read = 1 WHERE owner = :owner AND state = 'failed' "
        "AND item = (SELECT item FROM jobs WHERE id = :id AND owner = :owner)",
        {"id": id, "owner": owner},
    )


def waiting_jobs(connection: sqlite3.Connection) -> list[str]:
    """The ids of all that wait, the longest first."""
    rows = connection.execute("SELECT id FROM jobs WHERE state = 'waiting' ORDER BY asked_at, id")
    return [str(row["id"]) for row in rows]


def put_back_running(connection: sqlite3.Connection) -> None:
    """Lets everything wait again that ran when the server ended."""
    connection.execute("UPDATE jobs SET state = 'waiting' WHERE state = 'running'")


def begin_job(connection: sqlite3.Connection, id: str) -> Job | None:
    """Marks a job that waits as running; None where it does not wait any more."""
    begun = connection.execute(
        "UPDATE jobs SET state = 'running', tries = tries + 1 WHERE id = :id AND state = 'waiting'", {"id": id}
    )
    if begun.rowcount == 0:
        return None
    return _job(connection.execute(_SEEN + "WHERE jobs.id = :id", {"id": id}).fetchone())


def take_back_waiting(connection: sqlite3.Connection, id: str, now: str) -> bool:
    """Takes back a job that was not begun; says whether it was still waiting."""
    done = connection.execute(
        "UPDATE jobs SET state = 'taken_back', ended_at = :now WHERE id = :id AND state = 'waiting'",
        {"id": id, "now": now},
    )
    return done.rowcount > 0


def end_job(
    connection: sqlite3.Connection, id: str, state: JobState, now: str, *, result_item: str | None = None,
    file_bytes: int | None = None, trouble: str = "", hint: str = "",
) -> None:  # fmt: skip
    """Says what became of a job."""
    connection.execute(
        "UPDATE jobs SET state = :state, ended_at = :now, result_item = :result_item, file_bytes = :file_bytes, "
        "trouble = :trouble, hint = :hint WHERE id = :id",
        {"id": id, "state": state, "now": now, "result_item": result_item, "file_bytes": file_bytes,
         "trouble": trouble, "hint": hint},
    )  # fmt: skip


def remove_job(connection: sqlite3.Connection, id: str) -> None:
    connection.execute("DELETE FROM jobs WHERE id = :id", {"id": id})


def surplus_jobs(connection: sqlite3.Connection, owner: str, item: str, kept: int) -> list[Job]:
    """What has ended and is more than the last `kept` of what a person let be made of an item."""
    rows = connection.execute(
        _SEEN
        + """WHERE jobs.owner = :owner AND jobs.item = :item AND jobs.state NOT IN ('waiting', 'running')
        ORDER BY jobs.asked_at DESC, jobs.id LIMIT -1 OFFSET :kept""",
        {"owner": owner, "item": item, "kept": kept},
    )
    return [_job(row) for row in rows]


def job_ids(connection: sqlite3.Connection) -> set[str]:
    """Every job that there is."""
    return {str(row["id"]) for row in connection.execute("SELECT id FROM jobs")}
