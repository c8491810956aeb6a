"""Numbers questioned through HTTP: exactly the records that the reader may see, and never another's answer."""

from __future__ import annotations

import csv
import io
import tempfile
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import pyarrow.parquet
import pytest
from fastapi.testclient import TestClient
from openpyxl import load_workbook

from dastan.exports import workbook, workbook_records
from dastan.exports.apart.processes import PROCESSES
from dastan.exports.feed import carry_out
from tests.server.test_server import built, step

Enter = Callable[[str], TestClient]
BY_MODE = {"dimension": "line", "hierarchy": "line", "level": "mode"}
ROWS = {"Ferry": 0, "Tram": 1, "without a line": 2, "All lines": 3}


def path(shown: dict, what: str, row: int, **more: object) -> str:
    query = "&".join(f"{name}={value}" for name, value in {"row": row, "column": 0, **more}.items())
    return f"/api/answers/{shown['answered']['handle']}/{what}?{query}"


def test_the_records_behind_a_number_agree_with_it(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    for caption, sold in {"Tram": 4, "without a line": 5, "All lines": 11}.items():
        account = client.get(path(shown, "paper", ROWS[caption])).json()["account"]
        assert (account["value"], account["from_records"], account["agrees"]) == (str(sold), str(sold), True)
        listed = client.get(path(shown, "records", ROWS[caption])).json()
        assert listed["total"] == account["operands"][0]["records"]
        text = client.get(path(shown, "records.csv", ROWS[caption])).text
        rows = list(csv.DictReader(io.StringIO(text)))
        assert len(rows) == listed["total"]
        own = next(each["name"] for each in listed["columns"] if each["is_own"])
        assert sum(int(each[own] or 0) for each in rows) == sold


def test_the_table_is_copied_and_taken_as_a_file_as_it_is_seen(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    handle, dress = shown["answered"]["handle"], shown["document"]["dress"]
    whole = client.post(f"/api/answers/{handle}/copied", json={"dress": dress}).json()
    assert whole["text"].splitlines() == [
        "Mode\tSold",
        "Ferry\t2",
        "Tram\t4",
        "without a line\t5",
        "All lines\t11",
    ]
    assert (whole["rows"], whole["columns"]) == (4, 1)
    tram = [{"dimension": "line", "hierarchy": "line", "path": ["Tram"]}]
    own = client.post(f"/api/answers/{handle}/copied", json={"dress": dress, "axis": "rows", "members": tram}).json()
    assert own["text"].splitlines()[1:] == ["Tram\t4"]
    text = client.post(f"/api/answers/{handle}/table.csv", json={"dress": dress}).text
    assert list(csv.reader(io.StringIO(text)))[1:] == [
        ["Ferry", "2"],
        ["Tram", "4"],
        ["without a line", "5"],
        ["All lines", "11"],
    ]
    reply = client.post(f"/api/answers/{handle}/table.xlsx?question=own", json={"dress": dress})
    assert reply.headers["content-type"] == "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    table = load_workbook(io.BytesIO(reply.content))["Table"]
    assert [[cell.value for cell in row] for row in table.iter_rows(min_row=5)] == [
        ["Ferry", 2], ["Tram", 4], ["without a line", 5], ["All lines", 11]
    ]  # fmt: skip
    reply = client.post(f"/api/answers/{handle}/table.parquet", json={"dress": dress})
    assert pyarrow.parquet.read_table(io.BytesIO(reply.content)).to_pylist() == [
        {"Mode": "Ferry", "Sold": 2}, {"Mode": "Tram", "Sold": 4}, {"Mode": "without a line", "Sold": 5}
    ]  # fmt: skip
    assert client.post(f"/api/answers/{handle}/table.doc", json={"dress": dress}).status_code == 422
    # Nobody takes away what another was answered.
    other = signed_in("tomas")
    for what in ("copied", "table.csv", "table.xlsx", "table.parquet", "table.arrow"):
        assert other.post(f"/api/answers/{handle}/{what}", json={"dress": dress}).status_code == 404


def test_a_workbook_larger_than_a_sheet_is_refused_and_leaves_nothing_behind(
    signed_in: Enter, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    client = signed_in("ines")
    _, shown = built(client)
    asked = f"/api/answers/{shown['answered']['handle']}/table.xlsx"
    monkeypatch.setattr(PROCESSES, "write", carry_out)  # here, where sheets have as many rows as this test says
    monkeypatch.setattr(workbook, "MOST_ROWS", 5)
    refused = client.post(asked, json={"dress": shown["document"]["dress"]})
    assert (refused.status_code, refused.json()["code"]) == (413, "limit")
    assert refused.json()["hint"] == "Take it as a CSV file, or narrow it."
    monkeypatch.setattr(workbook, "MOST_ROWS", 100)
    assert client.post(asked, json={"dress": shown["document"]["dress"]}).status_code == 200
    assert list(tmp_path.iterdir()) == []


def test_a_workbook_takes_the_records_along_that_its_table_counts(
    signed_in: Enter, monkeypatch: pytest.MonkeyPatch
) -> None:
    year = {"dimension": "calendar", "hierarchy": "calendar", "members": [[2024]]}
    placed = [{"measure": "sold"}, {"measure": "takings"}]
    document = {"model": "tickets", "question": {"measures": placed, "rows": [BY_MODE], "filters": [year]}}
    shop = ["Calendar", "Line", "Seller", "Quantity", "Price"]
    sold = [
        [datetime(2024, 1, 5), "Shore tram (T1)", "Kiosk", 3, 1.25],
        [datetime(2024, 2, 5), "Shore tram (T1)", "Kiosk", 1, 0.1],
        [datetime(2024, 2, 7), "Island ferry (F1)", "Boat", 2, 10.99],
    ]
    for name, expected in (("ines", sold), ("oda", sold[:2])):
        client = signed_in(name)
        handle = client.post("/api/models/tickets/answers", json=document).json()["answered"]["handle"]
        asked = {"dress": {}, "with_records": True}
        reply = client.post(f"/api/answers/{handle}/table.xlsx", json=asked)
        assert reply.status_code == 200, reply.text
        book = load_workbook(io.BytesIO(reply.content))
        # Two measures of the same records have one sheet of them.
        assert book.sheetnames == ["Table", "Data", "Records of Sold"]
        assert [[cell.value for cell in row] for row in book["Records of Sold"].iter_rows()] == [shop, *expected]
        assert client.post(f"/api/answers/{handle}/table.ods", json=asked).status_code == 422
        monkeypatch.setattr(PROCESSES, "write", carry_out)  # here, where sheets have as many rows as this test says
        monkeypatch.setattr(workbook_records, "MOST_ROWS", len(expected))
        refused = client.post(f"/api/answers/{handle}/table.xlsx", json=asked)
        assert refused.json()["detail"].startswith(f"{len(expected)} records stand behind this table")
        monkeypatch.undo()


def test_records_are_searched_ordered_and_paged(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    row = ROWS["All lines"]
    whole = client.get(path(shown, "records", row)).json()
    names = [each["name"] for each in whole["columns"]]
    own = next(each["name"] for each in whole["columns"] if each["is_own"])
    numbers = [int(each["texts"][names.index(own)] or -1) for each in whole["records"]]
    ordered = client.get(path(shown, "records", row, order=own, descending=True)).json()["records"]
    # Blank ones come last either way.
    assert [int(each["texts"][names.index(own)] or -1) for each in ordered] == sorted(numbers, reverse=True)
    second = client.get(path(shown, "records", row, order=own, descending=True, start=1, count=1)).json()
    assert second["records"] == ordered[1:2]
    text = client.get(path(shown, "records.csv", row, order=own, descending=True, columns=own)).text
    assert text.splitlines()[0] == own
    values = [int(each[0] or -1) for each in csv.reader(text.splitlines()[1:])]
    assert values == sorted(numbers, reverse=True)
    found = client.get(path(shown, "records", row, search="ferry")).json()
    assert 0 < found["found"] < found["total"]
    wrong = client.get(path(shown, "records", row, columns="nothing"))
    assert (wrong.status_code, "no column" in wrong.text) == (422, True)


def test_a_role_lists_its_own_records_only_and_no_totals_of_the_source(signed_in: Enter) -> None:
    everyone, some = signed_in("ines"), signed_in("oda")
    _, all_shown = built(everyone)
    _, shown = built(some)
    whole = everyone.get(path(all_shown, "records", ROWS["Tram"])).json()
    own = some.get(path(shown, "records", 0)).json()
    assert own["total"] == whole["total"]
    text = some.get(path(shown, "records.csv", 0)).text
    assert "Ferry" not in text
    assert some.get(path(shown, "source", 0)).status_code == 403
    assert everyone.get(path(all_shown, "source", 0)).json()[0]["agrees"]
    assert some.get(path(all_shown, "records", 0)).json()["code"] == "answer-gone"


def test_a_number_that_is_not_there_is_said_so(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    reply = client.get(path(shown, "records", 77))
    assert (reply.status_code, "There is no such number in the table." in reply.text) == (422, True)


def test_dress_keeps_the_answer_and_draws_the_same_numbers(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    drawn = step(client, draft, 2, shown["document"], {"kind": "set_view", "view": "chart"})
    assert drawn["answered"]["handle"] == shown["answered"]["handle"]
    chart = client.post(f"/api/answers/{drawn['answered']['handle']}/chart", json={"chart": {}}).json()
    assert [each["captions"] for each in chart["categories"]] == [["Ferry"], ["Tram"], ["without a line"]]
    assert chart["panels"][0]["values"] == [[2, 4, 5]]
