"""Links to views: they carry what was seen and the number that is meant, and never a right."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from tests.server.test_comments import row_of
from tests.server.test_library import opened, saved_by, share, to
from tests.server.test_server import built, step

Enter = Callable[[str], TestClient]
KEEP_FERRY = {
    "kind": "filter_members",
    "dimension": "line",
    "hierarchy": "line",
    "members": [["Ferry"]],
    "action": "keep",
}


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


def linked(client: TestClient, draft: dict, shown: dict, **cell: object) -> str:
    reply = client.post(f"/api/drafts/{draft['id']}/links", json={"document": shown["document"], **cell})
    assert reply.status_code == 201, reply.text
    return reply.json()["id"]


def followed(client: TestClient, link: str) -> tuple[dict, dict]:
    """The draft that a link is opened as, and what is shown of it."""
    reply = client.post(f"/api/links/{link}/drafts")
    assert reply.status_code == 201, reply.text
    draft = client.get(f"/api/drafts/{reply.json()['draft']}").json()
    document = next(each["document"] for each in draft["steps"] if each["id"] == draft["shown_step"])
    place = {"step": draft["shown_step"], "document": document}
    return draft, client.post(f"/api/drafts/{draft['id']}/position", json=place).json()


def test_a_view_of_an_analysis_is_for_those_who_may_see_that(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines)
    draft = opened(ines, saved)
    shown = step(ines, draft, 0, draft["steps"][0]["document"], KEEP_FERRY)
    link = linked(ines, draft, shown)
    assert tomas.post(f"/api/links/{link}/drafts").status_code == 404
    share(ines, f"analyses/{saved['id']}", to("tomas", "see"))
    theirs, seen = followed(tomas, link)
    assert seen["text"] == shown["text"] != saved["sentence"]
    # Behind the view is the analysis itself, to which a step leads back.
    assert [each["words"] for each in theirs["steps"]] == ["opened “Sold by line”", "the view that Ines linked to"]
    assert (theirs["analysis"]["may"], theirs["saved_step"]) == ("see", theirs["steps"][0]["id"])
    assert tomas.post("/api/links/none/drafts").status_code == 404


def test_a_link_to_a_number_shows_it_where_it_stands_for_its_reader(signed_in: Enter) -> None:
    ines, tomas, oda = (signed_in(each) for each in ("ines", "tomas", "oda"))
    draft, shown = built(ines)
    handle = shown["answered"]["handle"]
    row = row_of(shown, "Tram")
    link = linked(ines, draft, shown, handle=handle, row=row, column=0)
    ferry = linked(ines, draft, shown, handle=handle, row=row_of(shown, "Ferry"), column=0)
    theirs, seen = followed(tomas, link)
    assert [each["words"] for each in theirs["steps"]] == ["the view that Ines linked to"]

    def where(client: TestClient, found: dict, which: str) -> Any:
        return client.get(f"/api/answers/{found['answered']['handle']}/linked", params={"link": which}).json()

    assert where(tomas, seen, link) == {"row": row, "column": 0}
    assert where(tomas, seen, "none")["code"] == "not-found"
    # Who sees only trams follows both, and finds the one that is theirs to see.
    _, own = followed(oda, link)
    assert [each["caption"] for each in own["answered"]["window"]["rows"]][:1] == ["Tram"]
    assert where(oda, own, link) == {"row": 0, "column": 0}
    assert where(oda, own, ferry) == {"row": None, "column": None}
    # Another's answer names no number.
    refused = tomas.post(f"/api/drafts/{theirs['id']}/links", json={"document": seen["document"], "handle": handle})
    assert refused.status_code == 404
