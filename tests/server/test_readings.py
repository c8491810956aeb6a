"""Files that change while a model is served: read anew, the last good answering meanwhile; told to whoever shapes it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from threading import Event
from time import sleep
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.core.engine.watch import Watch
from dastan.core.errors import SourceError
from dastan.server import place, shelf
from dastan.server.readings import Reading
from dastan.server.shelf import Shelf
from dastan.sources.folders.folder import OpenModel, open_folder
from tests.server.test_server import BY_LINE, SHOW, begin, step
from tests.sources.folder import MODEL, SALES, write_folder

Enter = Callable[[str], TestClient]
AT = "/api/modelling/tickets"
MORE = SALES + "2025-03-03,T1,Kiosk,10,1.00\n"


@pytest.fixture
def app(fresh_app: FastAPI, monkeypatch: pytest.MonkeyPatch) -> FastAPI:
    monkeypatch.setattr(shelf, "LOOK_AGAIN_S", 0.0)  # each look sees what was just written
    return fresh_app


@pytest.fixture
def folder(app: FastAPI) -> Path:
    found: Path = app.state.server.shelf.find("tickets").folder
    return found


def sold(client: TestClient) -> dict[str, Any]:
    """What is answered of Sold by line; its total is 11, and 21 with one journey more."""
    draft = begin(client)
    shown = step(client, draft, 0, draft["steps"][0]["document"], SHOW)
    found: dict[str, Any] = step(client, draft, 1, shown["document"], BY_LINE)["answered"]
    return found


def total(found: dict[str, Any]) -> object:
    return found["window"]["values"][-1][0]


def test_changed_files_are_read_and_those_that_cannot_be_change_nothing(
    administrator: TestClient, signed_in: Enter, folder: Path, app: FastAPI
) -> None:
    first = sold(administrator)
    assert (total(first), first["is_behind"]) == (11, False)
    (folder / "sales.csv").write_text(MORE)
    assert total(sold(administrator)) == 21
    (folder / "sales.csv").write_text(MORE.replace("2025-03-03", "the third of March"))
    found = sold(signed_in("tomas"))
    assert (total(found), found["is_behind"]) == (21, True)
    told = administrator.get(AT + "/readings").json()
    assert "the third of March" in told["behind"]
    (kept,) = (each for each in administrator.get("/api/library").json()["models"] if each["name"] == "tickets")
    assert (kept["state"], kept["trouble"]) == ("open", "")
    assert "the third of March" in kept["behind"]
    # Whoever may not change it is told that it is so, and not what stands in the file.
    assert "the third" not in signed_in("tomas").get("/api/library").text
    # It is not tried again and again; once another is there, it is.
    before = len(told["readings"])
    sold(administrator)
    assert len(administrator.get(AT + "/readings").json()["readings"]) == before
    (folder / "sales.csv").write_text(SALES)
    found = sold(administrator)
    assert (total(found), found["is_behind"]) == (11, False)
    readings = administrator.get(AT + "/readings").json()
    assert readings["behind"] == ""
    # The newest first: all six and the three lines; what failed; seven; six.
    assert [each["records"] for each in readings["readings"]] == [9, 0, 10, 9]
    assert [bool(each["trouble"]) for each in readings["readings"]] == [False, True, False, False]
    assert signed_in("tomas").get(AT + "/readings").status_code == 403


def test_a_vanished_file_leaves_the_last_good_data(administrator: TestClient, folder: Path) -> None:
    assert total(sold(administrator)) == 11
    (folder / "sales.csv").unlink()
    found = sold(administrator)
    assert (total(found), found["is_behind"]) == (11, True)
    (folder / "sales.csv").write_text(MORE)
    assert total(sold(administrator)) == 21


def test_rights_are_never_those_of_an_earlier_document(
    administrator: TestClient, signed_in: Enter, folder: Path
) -> None:
    oda = signed_in("oda")
    assert total(sold(oda)) == 4  # trams
    (folder / "model.yaml").write_text(MODEL.replace("members: [[Tram]]", "members: [[Ferry]]"))
    (folder / "sales.csv").write_text(SALES + "no,such,thing,at,all\n")
    # Her role says something else by now: nothing answers her until the files can be read.
    assert oda.post("/api/drafts", json={"model": "tickets"}).status_code == 503
    (folder / "sales.csv").write_text(SALES)
    assert total(sold(oda)) == 2


def test_they_are_read_by_hand(administrator: TestClient, signed_in: Enter, app: FastAPI) -> None:
    sold(administrator)
    before = app.state.server.shelf.find("tickets")
    assert administrator.post(AT + "/readings").status_code == 202
    assert app.state.server.shelf.find("tickets") is not before
    assert total(sold(administrator)) == 11
    assert signed_in("tomas").post(AT + "/readings").status_code == 403


def test_who_asks_while_large_files_are_read_is_answered_from_what_was(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(shelf, "LOOK_AGAIN_S", 0.0)
    write_folder(tmp_path)
    may_read, times = Event(), []

    def slow(folder: Path, watch: Watch) -> OpenModel:
        times.append(folder)
        if len(times) > 1:
            assert may_read.wait(30)
        return open_folder(folder, watch)

    own = Shelf(lambda: (tmp_path,), slow)
    try:
        first = own.places()[0].wait()
        (tmp_path / "sales.csv").write_text(MORE)
        monkeypatch.setattr(place, "PATIENCE_S", 0.0)
        now = own.current(own.places()[0])
        assert now.is_open
        assert now.wait() is first
        assert (now.trouble, now.behind) == (None, None)
        assert own.current(now) is now  # it is being read: nobody begins it again
        monkeypatch.setattr(place, "PATIENCE_S", 30.0)
        assert not now.is_open  # whoever is patient waits for the new ones
        may_read.set()
        assert now.opening.result(30) is not first
        assert now.wait() is now.opening.result()
        assert len(times) == 2
    finally:
        may_read.set()
        own.close()


def test_files_that_change_are_read_before_anybody_asks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(shelf, "LOOK_AGAIN_S", 0.0)
    write_folder(tmp_path)
    noted: list[Reading] = []
    own = Shelf(lambda: (tmp_path,), note=noted.append)
    try:
        own.places()[0].wait()
        (tmp_path / "lines.csv").unlink()
        own.look_at_files()
        assert own.places()[0].is_read  # what was written just now may not be whole
        monkeypatch.setattr(shelf, "QUIET_S", 0.0)
        own.look_at_files()
        with pytest.raises(SourceError):
            own.places()[0].opening.result(30)
        assert [each.records for each in noted] == [9, 0]
        assert isinstance(noted[-1].trouble, SourceError)
    finally:
        own.close()


def test_files_that_change_all_the_time_keep_nobody_waiting(tmp_path: Path) -> None:
    write_folder(tmp_path)
    read = []

    def changing(folder: Path, watch: Watch) -> OpenModel:
        """Reads for longer than until the next look, and finds other files afterwards."""
        found = open_folder(folder, watch)
        sleep(shelf.LOOK_AGAIN_S)
        read.append(found)
        (folder / "sales.csv").write_text(SALES + "2025-03-03,T1,Kiosk,10,1.00\n" * len(read))
        return found

    own = Shelf(lambda: (tmp_path,), changing)
    try:
        own.current(own.places()[0]).wait()
        sleep(1.1 * shelf.LOOK_AGAIN_S)
        fresh = own.current(own.places()[0])
        fresh.wait()
        assert own.current(own.places()[0]) is fresh
        assert len(read) == 2
    finally:
        own.close()


def test_our_own_records_are_none_of_its_files(administrator: TestClient, app: FastAPI, folder: Path) -> None:
    assert app.state.server.settings.records.parent == folder
    sold(administrator)
    (folder / "sales.csv").unlink()
    assert sold(administrator)["is_behind"]
    place = app.state.server.shelf.find("tickets")
    for _ in range(3):  # each notes something, and none of them brings a further reading
        assert sold(administrator)["is_behind"]
        for each in folder.glob("records.db*"):
            each.touch()
        assert app.state.server.shelf.find("tickets") is place
