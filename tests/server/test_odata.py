"""OData: the numbers of an analysis as a client of that protocol reads them, filtered, ordered and paged."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from xml.etree import ElementTree

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from odata import ODataService

from dastan.exports.odata import page
from dastan.exports.odata.entities import identifiers
from tests.server.test_feeds import token_of
from tests.server.test_library import saved_by, share, to
from tests.server.test_server import built, save, step

Enter = Callable[[str], TestClient]
EDM = "{http://docs.oasis-open.org/odata/ns/edm}"
TAKINGS = {"kind": "put_measure", "measure": "takings"}
OPEN_ALL = {"kind": "open_all", "dimension": "line", "hierarchy": "line"}


class Session:
    """What the client asks by, without a net between."""

    def __init__(self, client: TestClient) -> None:
        self._client = client

    def get(self, url: str, timeout: float, **more: Any) -> object:  # noqa: ARG002
        return self._client.get(url, **more)


def by_line(client: TestClient) -> dict[str, Any]:
    """A saved analysis of Sold and Takings by Mode and Line."""
    draft, shown = built(client)
    shown = step(client, draft, 2, shown["document"], TAKINGS)
    shown = step(client, draft, 3, shown["document"], OPEN_ALL)
    draft["ids"][2] = draft["ids"][4]
    return save(client, draft, shown, name="Takings by line")


@pytest.fixture
def program(app: FastAPI) -> Callable[[str], TestClient]:
    def make(token: str) -> TestClient:
        client = TestClient(app, raise_server_exceptions=False)
        client.headers["authorization"] = f"Bearer {token}"
        return client

    return make


@pytest.fixture
def lines(signed_in: Enter, program: Callable[[str], TestClient]) -> tuple[TestClient, str]:
    ines = signed_in("ines")
    return program(token_of(ines)), f"/feeds/odata/analyses/{by_line(ines)['id']}"


def asked(lines: tuple[TestClient, str], **options: str) -> list[dict[str, Any]]:
    client, root = lines
    reply = client.get(f"{root}/Numbers", params={f"${name}": value for name, value in options.items()})
    assert reply.status_code == 200, reply.text
    return reply.json()["value"]


def sold(rows: list[dict[str, Any]]) -> list[tuple[str, int | None]]:
    return [(row["Mode"], row["Sold"]) for row in rows]


def test_a_client_of_the_protocol_reads_it(lines: tuple[TestClient, str]) -> None:
    client, root = lines
    session = Session(client)
    service = ODataService(f"http://testserver{root}/", reflect_entities=True, session=session, quiet_progress=True)
    numbers = service.entities["Numbers"]
    found = service.query(numbers).all()
    assert [(each.Mode, each.Line, each.Sold) for each in found] == [
        ("Ferry", "Island ferry", 2), ("Tram", "Shore tram", 4), ("without a line", None, 5),
    ]  # fmt: skip
    trams = service.query(numbers).filter(numbers.Mode == "Tram").all()
    assert [each.Line for each in trams] == ["Shore tram"]
    dearest = service.query(numbers).order_by(numbers.Takings.desc()).limit(1).all()
    assert [each.Mode for each in dearest] == ["Ferry"]


def test_what_it_is_is_described(lines: tuple[TestClient, str]) -> None:
    client, root = lines
    service = client.get(f"{root}/")
    assert service.headers["odata-version"] == "4.01"
    assert service.json()["value"] == [
        {"name": "Numbers", "kind": "EntitySet", "url": "Numbers", "title": "Takings by line"}
    ]
    document = ElementTree.fromstring(client.get(f"{root}/$metadata").content)
    types = {each.get("Name"): each.get("Type") for each in document.iter(f"{EDM}Property")}
    assert types == {
        "Row": "Edm.Int64", "Mode": "Edm.String", "Line": "Edm.String", "Sold": "Edm.Int64", "Takings": "Edm.Decimal",
    }  # fmt: skip
    reply = client.get(f"{root}/Numbers", params={"$count": "true", "$select": "Line,Takings", "$top": "1"})
    assert reply.json() == {
        "@odata.context": f"http://testserver{root}/$metadata#Numbers(Line,Takings)",
        "@odata.count": 3,
        "value": [{"Line": "Island ferry", "Takings": 21.98}],
    }
    assert '"Takings":21.98' in reply.text  # all its digits, and no more
    assert client.get(f"{root}/Numbers/$count", params={"$filter": "Sold gt 2"}).text == "2"


@pytest.mark.parametrize(
    ("condition", "found"),
    [
        ("Mode eq 'Tram'", ["Tram"]),
        ("Mode ne 'Tram'", ["Ferry", "without a line"]),
        ("Sold ge 4 and Sold lt 5", ["Tram"]),
        ("Sold eq 2 or Sold eq 5", ["Ferry", "without a line"]),
        ("not (Sold eq 2)", ["Tram", "without a line"]),
        ("4 le Sold", ["Tram", "without a line"]),
        ("Mode in ('Tram','Ferry')", ["Ferry", "Tram"]),
        ("contains(Line,'tram')", ["Tram"]),
        ("startswith(tolower(Line),'island') or endswith(Mode,'line')", ["Ferry", "without a line"]),
        ("Takings eq 21.98", ["Ferry"]),
        ("Takings gt -1 and Row ge 1", ["Tram", "without a line"]),
        ("Line eq null", ["without a line"]),
        ("Line ne null", ["Ferry", "Tram"]),
        ("Line eq 'it''s'", []),
    ],
)
def test_rows_are_filtered(lines: tuple[TestClient, str], condition: str, found: list[str]) -> None:
    assert [row["Mode"] for row in asked(lines, filter=condition)] == found


def test_rows_are_ordered_skipped_and_paged(lines: tuple[TestClient, str], monkeypatch: pytest.MonkeyPatch) -> None:
    assert sold(asked(lines, orderby="Sold desc")) == [("without a line", 5), ("Tram", 4), ("Ferry", 2)]
    assert sold(asked(lines, orderby="Mode desc,Sold", skip="1", top="1")) == [("Tram", 4)]
    client, root = lines
    monkeypatch.setattr(page.page_of, "__defaults__", (2,))
    first = client.get(f"{root}/Numbers", params={"$orderby": "Sold desc", "$select": "Sold"}).json()
    second = client.get(first["@odata.nextLink"]).json()
    assert [row["Sold"] for row in (*first["value"], *second["value"])] == [5, 4, 2]
    assert "@odata.nextLink" not in second
    # Never more than is asked for, over all pages.
    last = client.get(client.get(f"{root}/Numbers", params={"$top": "3"}).json()["@odata.nextLink"]).json()
    assert (len(last["value"]), "@odata.nextLink" in last) == (1, False)


@pytest.mark.parametrize(
    ("options", "said"),
    [
        ({"$filter": "Mode eq"}, "is not understood"),
        ({"$filter": "Mode eq 3"}, "compares text with a number"),
        ({"$filter": "Color eq 'red'"}, "There is no property “Color”."),
        ({"$filter": "length(Mode) eq 3"}, "not worked out here"),
        ({"$filter": "not " * 900 + "true"}, "longer than"),
        ({"$filter": "not " * 490 + "true"}, ""),
        ({"$orderby": "Mode sideways"}, "is no order"),
        ({"$top": "-1"}, "whole number"),
        ({"$top": "9" * 30}, "whole number"),
        ({"$expand": "Mode"}, "$expand is not taken here."),
        ({"$format": "atom"}, "Only JSON goes out."),
        ({"which": "this"}, "It asks nothing that is called “which”."),
    ],
)
def test_what_is_asked_wrongly_is_told_as_the_protocol_tells_it(
    lines: tuple[TestClient, str], options: dict[str, str], said: str
) -> None:
    client, root = lines
    reply = client.get(f"{root}/Numbers", params=options)
    if not said:
        assert reply.status_code == 200
        return
    assert reply.status_code in (404, 422)
    assert said in reply.json()["error"]["message"]


def test_it_is_read_as_far_as_its_person_may_see(
    signed_in: Enter, program: Callable[[str], TestClient], app: FastAPI
) -> None:
    ines, oda, tomas = (signed_in(each) for each in ("ines", "oda", "tomas"))
    saved = saved_by(ines)
    share(ines, f"analyses/{saved['id']}", to("oda", "see"))
    root = f"/feeds/odata/analyses/{saved['id']}"
    rows = program(token_of(oda)).get(f"{root}/Numbers").json()["value"]
    assert [row["Mode"] for row in rows] == ["Tram"]
    assert program(token_of(tomas)).get(f"{root}/Numbers").status_code == 404
    nobody = TestClient(app).get(f"{root}/Numbers")
    assert (nobody.status_code, nobody.headers["www-authenticate"].split()[0]) == (401, "Basic")


CELLS = "/feeds/odata/models/tickets/Cells"


@pytest.mark.parametrize(
    ("apply", "found"),
    [
        ("groupby((Mode),aggregate(Sold,Sales))", [("Ferry", 2, 2), ("Tram", 4, 2), ("without a line", 5, 2)]),
        ("groupby((Year,Mode),aggregate(Sold))", [
            (2024, "Ferry", 2), (2024, "Tram", 4), (2025, "Ferry", None), (2025, "without a line", 5)]),
        ("groupby((Line),aggregate(Sold))", [("Island ferry", 2), ("Shore tram", 4), ("without a line", 5)]),
        ("filter(Mode eq 'tram' and Year eq 2024)/groupby((Month),aggregate(Sold))", [("Jan 2024", 3), ("Feb 2024", 1)]),
        ("filter(Mode in ('Ferry','Tram'))/aggregate(Takings)", [(25.83,)]),
        ("filter(Seller ne 'Kiosk')/groupby((Seller),aggregate(Sales))", [("Boat", 2)]),
    ],
)  # fmt: skip
def test_a_model_is_asked_for_measures_by_levels(
    signed_in: Enter, program: Callable[[str], TestClient], apply: str, found: list[tuple[object, ...]]
) -> None:
    client = program(token_of(signed_in("ines")))
    reply = client.get(CELLS, params={"$apply": apply})
    assert reply.status_code == 200, reply.text
    rows = [tuple(row.values())[1:] for row in reply.json()["value"]]
    assert [row for row in rows if row[-1] is not None] == [row for row in found if row[-1] is not None]


def test_what_a_model_is_asked_wrongly_is_told_and_rights_hold(
    signed_in: Enter, program: Callable[[str], TestClient]
) -> None:
    client = program(token_of(signed_in("ines")))
    for apply, said in (
        ("groupby((Mode))", "is not understood"),
        ("groupby((Colour),aggregate(Sold))", "There is no level “Colour”."),
        ("groupby((Mode),aggregate(Mood))", "There is no measure “Mood”."),
        ("groupby((Mode,Mode),aggregate(Sold))", "twice"),
        ("filter(Mode eq 'Rocket')/aggregate(Sold)", "No mode is called “Rocket”."),
        ("filter(contains(Mode,'a'))/aggregate(Sold)", "by members alone"),
        ("filter(Mode eq 'Tram' and Line eq 'Hill tram')/aggregate(Sold)", "two things of one hierarchy"),
        ("filter(((((/aggregate(Sold)", "is not understood"),
    ):
        reply = client.get(CELLS, params={"$apply": apply})
        assert (reply.status_code, said in reply.json()["error"]["message"]) == (422, True), reply.text
    assert "measures by levels" in client.get(CELLS).json()["error"]["message"]
    ordered = {"$apply": "groupby((Mode),aggregate(Sold))", "$filter": "Sold gt 2", "$orderby": "Sold desc"}
    assert [row["Sold"] for row in client.get(CELLS, params=ordered).json()["value"]] == [5, 4]
    oda = program(token_of(signed_in("oda")))
    whole = {"$apply": "groupby((Mode),aggregate(Sold))"}
    assert [row["Mode"] for row in oda.get(CELLS, params=whole).json()["value"]] == ["Tram"]
    hidden = oda.get(CELLS, params={"$apply": "filter(Mode eq 'Ferry')/aggregate(Sold)"})
    assert "No mode is called “Ferry”." in hidden.json()["error"]["message"]
    document = ElementTree.fromstring(client.get(CELLS.replace("Cells", "$metadata")).content)
    aggregates = [each.get("Qualifier") for each in document.iter(f"{EDM}Annotation") if each.get("Qualifier")]
    assert aggregates == ["Sold", "Takings", "Sales"]


def test_properties_have_names_of_their_own() -> None:
    captions = ["Row", "Fare revenue", "Fare-revenue", "% of all", "Größe", "Älter", "row"]
    assert identifiers(captions) == ["Row", "Fare_revenue", "Fare_revenue_2", "of_all", "Größe", "_Älter", "row_2"]
