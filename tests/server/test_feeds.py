"""Other programs read saved analyses and models by tokens: current, as far as their person may see, and no further."""

from __future__ import annotations

import base64
import csv
import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pyarrow.ipc
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from tests.server.test_library import opened, saved_by, share, to
from tests.server.test_server import BY_LINE, SHOW, begin, built, save, step

Enter = Callable[[str], TestClient]


def token_of(client: TestClient, **more: object) -> str:
    reply = client.post("/api/tokens", json={"name": "A notebook", **more})
    assert reply.status_code == 201, reply.text
    token: str = reply.json()["token"]
    return token


@pytest.fixture
def program(app: FastAPI) -> Callable[..., TestClient]:
    def make(token: str = "") -> TestClient:
        client = TestClient(app, raise_server_exceptions=False)
        if token:
            client.headers["authorization"] = f"Bearer {token}"
        return client

    return make


def rows_of(text: str) -> list[list[str]]:
    return list(csv.reader(io.StringIO(text)))


def feed_of(saved: dict[str, Any], part: str = "") -> str:
    return f"/feeds/analyses/{saved['id']}{part}"


def test_an_analysis_is_read_flat_and_as_it_is_seen(signed_in: Enter, program: Callable[..., TestClient]) -> None:
    ines = signed_in("ines")
    saved = saved_by(ines)
    reader = program(token_of(ines))
    found = reader.get(feed_of(saved, "/numbers.csv"))
    assert found.headers["content-type"] == "text/csv; charset=utf-8"
    assert rows_of(found.text) == [["Mode", "Sold"], ["Ferry", "2"], ["Tram", "4"], ["without a line", "5"]]
    assert rows_of(reader.get(feed_of(saved, "/table.csv")).text)[-1] == ["All lines", "11"]
    arrow = pyarrow.ipc.open_stream(reader.get(feed_of(saved, "/numbers.arrows")).content).read_all()
    assert arrow.to_pylist()[:2] == [{"Mode": "Ferry", "Sold": 2}, {"Mode": "Tram", "Sold": 4}]
    assert arrow.schema.metadata[b"sentence"] == b"Sold by Mode"
    assert "All lines" in reader.get(feed_of(saved, "/table.txt")).text
    about = reader.get(feed_of(saved)).json()
    assert (about["sentence"], about["columns"]) == ("Sold by Mode", ["Mode", "Sold"])
    for address in about["addresses"][:-1]:
        assert reader.get(address).status_code == 200, address
    refused = reader.get(feed_of(saved, "/numbers.pdf"))
    assert (refused.status_code, refused.json()["detail"]) == (422, "There is no numbers.pdf.")


def test_one_number_is_read_by_its_members(signed_in: Enter, program: Callable[..., TestClient]) -> None:
    ines = signed_in("ines")
    saved = saved_by(ines)
    reader = program(token_of(ines))
    assert reader.get(feed_of(saved, "/cell"), params={"Mode": "Ferry"}).text == "2"
    assert reader.get(feed_of(saved, "/cell"), params={"mode": "tram", "measure": "sold"}).text == "4"
    several = reader.get(feed_of(saved, "/cell"))
    assert (several.json()["detail"], several.json()["hint"]) == ("Several numbers stand there.", "Say which Mode.")
    assert reader.get(feed_of(saved, "/cell"), params={"Mode": "Bus"}).status_code == 404
    assert "Did you mean" in reader.get(feed_of(saved, "/cell"), params={"measure": "Solt"}).json()["hint"]
    unknown = reader.get(feed_of(saved, "/cell"), params={"Mode": "Ferry", "colour": "red"})
    assert unknown.json()["detail"] == "It has no level and asks nothing that is called “colour”."


def test_what_an_analysis_asks_is_answered_in_the_address(signed_in: Enter, program: Callable[..., TestClient]) -> None:
    ines = signed_in("ines")
    draft = begin(ines)
    document = draft["steps"][0]["document"]
    keep: dict = {
        "kind": "filter_members",
        "dimension": "line",
        "hierarchy": "line",
        "action": "keep",
        "members": [["Tram"]],
    }
    asks: dict = {"kind": "ask_on_opening", "at": 0, "caption": "Which modes?"}
    for number, gesture in enumerate((SHOW, BY_LINE, keep, asks)):
        document = step(ines, draft, number, document, gesture)["document"]
    body = {"draft": draft["id"], "step": draft["ids"][4], "document": document, "name": "Asks"}
    saved = ines.post("/api/analyses", json=body).json()
    reader = program(token_of(ines))
    (prompt,) = reader.get(feed_of(saved)).json()["prompts"]
    assert (prompt["caption"], prompt["type"]) == ("Which modes?", "members")
    assert rows_of(reader.get(feed_of(saved, "/numbers.csv")).text)[1:] == [["Tram", "4"]]
    ferry = reader.get(feed_of(saved, "/numbers.csv"), params={prompt["name"]: "Ferry"})
    assert rows_of(ferry.text)[1:] == [["Ferry", "2"]]
    both = reader.get(feed_of(saved, "/numbers.csv"), params={prompt["name"]: ["Ferry", "Tram"]})
    assert rows_of(both.text)[1:] == [["Ferry", "2"], ["Tram", "4"]]
    one = reader.get(feed_of(saved, "/cell"), params={prompt["name"]: "Ferry", "Mode": "Ferry"})
    assert one.text == "2"
    wrong = reader.get(feed_of(saved, "/numbers.csv"), params={"asked": "Ferry"})
    assert (wrong.status_code, f"Did you mean “{prompt['name']}”" in wrong.json()["hint"]) == (422, True)


def test_a_model_is_asked_in_words_and_by_a_document(signed_in: Enter, program: Callable[..., TestClient]) -> None:
    ines = signed_in("ines")
    reader = program(token_of(ines))
    assert [each["name"] for each in reader.get("/feeds/models").json()] == ["tickets"]
    asked = reader.get("/feeds/models/tickets/numbers.csv", params={"sentence": "sold by mode"})
    assert rows_of(asked.text)[1] == ["Ferry", "2"]
    _, shown = built(ines)
    assert reader.post("/feeds/models/tickets/numbers.csv", json=shown["document"]).text == asked.text
    unclear = reader.get("/feeds/models/tickets/numbers.csv", params={"sentence": "solt by mode"})
    assert (unclear.status_code, "sold" in unclear.json()["hint"].lower()) == (422, True)


def test_a_token_comes_as_a_password_too_is_told_once_and_ends(
    signed_in: Enter, program: Callable[..., TestClient], records_path: Path
) -> None:
    ines = signed_in("ines")
    saved = saved_by(ines)
    token = token_of(ines, name="The spreadsheet", days=30)
    basic = program()
    basic.headers["authorization"] = f"Basic {base64.b64encode(f'ines:{token}'.encode()).decode()}"
    assert basic.get(feed_of(saved, "/numbers.csv")).status_code == 200
    (own,) = [each for each in ines.get("/api/tokens").json() if each["name"] == "The spreadsheet"]
    assert (own["used_at"] is not None, own["used_from"]) == (True, "testclient")
    assert token not in str(ines.get("/api/tokens").json())
    for sent in ("", "Bearer nothing", "Basic nothing", "Basic bm90aGluZw=="):
        client = program()
        client.headers["authorization"] = sent
        reply = client.get(feed_of(saved, "/numbers.csv"))
        assert (reply.status_code, reply.headers["www-authenticate"][:5]) == (401, "Basic"), sent
    connection = connect(records_path)
    before = connection.execute("SELECT expires_at FROM tokens WHERE id = ?", (own["id"],)).fetchone()[0]
    connection.execute("UPDATE tokens SET expires_at = '2020-01-01' WHERE id = ?", (own["id"],))
    assert basic.get(feed_of(saved, "/numbers.csv")).status_code == 401
    connection.execute("UPDATE tokens SET expires_at = ? WHERE id = ?", (before, own["id"]))
    assert basic.get(feed_of(saved, "/numbers.csv")).status_code == 200
    connection.execute("UPDATE people SET disabled_at = '2026-01-01' WHERE id = 'ines'")
    assert basic.get(feed_of(saved, "/numbers.csv")).status_code == 401
    connection.execute("UPDATE people SET disabled_at = NULL WHERE id = 'ines'")
    connection.close()
    assert signed_in("tomas").delete(f"/api/tokens/{own['id']}").status_code == 404
    assert ines.delete(f"/api/tokens/{own['id']}").status_code == 204
    assert basic.get(feed_of(saved, "/numbers.csv")).status_code == 401


def test_a_token_reads_what_its_person_may_see_and_does_nothing_else(
    signed_in: Enter, program: Callable[..., TestClient]
) -> None:
    ines, oda = signed_in("ines"), signed_in("oda")
    saved, other = saved_by(ines), saved_by(ines)
    restricted = program(token_of(oda))
    assert restricted.get(feed_of(saved, "/numbers.csv")).status_code == 404
    share(ines, f"analyses/{saved['id']}", to("oda", "see"))
    assert rows_of(restricted.get(feed_of(saved, "/numbers.csv")).text) == [["Mode", "Sold"], ["Tram", "4"]]
    assert "Ferry" not in restricted.get(feed_of(saved)).text + restricted.get(feed_of(saved, "/table.html")).text
    assert restricted.get(feed_of(saved, "/cell"), params={"Mode": "Ferry"}).status_code == 404
    # One for an analysis reads that one alone.
    one = program(token_of(ines, analysis=saved["id"]))
    assert one.get(feed_of(saved, "/numbers.csv")).status_code == 200
    assert one.get(feed_of(other, "/numbers.csv")).status_code == 404
    assert one.get("/feeds/models").json() == []
    assert one.get("/feeds/models/tickets/numbers.csv", params={"sentence": "sold"}).status_code == 403
    # Elsewhere a token opens nothing.
    reader = program(token_of(ines))
    for method, place in (("GET", "/api/library"), ("GET", "/api/tokens"), ("DELETE", f"/api/analyses/{saved['id']}")):
        assert reader.request(method, place).status_code == 403
    # A browser that is signed in reads too; it changes nothing without its page.
    assert ines.get(feed_of(saved, "/numbers.csv")).status_code == 200
    assert ines.get(f"/api/analyses/{saved['id']}/happenings").json()[0]["kind"] == "fed"


def test_a_feed_is_current(signed_in: Enter, program: Callable[..., TestClient]) -> None:
    ines = signed_in("ines")
    saved = saved_by(ines)
    reader = program(token_of(ines))
    draft = opened(ines, saved)
    turned = step(ines, draft, 0, draft["steps"][0]["document"], {"kind": "swap_axes"})
    before = reader.get(feed_of(saved, "/table.csv")).text
    assert save(ines, draft | {"ids": {2: draft["ids"][1]}}, turned, analysis=saved["id"], version=1)["version"] == 2
    assert (rows_of(before)[0], rows_of(reader.get(feed_of(saved, "/table.csv")).text)[0]) == (
        ["Mode", "Sold"],
        ["", "Ferry", "Tram", "without a line", "All lines"],
    )
