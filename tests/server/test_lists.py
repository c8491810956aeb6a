"""Lists as they are being made, through HTTP: what one begins with, what it has just now, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Callable

from fastapi.testclient import TestClient

Enter = Callable[[str], TestClient]
LINE = {"dimension": "line", "hierarchy": "line"}
BY_LINE = {**LINE, "level": "line", "limits": [{"level": "line", "amount": 1, "by": {"measure": "sold"}}]}
IN_2024 = {"kind": "members", "dimension": "calendar", "hierarchy": "calendar", "members": [[2024]]}
DOCUMENT = {
    "dastan": "analysis/1", "model": "tickets",
    "question": {"measures": [{"measure": "sold"}], "rows": [BY_LINE], "filters": [IN_2024]},
}  # fmt: skip


def begin(client: TestClient, document: dict, **thing: object) -> dict:
    reply = client.post("/api/models/tickets/lists/begin", json={"document": document, "thing": thing})
    return reply.json() | {"status": reply.status_code}


def test_a_list_begins_with_the_limit_and_the_records_of_the_table(signed_in: Enter) -> None:
    found = begin(signed_in("ines"), DOCUMENT, kind="dimension", **LINE)
    assert (found["says"], found["over"]) == ("the largest line by Sold, over 2024", ["2024"])
    # Trams sold 3 and 1 in 2024, the ferry 2.
    assert (found["count"], found["captions"], found["suggested"]) == (1, ["Shore tram"], "Largest line by Sold")
    picked = begin(signed_in("ines"), DOCUMENT, kind="member", **LINE, path=["Ferry"], more=[["Tram", "T1"]])
    assert (picked["says"], picked["count"]) == ("Ferry and Shore tram", 2)


def test_a_list_that_is_filtered_by_is_told_anew_and_one_of_the_model_is_copied(signed_in: Enter) -> None:
    client = signed_in("ines")
    made = {**LINE, "name": "mine", "caption": "Mine", "level": "mode"}
    kept = {"kind": "members", **LINE, "list": "mine"}
    document = {**DOCUMENT, "lists": [made], "question": {**DOCUMENT["question"], "filters": [kept]}}  # type: ignore[dict-item]
    found = begin(client, document, kind="filter", at=0)
    assert (found["made"]["name"], found["says"], found["fault"]) == ("mine", "all modes", "")
    read = {"document": document, "made": {**found["made"], "caption": " "}}
    told = client.post("/api/models/tickets/lists/read", json=read).json()
    assert (told["count"], told["fault"]) == (2, "The list has no name.")


def test_what_no_list_can_be_of_is_refused_in_words(signed_in: Enter) -> None:
    client = signed_in("ines")
    assert begin(client, DOCUMENT, kind="measure", measure="sold")["status"] == 404
    assert begin(client, DOCUMENT, kind="list", list="gone")["detail"].startswith("There is no list “gone” any more.")
    nothing = {**LINE, "caption": "Nothing"}
    told = client.post("/api/models/tickets/lists/read", json={"document": DOCUMENT, "made": nothing}).json()
    assert (told["fault"], told["count"]) == ("“Nothing” lists no members.", 0)
