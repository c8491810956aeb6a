"""No answered step is lost in silence: with a full disk, locked records, or a step that is sent twice."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records import database
from dastan.records.database import connect
from tests.server.test_server import BY_LINE, SHOW, begin, step

Enter = Callable[[str], TestClient]


class Trouble:
    """Makes every commit fail as a disk or a file would, as long as it is on."""

    def __init__(self) -> None:
        self.error: sqlite3.OperationalError | None = None


@pytest.fixture
def trouble(app: FastAPI, monkeypatch: pytest.MonkeyPatch) -> Iterator[Trouble]:
    found = Trouble()
    connect_plainly = database.connect

    class Failing(sqlite3.Connection):
        def execute(self, sql: str, *more: object) -> sqlite3.Cursor:
            if found.error is not None and sql.startswith(("INSERT", "UPDATE", "DELETE")):
                raise found.error
            return super().execute(sql, *more)  # type: ignore[arg-type]

    def connect_failing(path: Path) -> sqlite3.Connection:
        connect_plainly(path).close()
        connection = sqlite3.connect(path, isolation_level=None, check_same_thread=False, factory=Failing)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        return connection

    for where in ("dastan.server.keeper.connect", "dastan.server.context.connect"):
        monkeypatch.setattr(where, connect_failing)
    app.state.server.connections.close()
    keeper = app.state.server.keeper
    keeper._executor.submit(keeper._let_go).result()
    yield found
    found.error = None
    app.state.server.connections.close()
    keeper._executor.submit(keeper._let_go).result()


def kept(client: TestClient, draft: dict, number: int) -> Any:
    """What the server says of a step that it answered; None where it is kept."""
    reply = client.get(f"/api/drafts/{draft['id']}/steps/{draft['ids'][number]}/kept")
    return None if reply.status_code == 204 else reply.json()


def test_a_step_is_known_to_be_kept_once_it_is(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft = begin(client)
    step(client, draft, 0, draft["steps"][0]["document"], SHOW)
    assert kept(client, draft, 1) is None
    draft["ids"][7] = "never-taken"
    assert kept(client, draft, 7)["code"] == "not-kept"


@pytest.mark.parametrize(
    ("error", "words"),
    [
        ("database or disk is full", "The disk that holds the records is full"),
        ("attempt to write a readonly database", "The records may not be written"),
        ("database is locked", "The records are held by another program"),
    ],
)
def test_a_step_that_cannot_be_kept_is_told_at_once_and_kept_when_it_is_sent_again(
    signed_in: Enter, trouble: Trouble, error: str, words: str
) -> None:
    client = signed_in("ines")
    draft = begin(client)
    trouble.error = sqlite3.OperationalError(error)
    taken = []
    document = draft["steps"][0]["document"]
    for number, gesture in enumerate((SHOW, BY_LINE)):
        shown = step(client, draft, number, document, gesture)  # answered all the same
        document = shown["document"]
        taken.append({"id": draft["ids"][number + 1], "parent": draft["ids"][number], "words": shown["words"],
                      "document": document})  # fmt: skip
        told = kept(client, draft, number + 1)
        assert told["code"] == "not-kept"
        assert told["detail"].startswith(words)
        assert told["hint"]
    body = {"draft": draft["id"], "step": draft["ids"][2], "document": document, "name": "Mine"}
    assert client.post("/api/analyses", json=body).json()["code"] == "not-kept"
    trail = {"steps": taken, "shown": draft["ids"][2]}
    refused = client.put(f"/api/drafts/{draft['id']}/trail", json=trail)
    assert (refused.status_code, refused.json()["code"]) == (503, "not-kept")
    # Nothing of it is there by now, and the draft still opens.
    opened = client.get(f"/api/drafts/{draft['id']}").json()
    assert [each["id"] for each in opened["steps"]] == [opened["shown_step"]] == [draft["ids"][0]]
    trouble.error = None
    assert client.post("/api/analyses", json=body).json()["code"] == "not-kept"
    assert client.put(f"/api/drafts/{draft['id']}/trail", json=trail).status_code == 204
    opened = client.get(f"/api/drafts/{draft['id']}").json()
    assert [each["id"] for each in opened["steps"]] == list(draft["ids"].values())
    assert opened["shown_step"] == draft["ids"][2]
    assert opened["steps"][2]["document"] == document
    assert client.post("/api/analyses", json=body).status_code == 201
    # A second time nothing is there twice.
    assert client.put(f"/api/drafts/{draft['id']}/trail", json=trail).status_code == 204
    assert len(client.get(f"/api/drafts/{draft['id']}").json()["steps"]) == 3


def test_a_step_that_is_sent_twice_is_kept_as_it_was_answered_last(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft = begin(client)
    empty = draft["steps"][0]["document"]
    for gesture in (SHOW, BY_LINE):
        body = {"id": "twice", "parent": draft["ids"][0], "document": empty, "gesture": gesture}
        shown = client.post(f"/api/drafts/{draft['id']}/steps", json=body).json()
    opened = client.get(f"/api/drafts/{draft['id']}").json()
    assert [each["id"] for each in opened["steps"]] == [draft["ids"][0], "twice"]
    assert opened["shown_step"] == "twice"
    assert opened["steps"][1]["document"] == shown["document"]


def test_a_draft_whose_shown_step_is_gone_opens_and_stays_in_the_library(signed_in: Enter, records_path: Path) -> None:
    client = signed_in("ines")
    draft = begin(client)
    step(client, draft, 0, draft["steps"][0]["document"], SHOW)
    assert kept(client, draft, 1) is None
    connection = connect(records_path)
    connection.execute("UPDATE drafts SET shown_step = 'lost' WHERE id = ?", (draft["id"],))
    connection.close()
    assert draft["id"] in [each["id"] for each in client.get("/api/library").json()["drafts"]]
    opened = client.get(f"/api/drafts/{draft['id']}").json()
    assert opened["shown_step"] == draft["ids"][1]
    # Going to a step that is not there changes nothing.
    client.post(
        f"/api/drafts/{draft['id']}/position", json={"step": "lost-too", "document": opened["steps"][0]["document"]}
    )
    assert client.get(f"/api/drafts/{draft['id']}").json()["shown_step"] == draft["ids"][1]


def test_locked_records_are_a_clear_message_and_not_a_fault(app: FastAPI, signed_in: Enter, trouble: Trouble) -> None:
    client = signed_in("ines")
    trouble.error = sqlite3.OperationalError("database is locked")
    reply = client.post("/api/drafts", json={"model": "tickets"})
    assert (reply.status_code, reply.json()["code"]) == (503, "not-kept")
