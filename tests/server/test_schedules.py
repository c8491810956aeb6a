"""What is made at set times: by whose rights, how often, and what is told where it cannot be made."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from email import policy
from email.parser import BytesParser
from io import BytesIO
from pathlib import Path
from threading import Event

import openpyxl
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from pydantic import ValidationError

from dastan.core.engine.watch import Watch
from dastan.records.database import connect
from dastan.records.grants import all_grants, grant_to_person, take_grant
from dastan.server import working
from dastan.server.app import create_app
from dastan.server.making import Made
from dastan.server.times import Times
from dastan.server.working import begin_due
from tests.server.test_library import saved_by, share, to
from tests.server.test_server import built, save, step

Enter = Callable[[str], TestClient]
NOON = datetime(2026, 11, 30, 12, tzinfo=UTC)


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


@pytest.fixture
def berlin(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The server's clock is one that is put forward and back."""
    monkeypatch.setenv("TZ", "Europe/Berlin")
    time.tzset()
    yield
    monkeypatch.undo()
    time.tzset()


def made_of(client: TestClient, item: str) -> dict:
    return client.get(f"/api/analyses/{item}/made").json()


def ended(client: TestClient, item: str, count: int = 1) -> list[dict]:
    """The results of an item once so many have ended."""
    for _ in range(400):
        results = made_of(client, item)["results"]
        if len([each for each in results if each["state"] not in ("waiting", "running")]) >= count:
            return results
        time.sleep(0.05)
    raise AssertionError(results)


def set_daily(client: TestClient, item: str, makes: str, **more: object) -> dict:
    asked = {"makes": makes, "times": {"every": "day", "at": "06:30"}, **more}
    reply = client.post(f"/api/analyses/{item}/schedules", json=asked)
    assert reply.status_code == 201, reply.text
    return reply.json()


def tomorrow(app: FastAPI, days: int = 2) -> list[str]:
    return begin_due(app.state.server, datetime.now(UTC) + timedelta(days=days))


@pytest.mark.usefixtures("berlin")
@pytest.mark.parametrize(
    ("times", "after", "then"),
    [
        ({"every": "day", "at": "07:00"}, "2026-11-30T06:00", "2026-12-01T06:00"),
        ({"every": "day", "at": "07:01"}, "2026-11-30T06:00", "2026-11-30T06:01"),
        ({"every": "week", "weekdays": (1, 4), "at": "08:00"}, "2026-11-30T12:00", "2026-12-01T07:00"),
        ({"every": "week", "weekdays": (0,), "at": "08:00"}, "2026-11-30T12:00", "2026-12-07T07:00"),
        ({"every": "month", "day": 31, "at": "08:00"}, "2026-11-01T12:00", "2026-12-31T07:00"),
        ({"every": "month", "day": -1, "at": "08:00"}, "2026-02-01T12:00", "2026-02-28T07:00"),
        # The clock is put forward at two on 29 March, and back at three on 25 October.
        ({"every": "day", "at": "09:00"}, "2026-03-28T08:30", "2026-03-29T07:00"),
        ({"every": "day", "at": "09:00"}, "2026-10-24T08:30", "2026-10-25T08:00"),
    ],
)
def test_the_next_time_is_by_the_servers_clock(times: dict, after: str, then: str) -> None:
    moment = datetime.fromisoformat(after).replace(tzinfo=UTC)
    assert Times(**times).after(moment) == datetime.fromisoformat(then).replace(tzinfo=UTC)


@pytest.mark.usefixtures("berlin")
def test_a_time_that_the_clock_leaps_over_comes_once_a_day_all_the_same() -> None:
    moment, days = datetime(2026, 3, 27, 12, tzinfo=UTC), []
    for _ in range(4):
        moment = Times(every="day", at="02:30").after(moment)
        days.append(moment.astimezone().date().isoformat())
    assert days == ["2026-03-28", "2026-03-29", "2026-03-30", "2026-03-31"]


@pytest.mark.parametrize(
    "times",
    [
        {"every": "week", "at": "08:00"}, {"every": "month", "day": 0, "at": "08:00"}, {"every": "day", "at": "24:00"},
        {"every": "week", "weekdays": (7,), "at": "08:00"}, {"every": "hour", "at": "08:00"},
    ],
)  # fmt: skip
def test_times_that_are_none_are_refused(times: dict) -> None:
    with pytest.raises(ValidationError):
        Times(**times)


def test_a_workbook_is_made_at_its_time_read_back_and_mailed(app: FastAPI, signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    item = saved_by(ines)["id"]
    schedule = set_daily(ines, item, "table.xlsx", is_mailed=True)
    assert begin_due(app.state.server, datetime.now(UTC)) == []  # it is not due yet
    (job,) = tomorrow(app)
    (result,) = ended(ines, item)
    assert (result["state"], result["id"], result["trouble"]) == ("done", job, "")
    reply = ines.get(f"/api/jobs/{job}/file")
    assert reply.headers["content-disposition"] == "attachment; filename*=utf-8''Sold%20by%20line.xlsx"
    cells = [[each.value for each in row] for row in openpyxl.load_workbook(BytesIO(reply.content)).worksheets[0]]
    assert ["Tram", 4] in [[each for each in row if each is not None] for row in cells]
    assert result["file_bytes"] == len(reply.content)
    # It is its owner's, and nobody else's.
    share(ines, f"analyses/{item}", to("tomas", "manage"))
    assert tomas.get(f"/api/jobs/{job}/file").status_code == 404
    assert made_of(tomas, item) == {"schedules": [], "results": [], "clock": made_of(ines, item)["clock"]}
    (mail,) = app.state.server.settings.mail_folder.glob("*.eml")
    message = BytesParser(policy=policy.SMTP).parsebytes(mail.read_bytes())
    (attached,) = message.iter_attachments()
    assert (message["Subject"], attached.get_filename()) == ("“Sold by line”", "Sold by line.xlsx")
    assert attached.get_content() == reply.content
    # It comes again the day after, and not once it was ended; what was made stays.
    assert tomorrow(app) == []
    assert ines.delete(f"/api/schedules/{schedule['id']}").status_code == 204
    assert tomorrow(app, 9) == []
    assert [each["id"] for each in made_of(ines, item)["results"]] == [job]


def test_each_is_made_with_its_owners_rights_at_that_moment(app: FastAPI, signed_in: Enter, records_path: Path) -> None:
    ines, oda = signed_in("ines"), signed_in("oda")
    item = saved_by(ines)["id"]
    share(ines, f"analyses/{item}", to("oda", "see"))
    set_daily(oda, item, "numbers.csv")
    (job,) = tomorrow(app)
    ended(oda, item)
    assert "Ferry" not in oda.get(f"/api/jobs/{job}/file").text
    connection = connect(records_path)
    (grant,) = (each for each in all_grants(connection) if each.person == "oda")
    take_grant(connection, grant)
    tomorrow(app, 4)
    for _ in range(200):
        if rows := connection.execute("SELECT state, trouble FROM jobs WHERE state = 'failed'").fetchall():
            break
        time.sleep(0.05)
    assert "no model “tickets” here" in rows[0]["trouble"]
    # What was made before is not theirs to read without the model.
    assert oda.get(f"/api/jobs/{job}/file").status_code == 404
    grant_to_person(connection, "oda", "tickets", "trams")
    connection.close()
    (failure,) = oda.get("/api/library").json()["failures"]
    assert (failure["item_name"], failure["makes"]) == ("Sold by line", "numbers.csv")
    assert oda.put(f"/api/jobs/{failure['id']}/read").status_code == 204
    assert oda.get("/api/library").json()["failures"] == []


def test_frozen_copies_are_made_and_the_last_twenty_kept(
    app: FastAPI, signed_in: Enter, monkeypatch: pytest.MonkeyPatch
) -> None:
    ines = signed_in("ines")
    item = saved_by(ines)["id"]
    monkeypatch.setattr(working, "KEPT", 2)
    set_daily(ines, item, "frozen")
    for number in range(1, 5):
        tomorrow(app, 2 * number)
        ended(ines, item, min(number, 2))
    for _ in range(200):
        results = made_of(ines, item)["results"]
        if [each["state"] for each in results] == ["done", "done"]:
            break
        time.sleep(0.05)
    library = ines.get("/api/library").json()
    kept = {each["id"] for each in library["entries"] if each["frozen"]}
    assert kept == {each["frozen"] for each in results}
    assert {each["frozen"]["of_analysis"] for each in library["entries"] if each["frozen"]} == {item}
    # What was pushed out can be brought back for a while, as everything that is deleted.
    assert len([each for each in library["removed"] if each["frozen"]]) == 2
    frozen = {"makes": "frozen", "times": {"every": "day", "at": "06:30"}}
    assert ines.post(f"/api/analyses/{kept.pop()}/schedules", json=frozen).status_code == 422


def test_a_frozen_copy_names_no_member_that_its_author_may_not_see(app: FastAPI, signed_in: Enter) -> None:
    ines, oda = signed_in("ines"), signed_in("oda")
    draft, shown = built(ines)
    without = {"kind": "filter_members", "dimension": "line", "hierarchy": "line", "members": [["Ferry"]]}
    shown = step(ines, draft, 2, shown["document"], without | {"action": "leave_out"})
    draft["ids"][2] = draft["ids"][3]
    item = save(ines, draft, shown)["id"]
    share(ines, f"analyses/{item}", to("oda", "see"))
    # Who may only look takes files away, and makes no copy.
    assert oda.post(f"/api/analyses/{item}/made", json={"makes": "frozen"}).status_code == 403
    share(ines, f"analyses/{item}", to("oda", "explore"))
    set_daily(oda, item, "frozen")
    tomorrow(app)
    (result,) = ended(oda, item)
    assert result["state"] == "done", result
    frozen = oda.post("/api/drafts", json={"analysis": result["frozen"]}).json()
    assert "Ferry" not in str(frozen["steps"])
    # Gone on with in the live analysis, it leaves out what it did.
    live = oda.post("/api/drafts", json={"document": frozen["steps"][0]["document"]}).json()
    kept = {"draft": live["id"], "step": live["shown_step"], "document": live["steps"][0]["document"], "name": "Live"}
    again = oda.post("/api/analyses", json=kept).json()
    share(oda, f"analyses/{again['id']}", to("ines", "see"))
    theirs = ines.post("/api/drafts", json={"analysis": again["id"]}).json()
    assert "Ferry" in str(theirs["steps"])


def test_a_job_is_followed_and_taken_back_and_one_that_the_server_ended_in_begins_again(
    app: FastAPI, signed_in: Enter, records_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ines = signed_in("ines")
    item = saved_by(ines)["id"]
    begun, goes_on = Event(), Event()

    def slowly(job: object, person: object, server: object, connection: object, watch: Watch) -> Made:
        watch.expect(4)
        watch.note_done()
        begun.set()
        while not goes_on.wait(0.01):
            watch.check()
        return Made()

    monkeypatch.setattr(working, "make", slowly)
    job = ines.post(f"/api/analyses/{item}/made", json={"makes": "table.csv"}).json()["id"]
    assert begun.wait(20)
    (result,) = made_of(ines, item)["results"]
    assert (result["state"], result["done"], result["total"]) == ("running", 1, 4)
    assert ines.post(f"/api/analyses/{item}/made", json={"makes": "table.csv"}).status_code == 409
    assert ines.delete(f"/api/jobs/{job}").status_code == 204
    assert ended(ines, item)[0]["state"] == "taken_back"
    assert ines.delete(f"/api/jobs/{job}").status_code == 404
    begun.clear()
    second = ines.post(f"/api/analyses/{item}/made", json={"makes": "table.csv"}).json()["id"]
    assert begun.wait(20)
    settings = app.state.server.settings
    app.state.server.close()
    connection = connect(records_path)
    assert connection.execute("SELECT state FROM jobs WHERE id = ?", (second,)).fetchone()["state"] == "running"
    connection.close()
    monkeypatch.undo()
    with TestClient(create_app(settings)) as again:
        reply = again.post("/api/session", json={"sign_in": "ines", "password": "ines-secret"})
        again.headers["x-dastan-csrf"] = reply.json()["csrf"]
        assert [each["state"] for each in ended(again, item, 2)] == ["done", "taken_back"]
        assert "Tram" in again.get(f"/api/jobs/{second}/file").text


def test_a_frozen_copy_that_is_begun_again_is_made_once(app: FastAPI, signed_in: Enter, records_path: Path) -> None:
    ines = signed_in("ines")
    item = saved_by(ines)["id"]
    ines.post(f"/api/analyses/{item}/made", json={"makes": "frozen"})
    (result,) = ended(ines, item)
    # The server ended after the copy was kept, and before it was said to be done.
    connection = connect(records_path)
    connection.execute("UPDATE jobs SET state = 'running', ended_at = NULL, result_item = NULL")
    connection.close()
    working.take_up_jobs(app.state.server)
    (again,) = ended(ines, item)
    assert (again["state"], again["frozen"]) == ("done", result["frozen"])
    assert len([each for each in ines.get("/api/library").json()["entries"] if each["frozen"]]) == 1


def test_one_in_which_the_server_ends_each_time_is_given_up(app: FastAPI, signed_in: Enter, records_path: Path) -> None:
    ines = signed_in("ines")
    item = saved_by(ines)["id"]
    connection = connect(records_path)
    connection.execute(
        "INSERT INTO jobs (id, owner, item, makes, is_mailed, state, tries, asked_at) "
        "VALUES ('often', 'ines', ?, 'table.csv', 0, 'running', 3, '2026-11-30T12:00:00')",
        (item,),
    )
    connection.close()
    stray = app.state.server.settings.made_folder
    stray.mkdir()
    (stray / "nobodys.csv").write_text("x")
    working.take_up_jobs(app.state.server)
    (result,) = ended(ines, item)
    assert (result["state"], result["trouble"]) == ("failed", "The server ended each time that it was made.")
    assert list(stray.iterdir()) == []
