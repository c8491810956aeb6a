"""The application over a small folder, with three people, one of whom sees only trams, driven through HTTP."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.grants import EVERY_RECORD, grant_to_person
from dastan.records.people import Person, put_person, set_administrator
from dastan.server.app import create_app
from dastan.server.passwords import hash_password
from dastan.server.settings import Settings
from tests.sources.folder import write_folder


def team(folder: Path) -> FastAPI:
    write_folder(folder)
    settings = Settings(records=folder / "records.db", models=(folder,), site=folder / "none", entry="open-sesame")
    application = create_app(settings)
    connection = connect(settings.records)
    for name in ("ines", "tomas", "oda"):
        put_person(connection, Person(name, name, name.title()), hash_password(f"{name}-secret"))
        grant_to_person(connection, name, "tickets", "trams" if name == "oda" else EVERY_RECORD)
    connection.close()
    return application


@pytest.fixture(scope="module")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[FastAPI]:
    application = team(tmp_path_factory.mktemp("tickets"))
    yield application
    application.state.server.close()


@pytest.fixture
def fresh_app(tmp_path: Path) -> Iterator[FastAPI]:
    """One of a test's own, which may change the files that it reads; a module that wants it calls it `app`."""
    application = team(tmp_path)
    yield application
    application.state.server.close()


@pytest.fixture
def signed_in(app: FastAPI) -> Callable[[str], TestClient]:
    def enter(name: str) -> TestClient:
        client = TestClient(app, raise_server_exceptions=False)
        reply = client.post("/api/session", json={"sign_in": name, "password": f"{name}-secret"})
        client.headers["x-dastan-csrf"] = reply.json()["csrf"]
        return client

    return enter


@pytest.fixture
def records_path(app: FastAPI) -> Path:
    path: Path = app.state.server.settings.records
    return path


@pytest.fixture
def administrator(signed_in: Callable[[str], TestClient], records_path: Path) -> TestClient:
    """Somebody who administers the server and sees all records."""
    connection = connect(records_path)
    set_administrator(connection, "ines", True)
    connection.close()
    return signed_in("ines")
