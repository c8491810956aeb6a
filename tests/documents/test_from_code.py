"""What docs/from-code.md says is what Python shows, on a folder and on a server that runs."""

from __future__ import annotations

import doctest
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from fastapi.testclient import TestClient

import dastan
from dastan.core.errors import AppError
from dastan.records.database import connect
from dastan.records.grants import grant_to_person
from dastan.records.people import Person, put_person
from dastan.server.app import create_app
from dastan.server.passwords import hash_password
from dastan.server.settings import Settings
from tests.documents.test_docs import blocks


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """The documented model, with its documented analysis."""
    found = tmp_path / "tickets"
    found.mkdir()
    for name, text in zip(("sales", "lines"), blocks("docs/model.md", "csv"), strict=False):
        (found / f"{name}.csv").write_text(text)
    (found / "model.yaml").write_text(blocks("docs/model.md", "yaml")[0])
    (found / "analysis.json").write_text(blocks("docs/analysis.md", "json")[0])
    return found


@pytest.fixture
def running(folder: Path, tmp_path: Path) -> Iterator[tuple[str, str]]:
    """A server of the folder that runs: its address, and a token of Ines's."""
    app = create_app(Settings(records=tmp_path / "records.db", models=(folder,), site=folder / "none"))
    connection = connect(tmp_path / "records.db")
    put_person(connection, Person("ines", "ines", "Ines"), hash_password("ines-secret"))
    grant_to_person(connection, "ines", "tickets")
    connection.close()
    server = uvicorn.Server(uvicorn.Config(app, port=0, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    port = server.servers[0].sockets[0].getsockname()[1]
    client = TestClient(app)
    signed_in = client.post("/api/session", json={"sign_in": "ines", "password": "ines-secret"}).json()
    client.headers["x-dastan-csrf"] = signed_in["csrf"]
    token = client.post("/api/tokens", json={"name": "The documentation"}).json()["token"]
    yield f"http://127.0.0.1:{port}", token
    server.should_exit = True
    thread.join()


def test_the_documented_examples_give_what_is_documented(
    folder: Path, running: tuple[str, str], monkeypatch: pytest.MonkeyPatch
) -> None:
    text = "\n".join(blocks("docs/from-code.md", "python"))
    monkeypatch.chdir(folder.parent)
    names = dict(zip(("address", "token"), running, strict=True))
    examples = doctest.DocTestParser().get_doctest(text, names, "from-code.md", None, None)
    told: list[str] = []
    results = doctest.DocTestRunner().run(examples, out=told.append)
    assert not told, "".join(told)
    assert results.attempted >= 12


def test_a_server_answers_what_a_folder_does_and_says_what_is_wrong(folder: Path, running: tuple[str, str]) -> None:
    address, token = running
    here, there = dastan.open(folder), dastan.open(address, token=token, model="tickets")
    for question in ("takings and sold by mode against year", folder / "analysis.json"):
        one, other = here.ask(question), there.ask(question)
        assert one.arrow().equals(other.arrow())
        assert str(one) == str(other)
        assert (one._repr_html_() or "").strip() == (other._repr_html_() or "").strip() != ""
    with pytest.raises(AppError, match="Did you mean “Takings”"):
        there.ask("tekings by mode")
    with pytest.raises(AppError, match="This token does not hold"):
        dastan.open(address, token="none")
    with pytest.raises(AppError, match="There is no model “tocket”"):
        dastan.open(address, token=token, model="tocket").ask("sold")
    with pytest.raises(AppError, match="does not answer"):
        dastan.open("http://127.0.0.1:9", token=token)
