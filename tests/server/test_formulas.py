"""Formulas over the wire: read as they are written, looked at, accounted for; what is wrong is told at its place."""

from __future__ import annotations

from collections.abc import Callable

from fastapi.testclient import TestClient

from tests.server.test_server import built, step

Enter = Callable[[str], TestClient]
PATH = "/api/models/tickets/formula"


def test_a_formula_is_read_looked_at_put_in_and_accounted_for(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    asked = {"document": shown["document"], "text": "takings / (sold over the whole)"}
    read = client.post(f"{PATH}/read", json=asked).json()
    assert (read["aloud"], read["pattern"], read["fault"]) == ("Takings per Sold over the whole", "#,##0.00", None)
    made = {"caption": "Takings each", "formula": read["expression"]}
    looked = {"document": shown["document"], "made": made, "row": 1, "column": 0}
    preview = client.post(f"{PATH}/preview", json=looked).json()
    assert [(each["caption"], each["is_here"]) for each in preview["rows"]] == [
        ("Ferry", False), ("Tram", True), ("without a line", False), ("All lines", False),
    ]  # fmt: skip
    sliced = client.post(f"{PATH}/read", json=asked | {"text": 'sold only "Mode" = "Tram"'}).json()["expression"]
    trams = client.post(f"{PATH}/preview", json=looked | {"made": made | {"formula": sliced}}).json()
    assert [each["values"] for each in trams["rows"]] == [[None], [4], [None], [4]]
    after = step(client, draft, 2, shown["document"], {"kind": "make_measure", "made": made})
    assert after["words"] == "made Takings each"
    assert after["text"] == "Sold and Takings each by Mode, where Takings each is Takings per Sold over the whole"
    window = after["answered"]["window"]
    assert [each[1] for each in window["values"]] == [each["values"][0] for each in preview["rows"]]
    (listed,) = after["made"]
    assert (listed["text"], listed["used_by"]) == ('"Takings" / ("Sold" over the whole)', ["the table"])
    path = f"/api/answers/{after['answered']['handle']}"
    account = client.get(f"{path}/paper", params={"row": 1, "column": 1}).json()["account"]
    assert account["formula"] == '"Takings" / ("Sold" over the whole)'
    assert [each["caption"] for each in account["operands"]] == ["Takings", "Sold over the whole"]
    assert account["agrees"] is True
    counts = [
        client.get(f"{path}/records", params={"row": 1, "column": 1, "part": each["name"]}).json()["total"]
        for each in account["operands"]
    ]
    assert counts == [each["records"] for each in account["operands"]]
    assert counts[0] < counts[1]


def test_what_is_wrong_is_told_at_its_place_with_what_to_do(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    asked = {"document": shown["document"], "text": "takins / sold"}
    fault = client.post(f"{PATH}/read", json=asked).json()["fault"]
    assert (fault["message"], fault["start"], fault["end"]) == ("There is no measure “takins”.", 0, 6)
    assert "Takings" in fault["hint"]
    asked["text"] = "takings / sold over the whole"
    fixes = client.post(f"{PATH}/read", json=asked).json()["fault"]["fixes"]
    assert [each["text"] for each in fixes] == ["(takings / sold) over the whole", "takings / (sold over the whole)"]
    made = {"caption": "Sold", "formula": {"kind": "measure", "measure": "takings"}}
    body = {"document": shown["document"], "made": made}
    assert client.post(f"{PATH}/preview", json=body).status_code == 200
    gesture = {"kind": "make_measure", "made": made}
    draft, again = built(client)
    asked = {"id": "s", "parent": draft["ids"][2], "document": again["document"], "gesture": gesture}
    refused = client.post(f"/api/drafts/{draft['id']}/steps", json=asked)
    assert refused.status_code == 422
    assert "already" in refused.json()["detail"]


def test_what_is_pointed_at_is_named_as_a_formula_names_it(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    member = {"kind": "member", "dimension": "line", "hierarchy": "line", "path": ["Tram"]}
    for thing, text in (
        ({"kind": "measure", "measure": "sold"}, '"Sold"'),
        (member, 'only "Mode" = "Tram"'),
        (member | {"more": [["Ferry"]]}, 'only "Mode" in ("Tram", "Ferry")'),
        ({"kind": "dimension", "dimension": "line", "hierarchy": "line", "level": "mode"}, '"Mode"'),
    ):
        asked = {"document": shown["document"], "thing": thing}
        assert client.post(f"{PATH}/name", json=asked).json()["text"] == text


def test_a_made_measure_can_be_typed(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    made = {"caption": "Twice", "formula": {"kind": "arithmetic", "operator": "*", "left": {"kind": "measure",
            "measure": "sold"}, "right": {"kind": "number", "digits": "2"}}}  # fmt: skip
    after = step(client, draft, 2, shown["document"], {"kind": "make_measure", "made": made})
    asked = {"text": "twice by mode", "document": after["document"]}
    read = client.post("/api/models/tickets/words/read", json=asked).json()
    assert read["question"]["measures"][0]["measure"] == "made_twice"
    assert client.post("/api/models/tickets/words/read", json={"text": "twice by mode"}).json()["question"] is None
