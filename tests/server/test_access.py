"""Nobody sees what was not granted to them, by whatever route; and rights are compared whenever an answer is used."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from threading import Event

import pytest
from fastapi import FastAPI
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from dastan.core.engine.watch import Watch
from dastan.core.errors import SourceError
from dastan.records.database import connect
from dastan.records.grants import EVERY_RECORD, Grant, grant_to_person, put_grant, take_grant
from dastan.records.people import Person, put_person
from dastan.server import access
from dastan.server.app import create_app
from dastan.server.passwords import hash_password
from dastan.server.settings import Settings
from dastan.server.shelf import Shelf
from dastan.sources.folders.folder import OpenModel, open_folder
from tests.server.test_server import begin, built, save
from tests.sources.folder import MODEL, write_folder

Enter = Callable[[str], TestClient]
OPEN_TO_ALL = {
    ("GET", "/api/welcome/{token}"),
    ("POST", "/api/welcome/{token}"),
    ("POST", "/api/session"),
    ("GET", "/api/sign-on"),
    ("GET", "/api/sign-on/begin"),
    ("GET", "/api/sign-on/done"),
    ("GET", "/api/sign-on/leave"),
    ("GET", "/enter/{entry}"),
    ("GET", "/{path:path}"),
    ("HEAD", "/{path:path}"),
}
"""Signing in, and the page that does it; everything else is decided by `access`."""


def calls(of: Dependant) -> Iterator[object]:
    yield of.call
    for each in of.dependencies:
        yield from calls(each)


def test_every_route_asks_access_who_may(app: FastAPI) -> None:
    decided = set(access.DECIDE)
    included = [each.original_router.routes for each in app.routes if hasattr(each, "original_router")]
    routes = [each for own in (app.routes, *included) for each in own if isinstance(each, APIRoute)]
    assert len(routes) > 25
    for route in routes:
        for method in route.methods or ():
            is_open = (method, route.path) in OPEN_TO_ALL
            assert bool(decided & set(calls(route.dependant))) != is_open, (method, route.path)


def granted(path: Path, name: str, model: str, role: str, is_taken: bool = False) -> None:
    connection = connect(path)
    (take_grant if is_taken else put_grant)(connection, Grant(model, name, None, role))
    connection.close()


@pytest.fixture
def stranger(app: FastAPI, records_path: Path) -> TestClient:
    """Somebody to whom nothing was granted."""
    connection = connect(records_path)
    put_person(connection, Person("ada", "ada", "Ada"), hash_password("ada-secret"))
    connection.close()
    client = TestClient(app, raise_server_exceptions=False)
    reply = client.post("/api/session", json={"sign_in": "ada", "password": "ada-secret"})
    client.headers["x-dastan-csrf"] = reply.json()["csrf"]
    return client


def test_without_a_grant_a_model_is_not_even_there(stranger: TestClient, signed_in: Enter) -> None:
    assert stranger.get("/api/library").json()["models"] == []
    document = {"dastan": "analysis/1", "model": "tickets"}
    by_line = {"dimension": "line", "hierarchy": "line"}
    for path, body in (
        ("/api/models/{}/members", by_line),
        ("/api/models/{}/members/match", {**by_line, "lines": ["Tram"]}),
        ("/api/models/{}/offers", {"document": document, "thing": {"kind": "dimension", **by_line}}),
        ("/api/models/{}/words/read", {"text": "Sold"}),
        ("/api/models/{}/words/write", document),
    ):
        known, unknown = (stranger.post(path.format(name), json=body) for name in ("tickets", "nothing"))
        assert known.status_code == unknown.status_code == 404, path
        assert known.json()["detail"].replace("tickets", "nothing") == unknown.json()["detail"]
        assert known.json()["hint"] == unknown.json()["hint"]
    assert stranger.get("/api/models/tickets/catalogue").status_code == 404
    assert stranger.post("/api/drafts", json={"model": "tickets"}).status_code == 404
    owner = signed_in("ines")
    draft, shown = built(owner)
    saved = save(owner, draft, shown)
    owner.put(f"/api/analyses/{saved['id']}/sharing", json={"grants": [{"person": "ada", "may": "explore"}]})
    assert stranger.post("/api/drafts", json={"analysis": saved["id"]}).status_code == 404
    (listed,) = stranger.get("/api/library").json()["entries"]
    assert listed["sentence"] == ""


def test_an_answer_is_not_used_with_rights_that_have_changed(signed_in: Enter, records_path: Path) -> None:
    client = signed_in("tomas")
    draft, shown = built(client)
    window = f"/api/answers/{shown['answered']['handle']}/window"
    assert client.get(window).status_code == 200
    granted(records_path, "tomas", "tickets", "trams")
    assert client.get(window).status_code == 200  # all records, and the trams among them
    granted(records_path, "tomas", "tickets", EVERY_RECORD, is_taken=True)
    try:
        for path in ("window", "paper?row=0&column=0", "records?row=0&column=0", "records.csv?row=0&column=0",
                     "sections", "jump?words=F", "source?row=0&column=0", "why-empty?row=0&column=0"):  # fmt: skip
            reply = client.get(f"/api/answers/{shown['answered']['handle']}/{path}")
            assert (reply.status_code, reply.json()["code"]) == (404, "answer-gone"), path
        granted(records_path, "tomas", "tickets", "trams", is_taken=True)
        assert client.get(window).json()["code"] == "missing-model"
        assert client.get(f"/api/drafts/{draft['id']}").status_code == 404
    finally:
        granted(records_path, "tomas", "tickets", EVERY_RECORD)
    assert client.get(window).status_code == 200


@pytest.fixture
def two_models(tmp_path: Path) -> Iterator[tuple[TestClient, Event]]:
    """A server of three models: one that opens at once, one that waits to be let go, one that cannot be opened."""
    may_open = Event()
    names = ("quick", "slow", "broken")
    for name in names:
        (tmp_path / name).mkdir()
        write_folder(tmp_path / name, model=MODEL.replace("name: tickets", f"name: {name}"))

    def opening(folder: Path, watch: Watch) -> OpenModel:
        if folder.name == "slow":
            watch.expect(8)
            watch.note_done()
            assert may_open.wait(30)
        if folder.name == "broken":
            raise SourceError("sales.csv has vanished.", "Put it back.")
        return open_folder(folder, watch)

    application = create_app(Settings(tmp_path / "records.db", tuple(tmp_path / each for each in names)))
    server = application.state.server
    server.shelf._open_one = opening
    connection = connect(tmp_path / "records.db")
    put_person(connection, Person("ines", "ines", "Ines"), hash_password("ines-secret"))
    for each in names:
        grant_to_person(connection, "ines", each)
    connection.close()
    client = TestClient(application, raise_server_exceptions=False)
    reply = client.post("/api/session", json={"sign_in": "ines", "password": "ines-secret"})
    client.headers["x-dastan-csrf"] = reply.json()["csrf"]
    yield client, may_open
    may_open.set()
    server.close()


def test_a_model_that_is_being_opened_or_cannot_be_holds_up_no_other(two_models: tuple[TestClient, Event]) -> None:
    client, may_open = two_models
    draft = client.post("/api/drafts", json={"model": "quick"})
    assert draft.status_code == 201
    listed = {each["name"]: each for each in client.get("/api/library").json()["models"]}
    assert [listed[each]["state"] for each in ("quick", "slow", "broken")] == ["open", "opening", "failed"]
    assert [listed[each]["opened_percent"] for each in ("quick", "slow")] == [100, 12]
    assert listed["broken"]["trouble"] == "sales.csv has vanished. Put it back."
    refused = client.post("/api/drafts", json={"model": "broken"})
    assert (refused.status_code, refused.json()["hint"]) == (503, "Put it back.")
    # Signing in writes to the records; so does a draft of a model that is still being opened.
    assert client.post("/api/session", json={"sign_in": "ines", "password": "ines-secret"}).status_code == 200
    may_open.set()
    client.headers["x-dastan-csrf"] = client.get("/api/session").json()["csrf"]
    assert client.post("/api/drafts", json={"model": "slow"}).status_code == 201


def test_models_are_opened_side_by_side(tmp_path: Path) -> None:
    for each in "ab":
        (tmp_path / each).mkdir()
    first, second = (write_folder(tmp_path / each) for each in "ab")
    document = (tmp_path / "b" / "model.yaml").read_text()
    (tmp_path / "b" / "model.yaml").write_text(document.replace("name: tickets", "name: sold", 1))
    met = Event()

    def opening(folder: Path, watch: Watch) -> OpenModel:
        if folder.name == "a":
            assert met.wait(30)
        met.set()
        return open_folder(folder, watch)

    shelf = Shelf(lambda: (first, second), opening)
    try:
        assert [each.wait().model.name for each in shelf.places()] == ["tickets", "sold"]
    finally:
        shelf.close()


def test_a_draft_belongs_to_its_person(signed_in: Enter) -> None:
    draft = begin(signed_in("ines"))
    other = signed_in("tomas")
    assert other.get(f"/api/drafts/{draft['id']}").status_code == 404
    assert other.delete(f"/api/drafts/{draft['id']}").status_code == 404
    assert signed_in("ines").get(f"/api/drafts/{draft['id']}").status_code == 200


def test_the_matrix_of_people_and_routes(app: FastAPI, stranger: TestClient, signed_in: Enter) -> None:
    """Every route by everybody: who is signed out is told so, nobody else's things are found, and nothing is a fault."""
    owner = signed_in("ines")
    draft, shown = built(owner)
    saved = save(owner, draft, shown)
    names = {"{model}": "tickets", "{handle}": shown["answered"]["handle"], "{step_id}": draft["ids"][1],
             "{name}": "question", "{number}": "1", "{token}": "none"}  # fmt: skip
    ids = {"/api/drafts": draft["id"], "/api/analyses": saved["id"], "/api/sessions": "x", "/api/administration": "x"}
    signed_out = TestClient(app, raise_server_exceptions=False)
    people = {
        "nobody": signed_out,
        "stranger": stranger,
        "colleague": signed_in("tomas"),
        "restricted": signed_in("oda"),
    }
    asked = 0
    for path, methods in app.openapi()["paths"].items():
        place = path
        for part, value in names.items():
            place = place.replace(part, value)
        place = place.replace("{id}", next((value for start, value in ids.items() if path.startswith(start)), "x"))
        for method in methods:
            for who, client in people.items():
                if (method, path) == ("delete", "/api/session"):
                    continue  # it would sign them out
                reply = client.request(method, place, json={} if method in ("post", "put") else None)
                asked += 1
                assert reply.status_code < 500, (who, method, place, reply.text)
                is_open = (method.upper(), path) in OPEN_TO_ALL
                if who == "nobody" and not is_open:
                    assert reply.status_code in (401, 403, 422), (method, place)
                owned = any(part in path for part in ("{handle}", "/drafts/{id}", "/analyses/{id}"))
                if owned or (who == "stranger" and "{model}" in path):
                    assert reply.status_code in (401, 403, 404, 422), (who, method, place)
    assert asked > 150
