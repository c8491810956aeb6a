"""What is said of an analysis and of its cells, and to whom it is shown."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from tests.server.test_library import opened, saved_by, share, to
from tests.server.test_server import step

Enter = Callable[[str], TestClient]
OPEN = {"kind": "open_all", "dimension": "line", "hierarchy": "line"}


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


def shown(client: TestClient, saved: dict, *gestures: dict) -> dict:
    """An analysis as somebody sees it who has opened it and taken some steps."""
    draft = opened(client, saved)
    place = {"step": draft["shown_step"], "document": draft["steps"][0]["document"]}
    found = client.post(f"/api/drafts/{draft['id']}/position", json=place).json()
    for number, gesture in enumerate(gestures):
        found = step(client, draft, number, found["document"], gesture)
    return found


def row_of(found: dict, caption: str) -> int:
    return [each["caption"] for each in found["answered"]["window"]["rows"]].index(caption)


def said(client: TestClient, saved: dict, found: dict | None = None) -> list[dict]:
    params = {"handle": found["answered"]["handle"]} if found is not None else {}
    return client.get(f"/api/analyses/{saved['id']}/comments", params=params).json()


def say(client: TestClient, saved: dict, text: str, **more: object) -> int:
    return client.post(f"/api/analyses/{saved['id']}/comments", json={"text": text, **more}).status_code


def test_a_comment_stays_with_its_cell_when_the_table_turns(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines)
    mine = shown(ines, saved)
    tram = {"handle": mine["answered"]["handle"], "row": row_of(mine, "Tram"), "column": 0}
    assert say(ines, saved, "Why so few?", **tram, mentions=["tomas"]) == 422  # he may not see it yet
    share(ines, f"analyses/{saved['id']}", to("tomas", "see"))
    assert say(ines, saved, "Why so few?", **tram, mentions=["tomas"]) == 201
    assert say(ines, saved, "All of it is new.") == 201
    first, second = said(ines, saved, mine)
    assert (first["cell"], first["mentions"]) == (
        {"caption": "Tram · Sold", "row": tram["row"], "column": 0},
        ["Tomas"],
    )
    assert (second["text"], second["cell"]) == ("All of it is new.", None)
    # A colleague finds it where the number stands in a table of their own: opened, or turned.
    (unread,) = tomas.get("/api/library").json()["mentions"]
    assert (unread["author_name"], unread["item_name"], unread["text"]) == ("Ines", "Sold by line", "")
    wide = shown(tomas, saved, OPEN)
    assert said(tomas, saved, wide)[0]["cell"]["row"] == row_of(wide, "Tram")
    turned = shown(ines, saved, {"kind": "swap_axes"})
    column = [
        each["members"][0]["caption"] if each["members"] else "" for each in turned["answered"]["window"]["columns"]
    ]
    assert (said(ines, saved, turned)[0]["cell"]["row"], said(ines, saved, turned)[0]["cell"]["column"]) == (
        0,
        column.index("Tram"),
    )
    away = {
        "kind": "filter_members",
        "dimension": "line",
        "hierarchy": "line",
        "members": [["Ferry"]],
        "action": "keep",
    }
    without = shown(ines, saved, away)
    assert said(ines, saved, without)[0]["cell"] == {"caption": "Tram · Sold", "row": None, "column": None}
    assert tomas.put(f"/api/analyses/{saved['id']}/comments/read").status_code == 204
    assert tomas.get("/api/library").json()["mentions"] == []


def test_what_is_said_of_a_cell_is_for_those_who_may_see_it(signed_in: Enter) -> None:
    ines, oda, tomas = (signed_in(each) for each in ("ines", "oda", "tomas"))
    saved = saved_by(ines)
    share(ines, f"analyses/{saved['id']}", to("oda", "see"))
    mine = shown(ines, saved)
    for caption in ("Ferry", "Tram"):
        at = {"handle": mine["answered"]["handle"], "row": row_of(mine, caption), "column": 0}
        assert say(ines, saved, f"Of {caption}", **at, mentions=["oda"]) == 201
    assert [each["text"] for each in said(oda, saved)] == ["Of Tram"]
    assert [each["text"] for each in oda.get("/api/library").json()["mentions"]] == ["", ""]
    # Another's answer names no cell, and whoever does not see the analysis sees nothing of it.
    assert [each["cell"]["row"] for each in said(oda, saved, mine)] == [None]
    assert say(oda, saved, "Mine", handle=mine["answered"]["handle"]) == 404
    assert tomas.get(f"/api/analyses/{saved['id']}/comments").status_code == 404
    assert say(tomas, saved, "Hello") == 404
    assert say(ines, saved, "  ") == 422


def test_ones_own_comments_are_taken_away_and_any_by_those_who_manage(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines)
    share(ines, f"analyses/{saved['id']}", to("tomas", "see"))
    for client, text in ((ines, "one"), (tomas, "two"), (tomas, "three")):
        assert say(client, saved, text) == 201
    one, two, three = said(tomas, saved)
    assert [each["may_remove"] for each in (one, two, three)] == [False, True, True]
    path = f"/api/analyses/{saved['id']}/comments"
    assert tomas.delete(f"{path}/{one['id']}").status_code == 404
    assert tomas.delete(f"{path}/{two['id']}").status_code == 204
    assert ines.delete(f"{path}/{three['id']}").status_code == 204
    assert [each["text"] for each in said(ines, saved)] == ["one"]
