"""An analysis whose model has lost something opens with the rest, for everybody, and says what is gone."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from pathlib import Path
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from dastan.records.analyses import put_analysis
from dastan.records.database import connect
from dastan.records.item_rights import ItemGrant, set_grants
from tests.server.test_server import step

Enter = Callable[[str], TestClient]
LINE = {"dimension": "line", "hierarchy": "line"}
BY_LINE = {**LINE, "level": "mode"}
SOLD = {"measure": "sold"}
BIG = {"kind": "measure", "measure": "sold", "at": [{**LINE, "level": "line"}], "operator": "more", "values": [1]}

CASES: dict[str, tuple[dict, str, str, str]] = {
    # What is lost: the question, the remark, the better choice, the sentence of the rest.
    "measure": ({"measures": [SOLD, {"measure": "taking"}], "rows": [BY_LINE]},
                'Measure “taking” is not in model “Tickets sold”.', "Use “Takings” instead", "Sold by Mode"),
    "measure of a limit": ({"measures": [SOLD], "rows": [BY_LINE | {"limits": [{"level": "mode", "amount": 1, "by": {"measure": "zzz"}}]}]},
                           'Measure “zzz” is not in model “Tickets sold”.', "Take it out", "Sold by Mode"),
    "measure of an order": ({"measures": [SOLD], "rows": [BY_LINE | {"order": {"by": "measure", "measure": {"measure": "zzz"}}}]},
                            'Measure “zzz” is not in model “Tickets sold”.', "Take it out", "Sold by Mode"),
    "dimension": ({"measures": [SOLD], "rows": [BY_LINE], "columns": [{"dimension": "sellers", "hierarchy": "seller", "level": "seller"}]},
                  'Dimension “sellers” is not in model “Tickets sold”.', "Use “Seller” instead", "Sold by Mode"),
    "hierarchy": ({"measures": [SOLD], "rows": [{**BY_LINE, "hierarchy": "lines"}]},
                  'Hierarchy “lines” is not in dimension “Line”.', "Use “line” instead", "Sold"),
    "level": ({"measures": [SOLD], "rows": [BY_LINE | {"level": "modes"}]},
              'Level “modes” is not in hierarchy “line” of “Line”.', "Use “Mode” instead", "Sold"),
    "level passed over": ({"measures": [SOLD], "rows": [BY_LINE | {"skipped": ["team"]}]},
                          'Level “team” is not in hierarchy “line” of “Line”.', "Take it out", "Sold by Mode"),
    "attribute": ({"measures": [SOLD], "rows": [BY_LINE], "filters": [
        {"kind": "attribute", "dimension": "line", "attribute": "moed", "operator": "equal", "values": ["Tram"]}]},
        'Attribute “moed” is not in dimension “Line”.', "Use “Mode” instead", "Sold by Mode"),
    "ready-made filter": ({"measures": [SOLD], "rows": [BY_LINE], "filters": [{"kind": "ready", "name": "from_kiosk"}]},
                          'Ready-made filter “from_kiosk” is not in the model.', "Use “from kiosks” instead", "Sold by Mode"),
    "list": ({"measures": [SOLD], "rows": [BY_LINE], "filters": [LINE | {"list": "quays"}]},
             'List “quays” is not in the model.', "Take it out", "Sold by Mode"),
    "prompt": ({"measures": [SOLD], "rows": [BY_LINE], "filters": [LINE | {"prompt": "which"}]},
               'There is no question “which”.', "Take it out", "Sold by Mode"),
    "prompt's dimension": ({"measures": [SOLD], "rows": [BY_LINE], "prompts": [
        {"name": "which", "caption": "Which?", "type": "members", "dimension": "lime", "hierarchy": "line"}]},
        'Dimension “lime” is not in model “Tickets sold”.', "Use “Line” instead", "Sold by Mode"),
    "level of a measured filter": ({"measures": [SOLD], "rows": [BY_LINE], "filters": [BIG | {"at": [{**LINE, "level": "stop"}]}]},
                                   'Level “stop” is not in hierarchy “line” of “Line”.', "Take it out", "Sold by Mode"),
}  # fmt: skip


def saved(records: Path, question: dict) -> str:
    """An analysis as it was saved when the model still had it all, shared with Oda, who sees only trams."""
    connection: sqlite3.Connection = connect(records)
    id = uuid4().hex
    document = json.dumps({"dastan": "analysis/1", "model": "tickets", "question": question})
    put_analysis(connection, id=id, model="tickets", owner="ines", name="Old", description="", folder=None,
                 document=document, sentence="As it was", now="2026-01-01")  # fmt: skip
    set_grants(connection, "item", id, [ItemGrant("oda", None, "", "change")])
    connection.close()
    return id


@pytest.mark.parametrize("case", CASES)
def test_it_opens_with_the_rest_and_proposes_the_nearest(signed_in: Enter, records_path: Path, case: str) -> None:
    question, remark, better, rest = CASES[case]
    id = saved(records_path, question)
    for name in ("ines", "oda"):
        client = signed_in(name)
        listed = client.get("/api/library").json()
        assert id in [each["id"] for each in listed["entries"]]
        reply = client.post("/api/drafts", json={"analysis": id})
        assert reply.status_code == 201, reply.text
        draft = reply.json() | {"ids": {0: reply.json()["shown_step"]}}
        whole = draft["steps"][0]["document"]
        shown = client.post(
            f"/api/drafts/{draft['id']}/position", json={"step": draft["ids"][0], "document": whole}
        ).json()
        assert shown["text"].removesuffix(", as far as the tram desk may see") == rest
        assert [(each["text"], each["better"]) for each in shown["lost"]] == [(remark, better)]
        assert shown["answered"]["window"]["values"]
        # The next step leads on from the rest; the step that was opened still holds all of it.
        turned = step(client, draft, 0, whole, {"kind": "swap_axes"})
        assert turned["lost"] == []
        mended = step(client, draft, 0, whole, shown["lost"][0]["gesture"])
        assert mended["lost"] == []
        again = client.get(f"/api/drafts/{draft['id']}").json()["steps"][0]["document"]
        assert again == whole


def test_the_nearest_stands_in_the_place_of_what_is_gone(signed_in: Enter, records_path: Path) -> None:
    client = signed_in("ines")
    id = saved(records_path, {"measures": [{"measure": "taking"}, {"measure": "sols"}], "rows": [BY_LINE]})
    draft = client.post("/api/drafts", json={"analysis": id}).json()
    draft["ids"] = {0: draft["shown_step"]}
    whole = draft["steps"][0]["document"]
    first = {"kind": "use_instead", "thing": "measure", "name": "taking", "instead": "takings"}
    shown = step(client, draft, 0, whole, first)
    assert shown["text"] == "Takings by Mode"
    assert shown["words"] == "used takings in place of taking"
    assert [each["better"] for each in shown["lost"]] == ["Use “Sold” instead"]


def test_what_cannot_be_answered_is_not_saved(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft = client.post("/api/drafts", json={"model": "tickets"}).json()
    for question, _, _, _ in CASES.values():
        document = {"dastan": "analysis/1", "model": "tickets", "question": question}
        body = {"draft": draft["id"], "step": draft["shown_step"], "document": document, "name": "New"}
        reply = client.post("/api/analyses", json=body)
        assert reply.status_code in (404, 422), question
        assert reply.json()["detail"]
