"""Wrong passwords make the next attempt wait, and lock out after many; nobody locks out a colleague from elsewhere."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.events import find_events
from dastan.server import passwords
from dastan.server.doorway import Doorway, SlowDownError
from dastan.server.entry import Entry
from dastan.server.routes import session

Enter = Callable[[str], TestClient]


class Clock:
    def __init__(self) -> None:
        self.now = 1000.0

    def __call__(self) -> float:
        return self.now


def wait_after(door: Doorway, name: str, address: str) -> float:
    try:
        door.check(name, address)
    except SlowDownError as error:
        return float(error.details["wait_s"])
    return 0.0


def test_each_failure_doubles_the_wait_and_the_tenth_locks_for_a_quarter_of_an_hour() -> None:
    clock = Clock()
    door = Doorway(clock)
    waits = []
    for _ in range(10):
        door.note_failure("ines", "here")
        waits.append(wait_after(door, "ines", "here"))
        clock.now += waits[-1]
    assert waits == [0, 0, 0, 2, 4, 8, 16, 32, 64, 900]
    assert wait_after(door, "ines", "here") == 0
    clock.now += 900
    door.note_failure("ines", "here")
    assert wait_after(door, "ines", "here") == 0  # forgotten by then


def test_a_name_is_locked_where_it_failed_and_open_to_its_owner_elsewhere() -> None:
    door = Doorway(Clock())
    locks = []
    for _ in range(10):
        door.note_failure("ines", "there")
        locks.append(door.is_locked("ines", "there"))
    assert locks == [False] * 9 + [True]
    assert wait_after(door, "ines", "there") > 0
    assert wait_after(door, "ines", "here") == 0
    assert wait_after(door, "tomas", "there") == 0


def test_one_address_cannot_try_many_names_nor_many_addresses_one_name() -> None:
    door = Doorway(Clock())
    for number in range(60):
        door.note_failure(f"name {number}", "there")
    assert wait_after(door, "ines", "there") == 300
    for number in range(100):
        door.note_failure("oda", f"address {number}")
    assert wait_after(door, "oda", "here") == 900


def test_signing_in_forgives() -> None:
    door = Doorway(Clock())
    for _ in range(10):
        door.note_failure("ines", "here")
    door.forgive("ines")
    assert wait_after(door, "ines", "here") == 0


def test_only_so_many_failures_are_remembered(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("dastan.server.doorway._KEPT", 50)
    door = Doorway(Clock())
    for number in range(500):
        door.note_failure(f"name {number}", f"address {number}")
    assert len(door._failures) == 50


def test_the_server_tells_how_long_to_wait_and_notes_who_was_locked_out(app: FastAPI, records_path: Path) -> None:
    client = TestClient(app)
    wrong = {"sign_in": "somebody", "password": "guess"}
    replies = [client.post("/api/session", json=wrong) for _ in range(5)]
    assert [each.json()["code"] for each in replies] == ["wrong-password"] * 4 + ["slow-down"]
    assert replies[-1].status_code == 429
    assert int(replies[-1].headers["retry-after"]) >= 1
    assert "second" in replies[-1].json()["detail"]
    connection = connect(records_path)
    failed = find_events(connection, "somebody")
    connection.close()
    assert [each.kind for each in failed] == ["sign_in_failed"] * 4


def test_two_passwords_are_checked_at_a_time_and_many_honest_people_come_in(
    app: FastAPI, monkeypatch: pytest.MonkeyPatch
) -> None:
    running, most, lock = 0, 0, threading.Lock()
    check = passwords.is_password

    def counted(password: str, password_hash: str | None) -> bool:
        nonlocal running, most
        with lock:
            running += 1
            most = max(most, running)
        try:
            return check(password, password_hash)
        finally:
            with lock:
                running -= 1

    monkeypatch.setattr(session, "is_password", counted)
    with TestClient(app) as client, ThreadPoolExecutor(20) as pool:
        right = {"sign_in": "ines", "password": "ines-secret"}
        replies = list(pool.map(lambda _: client.post("/api/session", json=right), range(40)))
    assert {each.status_code for each in replies} == {200}
    assert most == 2


def test_many_guesses_at_once_gain_nothing(app: FastAPI, monkeypatch: pytest.MonkeyPatch) -> None:
    """All of them arrive before the first has failed; those that waited meanwhile are held up by its failure."""
    checked = []
    check = passwords.is_password

    def counted(password: str, password_hash: str | None) -> bool:
        checked.append(password)
        return check(password, password_hash)

    monkeypatch.setattr(session, "is_password", counted)
    moment = time.monotonic()
    monkeypatch.setattr(app.state.server.doorway, "_clock", lambda: moment)  # however slow the machine is
    with TestClient(app) as client, ThreadPoolExecutor(30) as pool:
        guesses = [{"sign_in": "guessed", "password": f"guess {number}"} for number in range(30)]
        replies = list(pool.map(lambda each: client.post("/api/session", json=each), guesses))
    assert {each.json()["code"] for each in replies} == {"wrong-password", "slow-down"}
    assert len(checked) <= 5  # after the fourth the next would wait; two are checked at a time


def test_a_pass_opens_once_and_for_some_minutes() -> None:
    clock = Clock()
    entry = Entry(10, clock)
    assert (entry.use(), entry.use()) == (True, False)
    late = Entry(10, clock)
    clock.now += 600
    assert not late.use()
    together = Entry(10, clock)
    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(lambda _: together.use(), range(200))) == 1
