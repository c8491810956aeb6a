"""Analyses that start from the table of another: its rows, as far as each reader may see them, and never a circle."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.grants import all_grants, take_grant
from tests.server.test_frozen import OPEN_TRAM, froze, sold_more
from tests.server.test_library import listed, share, to
from tests.server.test_server import BY_LINE, SHOW, built, save, step
from tests.sources.folder import SALES

Enter = Callable[[str], TestClient]


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


def saved_table(client: TestClient, **more: object) -> dict:
    """Sold by line, where only Tram is open."""
    draft, shown = built(client)
    shown = step(client, draft, 2, shown["document"], OPEN_TRAM)
    return save(client, draft, shown, step=draft["ids"][3], **more)


def started(client: TestClient, analysis: dict) -> dict:
    reply = client.post("/api/drafts", json={"table": analysis["id"]})
    assert reply.status_code == 201, reply.text
    return reply.json() | {"ids": {0: reply.json()["shown_step"]}}


def asked(client: TestClient, model: str, *measures: dict, **question: object) -> list:
    """The rows of a table, each with its caption and values."""
    document = {"model": model, "question": {"measures": measures, **question}}
    reply = client.post(f"/api/models/{model}/answers", json=document)
    assert reply.status_code == 200, reply.text
    window = reply.json()["answered"]["window"]
    return [(row["caption"], *values) for row, values in zip(window["rows"], window["values"], strict=True)]


ON_LINES = {"rows": [{"dimension": "line", "hierarchy": "line", "level": "line"}]}
SOLD = {"measure": "sold"}


def test_its_rows_are_what_the_analysis_comes_to_opened_evenly(signed_in: Enter) -> None:
    ines = signed_in("ines")
    analysis = saved_table(ines)
    draft = started(ines, analysis)
    assert (draft["model_caption"], draft["starts_from"]) == ("The table of “Sold by line”", analysis["id"])
    average = SOLD | {"aggregate": "average"}
    # Three rows: the Island ferry sold 2, the Shore tram 4; 5 belong nowhere. The Hill tram has no records.
    assert asked(ines, draft["model"], SOLD, average, {"measure": "rows"}) == [("Total", 11, pytest.approx(11 / 3), 3)]
    lines = asked(ines, draft["model"], SOLD, **ON_LINES)
    assert lines == [("Island ferry", 2), ("Shore tram", 4), ("without a line", 5), ("All lines", 11)]
    shown = step(ines, draft, 0, draft["steps"][0]["document"], SHOW)
    shown = step(ines, draft, 1, shown["document"], BY_LINE)
    assert shown["text"] == "Sold by Mode"
    assert shown["answered"]["newest"] == "2025-03-02"  # of the data behind it
    first_cell = {"row": 0, "column": 0}
    listed_rows = ines.get(f"/api/answers/{shown['answered']['handle']}/records", params=first_cell).json()
    assert [each["caption"] for each in listed_rows["columns"] if each["is_shown"]] == ["Line", "Sold"]
    assert [each["texts"] for each in listed_rows["records"]] == [["Ferry › Island ferry", "2"]]
    catalogue = ines.get(f"/api/models/{draft['model']}/catalogue").json()
    assert [each["caption"] for each in catalogue["dimensions"]] == ["Line"]


def test_each_reader_starts_from_what_they_may_see(signed_in: Enter, records_path: Path) -> None:
    ines, oda, tomas = signed_in("ines"), signed_in("oda"), signed_in("tomas")
    analysis = saved_table(ines)
    model = started(ines, analysis)["model"]
    share(ines, f"analyses/{analysis['id']}", to("oda", "see"))
    assert asked(oda, model, SOLD, **ON_LINES) == [("Shore tram", 4)]
    draft = started(oda, analysis)
    own = step(oda, draft, 0, draft["steps"][0]["document"], SHOW)
    assert own["text"] == "Sold, as far as the tram desk may see"
    # To whom it is not shared there is no such model, whatever they may see otherwise.
    refused = tomas.get(f"/api/models/{model}/catalogue")
    assert (refused.status_code, refused.json()["code"]) == (404, "missing-model")
    # What starts from it is hidden with it, and names no member that its reader may not see.
    first = started(ines, analysis)
    shown = step(ines, first, 0, first["steps"][0]["document"], SHOW)
    ferry = {"dimension": "line", "hierarchy": "line", "members": [["Ferry"]]}
    shown = step(ines, first, 1, shown["document"], {"kind": "put_filter", "condition": ferry})
    second = save(ines, first, shown, name="On ferries")
    assert second["sentence"] == "Sold for Ferry (line)"
    share(ines, f"analyses/{second['id']}", to("oda", "see"), to("tomas", "see"))
    for reader in (oda, tomas):
        assert "Ferry" not in listed(reader)[second["id"]]["sentence"]
    opened = oda.post("/api/drafts", json={"analysis": second["id"]}).json()
    assert "Ferry" not in str(opened["steps"])
    assert tomas.post("/api/drafts", json={"analysis": second["id"]}).json()["code"] == "missing-model"
    # With the model, everything goes; an answer that was given before is not read any more.
    connection = connect(records_path)
    for grant in all_grants(connection):
        if grant.person == "oda":
            take_grant(connection, grant)
    connection.close()
    handle = own["answered"]["handle"]
    assert oda.get(f"/api/answers/{handle}/window").json()["code"] == "missing-model"


def test_it_is_made_anew_when_its_data_or_the_analysis_has_changed(app: FastAPI, signed_in: Enter) -> None:
    ines = signed_in("ines")
    draft, shown = built(ines)
    analysis = save(ines, draft, shown)
    begun = started(ines, analysis)
    before = step(ines, begun, 0, begun["steps"][0]["document"], SHOW)
    assert asked(ines, begun["model"], SOLD) == [("Total", 11)]
    sold_more(app)
    assert asked(ines, begun["model"], SOLD) == [("Total", 18)]
    assert ines.get(f"/api/answers/{before['answered']['handle']}/window").json()["code"] == "answer-gone"
    takings = step(ines, draft, 2, shown["document"], {"kind": "put_measure", "measure": "takings"})
    save(ines, draft, takings, step=draft["ids"][3], analysis=analysis["id"], version=1)
    assert [each[1:] for each in asked(ines, begun["model"], {"measure": "takings"})] == [(pytest.approx(38.03),)]
    (app.state.server.settings.models[0] / "sales.csv").write_text(SALES)


def test_one_may_start_from_another_and_from_frozen_numbers_but_in_no_circle(app: FastAPI, signed_in: Enter) -> None:
    ines = signed_in("ines")
    analysis = saved_table(ines)
    first = started(ines, analysis)
    shown = step(ines, first, 0, first["steps"][0]["document"], SHOW)
    shown = step(ines, first, 1, shown["document"], BY_LINE)
    second = save(ines, first, shown, name="By mode")
    third = started(ines, second)
    assert asked(ines, third["model"], SOLD, {"measure": "rows"}) == [("Total", 11, 3)]
    circle = save(ines, first, shown, analysis=analysis["id"], version=1)
    assert (circle["code"], circle["detail"]) == ("conflict", "“Sold by line” cannot start from its own table.")
    draft, live = built(ines)
    frozen = froze(ines, draft, live["document"])
    sold_more(app)
    assert asked(ines, started(ines, frozen)["model"], SOLD) == [("Total", 11)]
    assert asked(ines, third["model"], SOLD) == [("Total", 18)]
    # Nothing starts from what is no table; what is deleted takes what starts from it along, until it is restored.
    bare = step(ines, draft, 0, draft["steps"][0]["document"], SHOW)
    empty = save(ines, draft, bare, step=draft["ids"][1], name="A number")
    assert (
        ines.post("/api/drafts", json={"table": empty["id"]}).json()["detail"].startswith("“A number” is no table yet")
    )
    big = {"kind": "put_filter", "condition": {"kind": "ready", "name": "big_lines"}}
    asking = step(ines, draft, 2, live["document"], big, is_asked=False)
    waits = save(ines, draft, asking, step=draft["ids"][3], name="It asks")
    said = ines.post("/api/drafts", json={"table": waits["id"]}).json()
    assert said["detail"].startswith("“It asks” asks something first: ")
    ines.delete(f"/api/analyses/{analysis['id']}")
    gone = ines.post("/api/drafts", json={"analysis": second["id"]}).json()
    assert gone["detail"] == "The analysis whose table this starts from is not here any more, or not shared with you."
