"""Databases over HTTP: a connection that only administrators make, tables fetched into a model, and fetched again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from email import message_from_bytes
from pathlib import Path
from time import sleep
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.fetching_times import fetching_times_of
from dastan.records.people import set_administrator
from dastan.server import shelf
from dastan.server.app import create_app
from dastan.server.fetching_times import begin_due_fetches
from dastan.server.settings import Settings
from tests.postgres import READER, READERS_WORD, Running, running
from tests.server.conftest import team

Enter = Callable[[str], TestClient]


@pytest.fixture(scope="module")
def database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    with running(tmp_path_factory.mktemp("postgres")) as found:
        yield found


@pytest.fixture
def app(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[FastAPI]:
    """A team's server with a folder of its own for models that are brought."""
    monkeypatch.setattr(shelf, "LOOK_AGAIN_S", 0.0)
    (tmp_path / "tickets").mkdir()
    known = team(tmp_path / "tickets")
    settings = known.state.server.settings
    known.state.server.close()
    (tmp_path / "models").mkdir()
    application = create_app(
        Settings(records=settings.records, models=settings.models, models_folder=tmp_path / "models")
    )
    yield application
    application.state.server.close()


@pytest.fixture
def harbour(database: Running) -> Running:
    database.do(
        "DROP TABLE IF EXISTS trips, ways",
        "CREATE TABLE ways (code text PRIMARY KEY, name text, mode text)",
        "INSERT INTO ways VALUES ('a', 'Harbour', 'Tram'), ('b', 'Hill', 'Tram'), ('c', 'Island', 'Ferry')",
        "CREATE TABLE trips AS SELECT date '2025-01-01' + n % 90 AS day, (ARRAY['a', 'b', 'c'])[1 + n % 3] AS way, "
        "(n % 5)::numeric(9, 2) AS fare FROM generate_series(1, 600) AS n",
        f"GRANT SELECT ON trips, ways TO {READER}",
    )  # fmt: skip
    return database


def about(database: Running, **other: object) -> dict[str, object]:
    return {
        "caption": "Harbour office", "host": "127.0.0.1", "port": database.port, "database": "postgres",
        "sign_in": READER, "password": READERS_WORD,
    } | other  # fmt: skip


def total(client: TestClient, model: str, measure: str) -> Any:
    """What a measure comes to over all."""
    document = {"model": model, "question": {"measures": [{"measure": measure}]}}
    reply = client.post(f"/api/models/{model}/answers", json=document)
    assert reply.status_code == 200, reply.text
    return reply.json()["answered"]["window"]["values"][0][0]


def test_tables_become_a_model_and_are_fetched_again_all_or_nothing(
    administrator: TestClient, harbour: Running, app: FastAPI
) -> None:
    made = administrator.post("/api/connections", json=about(harbour))
    assert made.status_code == 201, made.text
    id = made.json()["id"]
    listed = administrator.get(f"/api/connections/{id}/tables").json()
    assert [(each["schema"], each["name"]) for each in listed] == [("public", "trips"), ("public", "ways")]
    wanted = {
        "tables": [
            {"name": "trips", "schema_name": "public"},
            {"name": "Ways there are", "query": "SELECT code AS way, name, mode FROM ways"},
        ]
    }
    brought = administrator.post(f"/api/connections/{id}/fetched", json=wanted)
    assert brought.status_code == 201, brought.text
    assert [each["name"] for each in brought.json()["files"]] == ["trips.parquet", "ways_there_are.parquet"]
    model = administrator.post(f"/api/bringing/{brought.json()['id']}/model").json()["model"]
    fetched = administrator.get(f"/api/modelling/{model}/fetched").json()
    assert [(each["file"], each["connection"], each["asked"], each["records"]) for each in fetched] == [
        ("trips.parquet", "Harbour office", "public.trips", 600),
        ("ways_there_are.parquet", "Harbour office", "the query Ways there are", 3),
    ]
    shaped = administrator.get(f"/api/modelling/{model}").json()["model"]
    (tie,) = (
        shaped["relationships"]
        if len(shaped["relationships"]) == 1
        else [each for each in shaped["relationships"] if each["to_table"] == "ways_there_are"]
    )
    assert (tie["from_column"], tie["to_column"]) == ("way", "way")
    measure = next(
        each["name"] for each in shaped["measures"] if each["expression"] == "fare" and each["aggregate"] == "sum"
    )
    # 0 + 1 + 2 + 3 + 4, a hundred and twenty times.
    assert total(administrator, model, measure) == 1200
    harbour.do("INSERT INTO trips VALUES ('2025-02-02', 'c', 7.25)")
    assert total(administrator, model, measure) == 1200
    again = administrator.post(f"/api/modelling/{model}/fetched")
    assert again.status_code == 204, again.text
    assert total(administrator, model, measure) == 1207.25
    # A column that its model reads is gone there: it is said, and what was fetched before goes on answering.
    harbour.do("ALTER TABLE trips RENAME COLUMN fare TO price")
    refused = administrator.post(f"/api/modelling/{model}/fetched")
    assert (refused.status_code, "fare" in refused.text) == (422, True), refused.text
    harbour.do("ALTER TABLE trips RENAME COLUMN price TO fare", "REVOKE SELECT ON ways FROM reader")
    refused = administrator.post(f"/api/modelling/{model}/fetched")
    assert (refused.status_code, "does not let reader read" in refused.text) == (422, True), refused.text
    assert total(administrator, model, measure) == 1207.25
    assert administrator.delete(f"/api/connections/{id}").status_code == 204
    assert administrator.post(f"/api/modelling/{model}/fetched").status_code == 404
    assert total(administrator, model, measure) == 1207.25


def test_it_is_fetched_at_set_times_and_whoever_set_them_is_told_what_went_wrong(
    administrator: TestClient, signed_in: Enter, harbour: Running, app: FastAPI
) -> None:
    id = administrator.post("/api/connections", json=about(harbour)).json()["id"]
    wanted = {"tables": [{"name": "trips", "schema_name": "public"}]}
    brought = administrator.post(f"/api/connections/{id}/fetched", json=wanted).json()["id"]
    model = administrator.post(f"/api/bringing/{brought}/model").json()["model"]
    at, server = f"/api/modelling/{model}/fetched", app.state.server
    daily, monthly = {"every": "day", "at": "05:00"}, {"every": "month", "day": -1, "at": "23:30"}
    assert administrator.get(f"{at}/times").json() is None
    assert administrator.put("/api/modelling/tickets/fetched/times", json=daily).status_code == 404
    assert signed_in("tomas").put(f"{at}/times", json=daily).status_code in (403, 404)
    assert administrator.put(f"{at}/times", json={"every": "week", "at": "05:00"}).status_code == 422
    assert administrator.put(f"{at}/times", json=monthly).status_code == 200
    assert administrator.put(f"{at}/times", json=daily).json()["times"]["every"] == "day"

    def fetched(days: int) -> Any:
        """What becomes of it so many days from now."""
        assert begin_due_fetches(server, datetime.now(UTC) + timedelta(days=days)) == [model]
        for _ in range(600):
            told = administrator.get(f"{at}/times").json()
            if told["ended_at"] not in (None, last):
                return told
            sleep(0.05)
        raise AssertionError("It was not fetched.")

    assert begin_due_fetches(server, datetime.now(UTC)) == []  # not due yet
    last = None
    harbour.do("INSERT INTO trips VALUES ('2025-02-02', 'c', 7.25)")
    told = fetched(2)
    assert (told["trouble"], administrator.get(at).json()[0]["records"]) == ("", 601)
    assert datetime.fromisoformat(told["next_at"]) > datetime.now(UTC) + timedelta(days=2)
    last = told["ended_at"]
    harbour.do("ALTER TABLE trips RENAME TO journeys")
    told = fetched(5)
    assert "trips" in told["trouble"]
    (mail,) = server.settings.mail_folder.glob("*.eml")
    assert "could not be fetched" in message_from_bytes(mail.read_bytes())["Subject"]
    assert administrator.get(at).json()[0]["records"] == 601
    harbour.do("ALTER TABLE journeys RENAME TO trips")
    # Whoever set it may not change the model any more: nothing is fetched in their name.
    connection = connect(server.settings.records)
    set_administrator(connection, "ines", False)
    connection.execute("DELETE FROM models")
    connection.close()
    assert begin_due_fetches(server, datetime.now(UTC) + timedelta(days=9)) == [model]
    connection = connect(server.settings.records)
    for _ in range(600):
        kept = fetching_times_of(connection, model)
        if kept is not None and "not yours to change" in kept.trouble:
            break
        sleep(0.05)
    else:
        raise AssertionError(kept)
    set_administrator(connection, "ines", True)
    connection.close()
    assert administrator.delete(f"{at}/times").status_code == 204
    assert administrator.delete(f"{at}/times").status_code == 404
    assert begin_due_fetches(server, datetime.now(UTC) + timedelta(days=30)) == []


def test_nobody_else_makes_or_sees_one_and_its_password_is_nowhere(
    administrator: TestClient, signed_in: Enter, harbour: Running, app: FastAPI, tmp_path: Path
) -> None:
    id = administrator.post("/api/connections", json=about(harbour)).json()["id"]
    tomas = signed_in("tomas")
    assert tomas.get("/api/connections").status_code == 403
    assert tomas.post("/api/connections", json=about(harbour)).status_code == 403
    assert tomas.get(f"/api/connections/{id}/tables").status_code == 403
    assert tomas.post(f"/api/connections/{id}/fetched", json={"tables": [{"name": "trips"}]}).status_code == 403
    assert tomas.delete(f"/api/connections/{id}").status_code == 403
    brought = administrator.post(
        f"/api/connections/{id}/fetched", json={"tables": [{"name": "ways", "schema_name": "public"}]}
    ).json()
    administrator.post(f"/api/bringing/{brought['id']}/model")
    assert READERS_WORD not in administrator.get("/api/connections").text
    app.state.server.keeper.settle()
    connection = connect(app.state.server.settings.records)
    connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    connection.close()
    for each in tmp_path.rglob("*"):
        if each.is_file():
            assert READERS_WORD.encode() not in each.read_bytes(), each
    key = app.state.server.settings.records.with_suffix(".key")
    assert key.stat().st_mode & 0o077 == 0
    # Without its key what was sealed is not opened, and that is said.
    key.unlink()
    refused = administrator.get(f"/api/connections/{id}/tables")
    assert (refused.status_code, "its key" in refused.text) == (503, True), refused.text


def test_a_connection_that_does_not_hold_is_not_kept(administrator: TestClient, harbour: Running) -> None:
    for other, status in (
        ({"password": "wrong"}, 422),
        ({"port": 1}, 503),
        ({"sign_in": "owner", "password": "keeps the harbour"}, 422),
    ):
        refused = administrator.post("/api/connections", json=about(harbour, **other))
        assert refused.status_code == status, refused.text
        assert str(about(harbour, **other)["password"]) not in refused.text
    assert administrator.get("/api/connections").json() == []
