"""Frozen copies: numbers that stay while the files change, for whoever they are shared with."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.grants import all_grants, take_grant
from dastan.server import freezing
from tests.server.test_library import share, to
from tests.server.test_server import begin, built, save, step
from tests.sources.folder import SALES

Enter = Callable[[str], TestClient]
OPEN_TRAM = {"kind": "open_member", "dimension": "line", "hierarchy": "line", "path": ["Tram"]}


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


def froze(client: TestClient, draft: dict, document: dict, **more: object) -> dict:
    reply = client.post(f"/api/drafts/{draft['id']}/frozen", json={"document": document, "name": "As it was", **more})
    assert reply.status_code == 201, reply.text
    return reply.json()


def opened(client: TestClient, saved: dict) -> tuple[dict, dict]:
    """A draft of a frozen copy, and what is shown of it."""
    reply = client.post("/api/drafts", json={"analysis": saved["id"]})
    assert reply.status_code == 201, reply.text
    draft = reply.json() | {"ids": {0: reply.json()["shown_step"]}}
    place = {"step": draft["shown_step"], "document": draft["steps"][0]["document"]}
    return draft, client.post(f"/api/drafts/{draft['id']}/position", json=place).json()


def numbers(shown: dict) -> dict[str, float]:
    window = shown["answered"]["window"]
    return {row["caption"]: values[0] for row, values in zip(window["rows"], window["values"], strict=True)}


def sold_more(app: FastAPI) -> None:
    """Seven more are sold on the Shore tram, and the model is read anew."""
    folder = app.state.server.settings.models[0]
    (folder / "sales.csv").write_text(SALES + "2025-04-01,T1,Kiosk,7,1.00\n")
    app.state.server.shelf._looked.clear()


def test_frozen_numbers_stay_and_are_held_against_todays(app: FastAPI, signed_in: Enter) -> None:
    ines = signed_in("ines")
    draft, shown = built(ines)
    analysis = save(ines, draft, shown)
    copy = froze(ines, draft, shown["document"])
    frozen = copy["frozen"]
    assert (frozen["by"], frozen["data_to"], frozen["of_analysis"]) == ("Ines", "2025-03-02", analysis["id"])
    assert copy["sentence"] == analysis["sentence"]
    before = numbers(shown)
    sold_more(app)
    live = begin(ines)
    place = {"step": live["shown_step"], "document": shown["document"]}
    now = numbers(ines.post(f"/api/drafts/{live['id']}/position", json=place).json())
    assert now == before | {name: before[name] + 7 for name in ("Tram", "All lines")}
    looked, still = opened(ines, copy)
    assert looked["analysis"]["frozen"] == frozen
    assert numbers(still) == before
    # It opens further than it was open, as it was then.
    down = numbers(step(ines, looked, 0, still["document"], OPEN_TRAM))
    assert down["Shore tram"] == 4
    held = ines.post(f"/api/drafts/{looked['id']}/today", json={"document": still["document"]}).json()
    assert held["newest"] == "2025-04-01"
    assert {(each["caption"], each["difference"]) for each in held["numbers"]["largest"]} >= {("Tram", 7.0)}
    # Today's numbers are no frozen copy's.
    refused = ines.post(f"/api/drafts/{draft['id']}/today", json={"document": still["document"]})
    assert refused.status_code == 422


def test_what_was_not_kept_is_refused_and_nothing_is_saved_over(signed_in: Enter) -> None:
    ines = signed_in("ines")
    draft, shown = built(ines)
    copy = froze(ines, draft, shown["document"])
    looked, still = opened(ines, copy)
    takings = {"kind": "put_measure", "measure": "takings"}
    body = {"id": "t", "parent": looked["shown_step"], "document": still["document"], "gesture": takings}
    refused = ines.post(f"/api/drafts/{looked['id']}/steps", json=body)
    assert (refused.status_code, refused.json()["code"]) == (422, "not-held")
    assert "live analysis" in refused.json()["hint"]
    swapped = step(ines, looked, 0, still["document"], {"kind": "swap_axes"})
    over = {"draft": looked["id"], "step": looked["ids"][1], "document": swapped["document"], "name": "As it was",
            "analysis": copy["id"], "version": 1}  # fmt: skip
    assert ines.post("/api/analyses", json=over).status_code == 409
    refused = ines.post("/api/analyses", json=over | {"analysis": None, "name": "Live again"})
    assert (refused.status_code, "live analysis" in refused.json()["hint"]) == (409, True)
    live = ines.post("/api/drafts", json={"document": swapped["document"], "words": "went on"}).json()
    assert live["steps"][0]["document"] == swapped["document"]
    put = step(ines, live | {"ids": {0: live["shown_step"]}}, 0, swapped["document"], takings)
    assert put["text"].startswith("Sold and Takings")
    assert ines.post(f"/api/analyses/{copy['id']}/versions/1/restore").status_code == 409
    again = ines.post(f"/api/drafts/{looked['id']}/frozen", json={"document": still["document"], "name": "Twice"})
    assert again.status_code == 422
    # Numbers' records are not there; the table leaves as it is.
    handle = still["answered"]["handle"]
    records = ines.get(f"/api/answers/{handle}/records", params={"row": 0, "column": 0})
    assert records.status_code in (404, 422)
    assert "Sold" in ines.post(f"/api/answers/{handle}/table.csv", json={"dress": {}}).text
    second = ines.post(f"/api/analyses/{copy['id']}/copy", json={"name": "Another"}).json()
    assert second["frozen"] == copy["frozen"]
    assert numbers(opened(ines, second)[1]) == numbers(still)


def test_a_frozen_copy_shows_what_its_author_saw_to_whom_it_is_shared_with(
    app: FastAPI, signed_in: Enter, records_path: Path
) -> None:
    ines, tomas, oda = (signed_in(each) for each in ("ines", "tomas", "oda"))
    draft, shown = built(oda)
    assert set(numbers(shown)) == {"Tram"}
    trams = froze(oda, draft, shown["document"])
    assert "as far as the tram desk may see" in trams["sentence"]
    assert ines.post("/api/drafts", json={"analysis": trams["id"]}).status_code == 404
    share(oda, f"analyses/{trams['id']}", to("ines", "see"))
    looked, seen = opened(ines, trams)
    assert numbers(seen) == numbers(shown)
    assert "as far as the tram desk may see" in seen["text"]
    # Who may only look at it may still turn it: nothing of it changes.
    assert step(ines, looked, 0, seen["document"], {"kind": "swap_axes"})["answered"] is not None
    # And the other way round: all that Ines saw, also for who sees only trams.
    draft, shown = built(ines)
    whole = froze(ines, draft, shown["document"])
    share(ines, f"analyses/{whole['id']}", to("oda", "see"), to("tomas", "see"))
    _, theirs = opened(oda, whole)
    assert numbers(theirs) == numbers(shown)
    # A share that is taken back holds for answers that were given, and so does a grant of the model.
    handle = theirs["answered"]["handle"]
    assert oda.get(f"/api/answers/{handle}/window").status_code == 200
    share(ines, f"analyses/{whole['id']}", to("tomas", "see"))
    assert oda.get(f"/api/answers/{handle}/window").status_code == 404
    connection = connect(records_path)
    take_grant(connection, next(each for each in all_grants(connection) if each.person == "tomas"))
    connection.close()
    assert tomas.post("/api/drafts", json={"analysis": whole["id"]}).status_code == 404


def test_a_copy_that_would_be_too_large_is_refused_before_anything_is_kept(
    signed_in: Enter, monkeypatch: pytest.MonkeyPatch
) -> None:
    ines = signed_in("ines")
    draft, shown = built(ines)
    monkeypatch.setattr(freezing, "MOST_BYTES", 100)
    asked = {"document": shown["document"], "name": "Too large"}
    refused = ines.post(f"/api/drafts/{draft['id']}/frozen", json=asked)
    assert (refused.status_code, "a frozen copy holds" in refused.json()["detail"]) == (413, True)
    assert ines.get("/api/library").json()["entries"] == []
    empty = begin(ines)
    nothing = {"document": empty["steps"][0]["document"], "name": "Empty"}
    assert ines.post(f"/api/drafts/{empty['id']}/frozen", json=nothing).status_code == 422
