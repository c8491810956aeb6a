"""Rights are somebody's: people come in by a link, are granted models, are shut out at once, and it is all written down."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path
from threading import Event

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from dastan.cli import app as commands
from dastan.core.engine.watch import Watch
from dastan.core.errors import AppError
from dastan.records.database import connect
from dastan.records.people import Person, put_person, set_administrator
from dastan.server.app import create_app
from dastan.server.passwords import hash_password
from dastan.server.settings import Settings
from dastan.server.team import first_link
from dastan.sources.files.written import folders_in
from tests.server.test_rights import captions
from tests.server.test_server import built
from tests.sources.folder import MODEL, write_folder

AT = "/api/administration"


def signed_in(app: FastAPI, name: str, password: str) -> TestClient:
    client = TestClient(app, raise_server_exceptions=False)
    reply = client.post("/api/session", json={"sign_in": name, "password": password})
    assert reply.status_code == 200, reply.text
    client.headers["x-dastan-csrf"] = reply.json()["csrf"]
    return client


@pytest.fixture
def team(tmp_path: Path) -> Iterator[tuple[FastAPI, TestClient]]:
    """A server of one model, and its administrator, to whom nothing was granted."""
    application = create_app(Settings(tmp_path / "records.db", (write_folder(tmp_path),), site=tmp_path / "none"))
    connection = connect(tmp_path / "records.db")
    put_person(connection, Person("ada", "ada", "Ada"), hash_password("ada-keeps-keys"))
    set_administrator(connection, "ada", True)
    connection.close()
    application.state.server.shelf.places()[0].wait()
    yield application, signed_in(application, "ada", "ada-keeps-keys")
    application.state.server.close()


def come_in(app: FastAPI, administrator: TestClient, name: str) -> TestClient:
    """Somebody who was invited and chose a password."""
    path = administrator.post(f"{AT}/people", json={"sign_in": name, "name": name.title()}).json()["path"]
    client = TestClient(app, raise_server_exceptions=False)
    token = path.removeprefix("/welcome/")
    assert client.get(f"/api/welcome/{token}").json() == {"name": name.title(), "sign_in": name}
    short = client.post(f"/api/welcome/{token}", json={"password": "short"})
    assert short.status_code == 422
    reply = client.post(f"/api/welcome/{token}", json={"password": f"{name}-chose-this"})
    client.headers["x-dastan-csrf"] = reply.json()["csrf"]
    assert (
        TestClient(app).post(f"/api/welcome/{token}", json={"password": "somebody else"}).json()["code"] == "link-used"
    )
    return client


def test_every_administrative_route_is_for_administrators(team: tuple[FastAPI, TestClient]) -> None:
    app, ada = team
    bob = come_in(app, ada, "bob")
    paths = app.openapi()["paths"]
    asked = [(path, method) for path, methods in paths.items() if path.startswith(AT) for method in methods]
    assert len(asked) > 12
    for path, method in asked:
        body: dict | None = {} if method in ("post", "put", "delete") else None
        reply = bob.request(method, path.replace("{id}", "ada").replace("{number}", "1"), json=body)
        assert reply.status_code in (403, 422), (path, method)
        assert reply.status_code == 403 or reply.json()["code"] == "invalid-request"
    assert ada.get(AT).status_code == 200


def test_a_person_comes_in_by_a_link_and_sees_what_is_granted_until_it_is_taken(
    team: tuple[FastAPI, TestClient],
) -> None:
    app, ada = team
    bob = come_in(app, ada, "bob")
    assert bob.get("/api/library").json()["models"] == []
    tickets = {"model": "tickets", "person": "bob", "role": "trams"}
    assert ada.post(f"{AT}/grants", json=tickets).status_code == 204
    _, shown = built(bob)
    assert captions(shown) == ["Tram"]
    group = ada.post(f"{AT}/groups", json={"name": "Desk"}).json()["id"]
    ada.put(f"{AT}/groups/{group}/people", json={"people": ["bob"]})
    ada.post(f"{AT}/grants", json={"model": "tickets", "group": group})
    (seen,) = [each["sees"] for each in ada.get(AT).json()["people"] if each["id"] == "bob"]
    assert [(each["words"], each["group"]) for each in seen] == [
        ("every record", "Desk"),
        ("as far as the tram desk may", None),
    ]
    _, shown = built(bob)
    assert "Ferry" in captions(shown)
    assert ada.delete(f"{AT}/groups/{group}").status_code == 204
    _, shown = built(bob)
    assert captions(shown) == ["Tram"]
    assert ada.request("DELETE", f"{AT}/grants", json=tickets).status_code == 204
    assert bob.get("/api/library").json()["models"] == []
    for wrong in ({"model": "nothing"}, {"role": "tram"}, {"person": "nobody"}, {"group": "nobody"}, {"person": None}):
        assert ada.post(f"{AT}/grants", json=tickets | wrong).status_code in (404, 422), wrong


def test_who_is_disabled_or_reset_is_out_at_once(team: tuple[FastAPI, TestClient]) -> None:
    app, ada = team
    bob = come_in(app, ada, "bob")
    ada.put(f"{AT}/people/bob", json={"is_disabled": True})
    assert bob.get("/api/session").status_code == 403
    right = {"sign_in": "bob", "password": "bob-chose-this"}
    assert TestClient(app).post("/api/session", json=right).status_code == 403
    ada.put(f"{AT}/people/bob", json={"is_disabled": False})
    bob = signed_in(app, "bob", "bob-chose-this")
    assert ada.delete(f"{AT}/people/bob/sessions").status_code == 204
    assert bob.get("/api/session").status_code == 403
    path = ada.post(f"{AT}/people/bob/link").json()["path"]
    assert TestClient(app).post("/api/session", json=right).status_code == 403  # the old password is gone
    again = TestClient(app).post(f"/api{path}", json={"password": "bob-chose-another"})
    assert again.status_code == 200
    assert ada.put(f"{AT}/people/ada", json={"is_disabled": True}).status_code == 422
    assert ada.put(f"{AT}/people/ada", json={"is_administrator": False}).status_code == 422


def test_an_administrator_sees_as_somebody_and_again_as_themselves(team: tuple[FastAPI, TestClient]) -> None:
    app, ada = team
    come_in(app, ada, "bob")
    ada.post(f"{AT}/grants", json={"model": "tickets", "person": "bob", "role": "trams"})
    assert ada.get("/api/library").json()["models"] == []
    assert ada.put(f"{AT}/see-as", json={"person": "bob"}).status_code == 204
    assert ada.get("/api/session").json()["sees_as"] == "Bob"
    draft, shown = built(ada)
    assert captions(shown) == ["Tram"]
    ada.put(f"{AT}/see-as", json={})
    assert ada.get(f"/api/answers/{shown['answered']['handle']}/window").status_code == 404
    assert ada.get(f"/api/drafts/{draft['id']}").status_code == 404


def test_what_was_done_is_written_down_and_can_be_searched(team: tuple[FastAPI, TestClient]) -> None:
    app, ada = team
    bob = come_in(app, ada, "bob")
    ada.post(f"{AT}/grants", json={"model": "tickets", "person": "bob"})
    TestClient(app).post("/api/session", json={"sign_in": "bob", "password": "guess"})
    _, shown = built(bob)
    assert bob.get(f"/api/answers/{shown['answered']['handle']}/records.csv?row=0&column=0").status_code == 200
    told = ada.get(f"{AT}/events").json()
    kinds = [each["kind"] for each in told]
    assert kinds[:6] == ["exported", "sign_in_failed", "granted", "signed_in", "password_set", "person_added"]
    assert told[2]["about"] == "tickets to bob"
    assert told[2]["person_name"] == "Ada"
    found = ada.get(f"{AT}/events?words=RECORDS of").json()
    assert [each["person"] for each in found] == ["bob"]
    older = ada.get(f"{AT}/events?before={told[3]['number']}").json()
    assert [each["kind"] for each in older] == kinds[4:]


def test_an_unforeseen_error_is_told_to_administrators(
    team: tuple[FastAPI, TestClient], monkeypatch: pytest.MonkeyPatch
) -> None:
    _, ada = team
    monkeypatch.setattr("dastan.server.routes.administration.all_groups", lambda _: 1 / 0)
    reply = ada.get(AT)
    assert reply.status_code == 500
    reference = reply.json()["hint"].split()[-1].rstrip(".")
    (told,) = ada.get(f"{AT}/events?words={reference}").json()
    assert told["kind"] == "unexpected_error"


def test_what_runs_now_can_be_ended(team: tuple[FastAPI, TestClient]) -> None:
    app, ada = team
    watch, admitted = Watch(), Event()
    with app.state.server.admission.running("ada", watch, "Tickets sold"):
        admitted.set()
        found = ada.get(f"{AT}/running").json()
        (question,) = found["questions"]
        assert (question["person"], question["model"], question["is_running"]) == ("Ada", "Tickets sold", True)
        assert found["memory_bytes"] > 0
        assert ada.delete(f"{AT}/running/{question['number']}").status_code == 204
        with pytest.raises(Exception, match="taken back"):
            watch.check()
    assert ada.delete(f"{AT}/running/{question['number']}").status_code == 404


def test_the_first_start_makes_an_administrator_by_a_link_that_works_once(tmp_path: Path) -> None:
    (tmp_path / "models" / "tickets").mkdir(parents=True)
    (tmp_path / "models" / "empty").mkdir()
    write_folder(tmp_path / "models" / "tickets")
    assert [each.name for each in folders_in(tmp_path / "models")] == ["tickets"]
    records = tmp_path / "records.db"
    first, second = first_link(records), first_link(records)
    assert first is not None
    assert second is not None
    assert first != second  # nobody used the first: a new one takes its place
    application = create_app(Settings(records, models_folder=tmp_path / "models"))
    client = TestClient(application)
    assert client.post(f"/api{first}", json={"password": "a long enough one"}).status_code == 403
    reply = client.post(f"/api{second}", json={"password": "a long enough one"})
    assert reply.json()["is_administrator"]
    assert first_link(records) is None
    application.state.server.close()


def test_a_model_that_is_added_is_served_without_a_new_start(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("dastan.server.shelf.LOOK_AGAIN_S", 0.0)
    models = tmp_path / "models"
    (models / "tickets").mkdir(parents=True)
    write_folder(models / "tickets")
    application = create_app(Settings(tmp_path / "records.db", models_folder=models))
    shelf = application.state.server.shelf
    (first,) = shelf.places()
    first.wait()
    (models / "later").mkdir()
    (models / "later" / "model.yaml").write_text(MODEL.replace("name: tickets", "name: later", 1))
    tickets, half = shelf.places()[::-1]  # folders by name
    assert (tickets, half.name) == (first, "later")  # what was open stays as it is
    with pytest.raises(AppError, match=r"sales\.csv"):  # only half of it is there by now
        half.wait()
    assert shelf.find("later") is half  # and it is not tried again until there is more
    write_folder(models / "later")
    (models / "later" / "model.yaml").write_text(MODEL.replace("name: tickets", "name: later", 1))
    assert shelf.find("later").wait().model.name == "later"
    shutil.rmtree(models / "later")
    assert shelf.places() == (first,)
    application.state.server.close()


def test_two_models_of_one_name_are_told_apart(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("dastan.server.shelf.LOOK_AGAIN_S", 0.0)
    models = tmp_path / "models"
    for name in ("one", "two"):
        (models / name).mkdir(parents=True)
        write_folder(models / name)
    application = create_app(Settings(tmp_path / "records.db", models_folder=models))
    shelf = application.state.server.shelf
    one, two = shelf.places()
    assert one.wait().opened.written.folder == models / "one"
    assert "Two models are called “tickets”: in one and in two." in str(two.trouble)
    assert shelf.find("tickets") is one
    # Once the first is another one, the second is what it says.
    (models / "one" / "model.yaml").write_text(MODEL.replace("name: tickets", "name: sold", 1))
    shelf.current(one).wait()
    again = {each.name: each.wait().opened.written.folder.name for each in shelf.places()}
    assert again == {"sold": "one", "tickets": "two"}
    application.state.server.close()


def test_people_are_added_and_records_kept_and_put_back_from_the_command_line(tmp_path: Path) -> None:
    def run(*arguments: str) -> tuple[int, str]:
        result = CliRunner().invoke(commands, [*arguments])
        return result.exit_code, result.output

    data, file = str(tmp_path), str(tmp_path / "kept.zip")
    code, link = run("person", "add", "Bob", "Bob Reed", "--data", data)
    assert (code, link.startswith("/welcome/")) == (0, True)
    assert run("person", "add", "bob", "Another", "--data", data)[0] == 2
    assert run("person", "add", "b b", "Another", "--data", data)[0] == 2
    application = create_app(Settings(tmp_path / "records.db", ()))  # it goes on meanwhile
    client = TestClient(application)
    assert client.post(f"/api{link.strip()}", json={"password": "bob-chose-this"}).status_code == 200
    assert run("backup", "--data", data, file)[0] == 0
    assert run("backup", "--data", data, file)[0] == 2  # nothing is written over
    assert run("person", "add", "eve", "Eve", "--data", data)[0] == 0
    assert run("restore", "--data", data, file)[0] == 0
    assert client.get("/api/session").status_code == 403
    assert client.post("/api/session", json={"sign_in": "bob", "password": "bob-chose-this"}).status_code == 200
    assert [each["id"] for each in client.get("/api/people").json()] == ["bob"]
    (tmp_path / "torn.zip").write_bytes(b"PK not quite")
    assert run("restore", "--data", data, str(tmp_path / "torn.zip"))[0] == 2
    assert client.get("/api/session").status_code == 200
    application.state.server.close()
