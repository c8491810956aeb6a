"""Whatever is sent, the server says what is wrong with it, and never that it does not know. `make fuzz-server` tries
more: DASTAN_REQUESTS says how many."""

from __future__ import annotations

import json
import os
import random
from collections import Counter
from collections.abc import Callable
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.server.openapi import openapi_document
from tests.server.random_requests import PATHS, Requests, spoiled
from tests.server.test_server import begin

Enter = Callable[[str], TestClient]
REQUESTS = int(os.environ.get("DASTAN_REQUESTS", "800"))
SEED = int(os.environ.get("DASTAN_SEED", "14"))


_LINES = {"dimension": "line", "hierarchy": "line", "level": "mode"}
_DAYS = {"dimension": "calendar", "hierarchy": "calendar", "level": "year"}
BEGINNINGS: list[dict[str, Any]] = [
    {},
    {"measures": [{"measure": "sold"}], "rows": [_LINES]},
    {"measures": [{"measure": "sold"}, {"measure": "takings"}], "rows": [_LINES], "columns": [_DAYS]},
    {"measures": [{"measure": "sales"}], "rows": [_DAYS, _LINES], "measures_on": "rows",
     "filters": [{"dimension": "seller", "hierarchy": "seller", "members": [["Kiosk"]]}]},
]  # fmt: skip


class Stroller:
    """A person who tries everything, on documents that lead on from one another."""

    def __init__(self, client: TestClient, description: dict[str, Any], chance: random.Random) -> None:
        self.client = client
        self.chance = chance
        self.requests = Requests(description, chance)
        self.draft = begin(client)
        self.document: Any = self.draft["steps"][0]["document"]
        self.handle = ""
        self.number = 0
        self.seen: Counter[tuple[str, int]] = Counter()

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        reply = self.client.request(method, path, json=body) if body is not None else self.client.request(method, path)
        where = path.split("?")[0].replace(self.draft["id"], "{id}").replace(self.handle or "\0", "{handle}")
        self.seen[where, reply.status_code] += 1
        assert reply.status_code < 500, f"{method} {path}\n{json.dumps(body)}\n{reply.text}"
        if reply.status_code >= 400:
            told = reply.json()
            assert told["detail"], (path, body)
            assert reply.headers["content-type"] == "application/problem+json"
        return reply

    def any_document(self) -> Any:
        match self.chance.randrange(4):
            case 0:
                return self.requests.body("Analysis", model="tickets", dastan="analysis/1")
            case 1:
                return spoiled(self.document, self.chance)
            case _:
                return self.document

    def step(self) -> None:
        self.number += 1
        id = f"step-{self.number}"
        gesture = self.requests.gesture()
        if self.chance.random() < 0.1:
            gesture = spoiled(gesture, self.chance) if isinstance(gesture, dict) else gesture
        body = {"id": id, "parent": self.draft["shown_step"], "document": self.any_document(), "gesture": gesture,
                "is_asked": self.chance.random() < 0.8}  # fmt: skip
        reply = self.ask("POST", f"/api/drafts/{self.draft['id']}/steps", body)
        if reply.status_code == 200:
            shown = reply.json()
            self.document = shown["document"]
            if shown["answered"]:
                self.handle = shown["answered"]["handle"]
        if self.number % 20 == 0:
            self.document = {"dastan": "analysis/1", "model": "tickets", "question": self.chance.choice(BEGINNINGS)}

    def elsewhere(self) -> None:
        """Anything but a step."""
        chance, requests, draft = self.chance, self.requests, self.draft["id"]
        document = self.any_document()
        answer = f"/api/answers/{self.handle or 'none'}"
        cell = f"row={chance.choice([0, 0, 0, 1, 2, 10**6])}&column={chance.choice([0, 0, 0, 0, 1, 2**31])}"
        whole = {"row_start": 0, "rows": 5, "column_start": 0, "columns": 5}
        match chance.randrange(16):
            case 0:
                self.ask("POST", f"/api/drafts/{draft}/position", {"step": "x", "document": document})
            case 1:
                self.ask("POST", "/api/models/tickets/offers", {"document": document, "thing": requests.body("Thing")})
            case 2:
                self.ask("POST", "/api/models/tickets/members", requests.body("MembersIn"))
            case 3:
                body = requests.body("RemainingIn", document=document, gesture=requests.gesture())
                self.ask("POST", "/api/models/tickets/remaining", body)
            case 4:
                self.ask("POST", "/api/models/tickets/words/write", document)
            case 5:
                text = self.ask("POST", "/api/models/tickets/words/write", self.document).json().get("text", "Sold")
                at = chance.randrange(len(text) + 1)
                self.ask(
                    "POST",
                    "/api/models/tickets/words/read",
                    {"text": text[:at] + chance.choice("(,“# 9ex") + text[at:]},
                )
            case 6:
                self.ask("POST", f"/api/drafts/{draft}/compare", {"before": self.document, "after": document})
            case 7:
                body = {"draft": draft, "step": self.draft["shown_step"], "document": document, "name": "Mine"}
                self.ask("POST", "/api/analyses", body)
            case 8:
                self.ask("POST", f"{answer}/chart", {"chart": requests.body("Chart")})
            case 9:
                body = {"numbers": [requests.body("NumberDress") for _ in range(2)], **whole}
                self.ask("POST", f"{answer}/marks", body)
            case 10:
                self.ask("GET", f"{answer}/paper?{cell}")
            case 11:
                self.ask("GET", f"{answer}/why-empty?{cell}")
            case 12:
                order = chance.choice(["quantity", "no-such", "day"])
                self.ask("GET", f"{answer}/records?{cell}&order={order}&search={chance.choice(['', 'T', '('])}&start=1")
            case 13:
                self.ask("GET", f"{answer}/window?row_start={chance.choice([0, 3, 10**12])}&rows=400&columns=400")
            case 14:
                self.ask("GET", f"{answer}/jump?words={chance.choice(['T', '%', '(', ''])}&start=2")
            case _:
                self.ask("GET", f"{answer}/{chance.choice(['sections', f'source?{cell}', f'records.csv?{cell}'])}")


@pytest.fixture
def stroller(signed_in: Enter) -> Callable[[str], Stroller]:
    def make(name: str) -> Stroller:
        return Stroller(signed_in(name), openapi_document(), random.Random(f"{SEED} {name}"))

    return make


@pytest.mark.parametrize("name", ["ines", "oda"])
def test_nothing_that_is_sent_is_a_fault_of_the_server(stroller: Callable[[str], Stroller], name: str) -> None:
    person = stroller(name)
    for _ in range(REQUESTS // 4):
        person.step()
        person.elsewhere()
    steps = {status: count for (path, status), count in person.seen.items() if path.endswith("/steps")}
    # Much of it is understood: what is refused at the door alone would prove little.
    assert steps[200] > 0.15 * sum(steps.values()), person.seen


def test_a_chart_of_a_table_without_records_and_totals_is_drawn_empty(signed_in: Enter) -> None:
    client = signed_in("ines")
    by_line = {"dimension": "line", "hierarchy": "line", "level": "mode"}
    question = {"measures": [{"measure": "sold"}], "rows": [by_line], "row_total": "none", "column_total": "none",
                "filters": [{"dimension": "line", "hierarchy": "line", "members": [["none"]]}]}  # fmt: skip
    draft = begin(client)
    asked = {
        "step": draft["shown_step"],
        "document": {"dastan": "analysis/1", "model": "tickets", "question": question},
    }
    shown = client.post(f"/api/drafts/{draft['id']}/position", json=asked).json()
    for chart in ({}, {"form": "ring"}, {"form": "heat"}, {"along": "columns"}, {"multiples": True}):
        reply = client.post(f"/api/answers/{shown['answered']['handle']}/chart", json={"chart": chart})
        assert reply.status_code == 200, reply.text


def test_members_far_below_or_nowhere_are_told(signed_in: Enter, app: FastAPI) -> None:
    client = signed_in("ines")
    for path in (*PATHS, [], ["Tram", "T1", "x"], [{}], [[]], [1e300], [2**60]):
        body = {"dimension": "line", "hierarchy": "line", "path": path}
        assert client.post("/api/models/tickets/members", json=body).status_code in (200, 422), path
