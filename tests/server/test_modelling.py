"""Changing a model over HTTP: steps that are kept, what is seen meanwhile, and the publication, all or nothing."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.people import set_administrator
from tests.server.test_server import built, save
from tests.sources.folder import MODEL

Enter = Callable[[str], TestClient]
AT = "/api/modelling/tickets"
NAMED = {"kind": "describe_dimension", "name": "line", "caption": "Route"}


@pytest.fixture
def app(fresh_app: FastAPI) -> FastAPI:
    return fresh_app


def step(client: TestClient, gesture: dict[str, Any], shown: str | None = None) -> Any:
    return client.post(f"{AT}/steps", json={"gesture": gesture, "shown": shown})


def publish(client: TestClient, shown: str | None) -> Any:
    mark = client.get(f"{AT}/changes").json()["in_use"]
    return client.post(f"{AT}/publish", json={"shown": shown, "in_use": mark})


def test_steps_are_kept_undone_and_taken_again(administrator: TestClient) -> None:
    before = administrator.get(AT).json()
    assert (before["shown"], before["steps"], before["version"]) == (None, [], 0)
    first = step(administrator, NAMED).json()
    assert [each["words"] for each in first["steps"]] == ["called Line “Route”"]
    second = step(administrator, {"kind": "leave_out_measure", "name": "sales"}, first["shown"]).json()
    assert [each["name"] for each in second["model"]["measures"]] == ["sold", "takings"]
    back = administrator.put(f"{AT}/shown", json={"step": first["shown"]}).json()
    assert len(back["model"]["measures"]) == 3
    assert len(back["steps"]) == 2  # what was undone can be done again
    assert administrator.get(AT).json() == back
    other = step(administrator, {"kind": "describe_model", "caption": "Shop"}, first["shown"]).json()
    assert [each["parent"] for each in other["steps"]] == [None, first["shown"], first["shown"]]
    # Nobody has noticed anything yet.
    assert administrator.get("/api/models/tickets/catalogue").json()["dimensions"][0]["caption"] == "Line"
    assert administrator.delete(f"{AT}/draft").json()["steps"] == []


def test_a_step_from_another_than_what_is_shown_is_told(administrator: TestClient) -> None:
    step(administrator, NAMED)
    late = step(administrator, {"kind": "describe_model", "caption": "Shop"}, None)
    assert late.status_code == 409
    assert "Somebody else" in late.json()["detail"]


def test_a_gesture_that_cannot_be_changes_nothing(administrator: TestClient) -> None:
    for gesture, words in (
        ({"kind": "leave_out_dimension", "name": "lines"}, "There is no dimension “lines”"),
        ({"kind": "leave_out_table", "table": "lines"}, "the tram desk"),
        (
            {
                "kind": "put_measure",
                "measure": {
                    "name": "x",
                    "caption": "X",
                    "table": "sales",
                    "aggregate": "sum",
                    "expression": "quantity *",
                },
            },
            "cannot be read",
        ),
        ({"kind": "describe_dimension", "name": "line", "caption": "Line"}, "so already"),
    ):
        refused = step(administrator, gesture)
        assert refused.status_code == 422, refused.text
        assert words in refused.json()["detail"]
    assert administrator.get(AT).json()["steps"] == []
    assert step(administrator, {"kind": "dance"}).status_code == 422


def test_who_may_change_a_model(signed_in: Enter, records_path: Path) -> None:
    for name in ("tomas", "oda"):  # he sees all and administers nothing; she sees the trams
        assert signed_in(name).get(AT).status_code == 403
    connection = connect(records_path)
    set_administrator(connection, "oda", True)
    connection.close()
    # Her tables would show her what her role hides.
    assert signed_in("oda").get(AT).status_code == 403
    assert signed_in("oda").get("/api/modelling/nothing").status_code == 404
    assert not signed_in("tomas").get("/api/models/tickets/catalogue").json()["may_shape"]


def test_what_is_published_is_in_use_and_an_earlier_version_can_be_gone_back_to(
    administrator: TestClient, app: FastAPI
) -> None:
    assert administrator.get("/api/models/tickets/catalogue").json()["may_shape"]
    folder = app.state.server.settings.models[0]
    (folder / "model.yaml").write_text(MODEL.replace("measures:", "# What we count.\nmeasures:"))
    shown = step(administrator, NAMED).json()["shown"]
    changes = administrator.get(f"{AT}/changes").json()
    assert [each["words"] for each in changes["differences"]] == ["Line is called Route."]
    published = publish(administrator, shown)
    assert published.status_code == 200, published.text
    assert (published.json()["version"], published.json()["steps"]) == (2, [])
    text = (folder / "model.yaml").read_text()
    assert "# What we count.\n" in text
    assert text.replace("caption: Route", "caption: Line") == MODEL.replace("measures:", "# What we count.\nmeasures:")
    assert administrator.get("/api/models/tickets/catalogue").json()["dimensions"][0]["caption"] == "Route"
    versions = administrator.get(f"{AT}/versions").json()
    assert [(each["number"], each["words"]) for each in versions] == [
        (2, "Line is called Route."),
        (1, "as it was before"),
    ]
    back = administrator.post(f"{AT}/versions/1/back", json={"shown": None}).json()
    assert back["model"]["dimensions"][0]["caption"] == "Line"
    assert publish(administrator, back["shown"]).status_code == 200
    assert "caption: Line" in (folder / "model.yaml").read_text()


def test_nothing_is_published_over_what_somebody_else_put_there(administrator: TestClient, app: FastAPI) -> None:
    folder = app.state.server.settings.models[0]
    shown = step(administrator, NAMED).json()["shown"]
    mark = administrator.get(f"{AT}/changes").json()["in_use"]
    theirs = MODEL.replace("caption: Seller\n", "caption: Who sold it\n")
    (folder / "model.yaml").write_text(theirs)
    refused = administrator.post(f"{AT}/publish", json={"shown": shown, "in_use": mark})
    assert refused.status_code == 409
    assert (folder / "model.yaml").read_text() == theirs
    assert administrator.get(AT).json()["is_stale"]
    # Whoever looks again sees that theirs would go.
    assert "Who sold it is called Seller." in [
        each["words"] for each in administrator.get(f"{AT}/changes").json()["differences"]
    ]


def test_a_model_that_does_not_fit_its_files_is_not_published(administrator: TestClient, app: FastAPI) -> None:
    measure = {"name": "sold", "caption": "Sold", "table": "sales", "aggregate": "sum", "expression": "amount"}
    shown = step(administrator, {"kind": "put_measure", "measure": measure}).json()["shown"]
    refused = publish(administrator, shown)
    assert refused.status_code == 422
    assert "amount" in refused.text
    assert (app.state.server.settings.models[0] / "model.yaml").read_text() == MODEL
    assert administrator.get(f"{AT}/versions").json() == []
    assert len(administrator.get(AT).json()["steps"]) == 1


def test_a_step_that_somebody_takes_while_it_is_published_is_not_lost(
    administrator: TestClient, app: FastAPI, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown = step(administrator, NAMED).json()["shown"]
    mark = administrator.get(f"{AT}/changes").json()["in_use"]
    workbench = app.state.server.workbench
    tried = workbench.tried

    def slowly(*asked: Any) -> Any:
        found = tried(*asked)
        monkeypatch.undo()
        assert step(administrator, {"kind": "describe_model", "caption": "Shop"}, shown).status_code == 200
        return found

    monkeypatch.setattr(workbench, "tried", slowly)
    refused = administrator.post(f"{AT}/publish", json={"shown": shown, "in_use": mark})
    assert refused.status_code == 409, refused.text
    assert [each["words"] for each in administrator.get(AT).json()["steps"]] == [
        "called Line “Route”",
        "called it “Shop”",
    ]
    assert (app.state.server.settings.models[0] / "model.yaml").read_text() == MODEL


def test_a_full_disk_leaves_everything_as_it_was(
    administrator: TestClient, app: FastAPI, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown = step(administrator, NAMED).json()["shown"]
    mark = administrator.get(f"{AT}/changes").json()["in_use"]

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "replace", full)
    refused = administrator.post(f"{AT}/publish", json={"shown": shown, "in_use": mark})
    assert refused.status_code == 503, refused.text
    assert "No space left" in refused.text
    monkeypatch.undo()
    assert (app.state.server.settings.models[0] / "model.yaml").read_text() == MODEL
    assert administrator.get(f"{AT}/versions").json() == []
    assert administrator.get(AT).json()["shown"] == shown


def test_a_saved_analysis_that_would_break_is_named_and_one_that_would_not_is_counted(
    administrator: TestClient,
) -> None:
    draft, shown = built(administrator)
    saved = save(administrator, draft, shown)
    names = {each["measure"] for each in shown["document"]["question"]["measures"]}
    gone = step(administrator, {"kind": "leave_out_measure", "name": next(iter(names))}).json()["shown"]
    changes = administrator.get(f"{AT}/changes").json()
    assert [(each["name"], each["kind"]) for each in changes["analyses"]] == [(saved["name"], "breaks")]
    administrator.delete(f"{AT}/draft")
    step(administrator, {"kind": "describe_model", "caption": "Shop"})
    changes = administrator.get(f"{AT}/changes").json()
    assert (changes["analyses"], changes["untouched"]) == ([], 1)
    assert gone


def test_what_is_renamed_in_the_text_is_carried_into_saved_analyses(administrator: TestClient) -> None:
    draft, shown = built(administrator)
    saved = save(administrator, draft, shown)
    text = administrator.get(f"{AT}/text").json()["text"]
    assert text == MODEL
    renamed = (
        text.replace("name: sold,", "name: pieces,")
        .replace("measure: sold,", "measure: pieces,")
        .replace("name: takings,", "name: income,")
    )
    taken = administrator.put(f"{AT}/text", json={"text": renamed, "shown": None})
    assert taken.status_code == 200, taken.text
    (affected,) = administrator.get(f"{AT}/changes").json()["analyses"]
    assert affected["kind"] == "follows"
    assert publish(administrator, taken.json()["shown"]).status_code == 200
    opened = administrator.post("/api/drafts", json={"analysis": saved["id"]}).json()
    document = opened["steps"][-1]["document"]
    measures = [each["measure"] for each in document["question"]["measures"]]
    before = [each["measure"] for each in shown["document"]["question"]["measures"]]
    assert measures == [{"sold": "pieces", "takings": "income"}.get(each, each) for each in before]
    assert measures != before


def test_a_text_with_a_fault_says_where(administrator: TestClient) -> None:
    faulty = MODEL.replace("aggregate: count}", "aggregate: cuont}")
    refused = administrator.put(f"{AT}/text", json={"text": faulty, "shown": None})
    assert refused.status_code == 422
    assert "line 43" in refused.json()["details"]["faults"][0]["place"]
    assert administrator.get(AT).json()["steps"] == []


def test_comments_that_somebody_writes_stay_under_later_steps(administrator: TestClient) -> None:
    text = MODEL.replace("filters:", "# Asked for by planning.\nfilters:")
    shown = administrator.put(f"{AT}/text", json={"text": text, "shown": None}).json()["shown"]
    step(administrator, NAMED, shown)
    assert administrator.get(f"{AT}/text").json()["text"] == text.replace("caption: Line\n", "caption: Route\n")


def test_what_is_seen_of_the_tables(administrator: TestClient) -> None:
    look = administrator.get(f"{AT}/tables").json()
    sales = next(each for each in look["tables"] if each["name"] == "sales")
    assert sales["records"] == 6
    line = next(each for each in sales["columns"] if each["name"] == "line")
    assert line["first"] == ["T1", "T1", "F1", "F1", "", "X9"]
    assert (line["profile"]["kind"], line["profile"]["blanks"], line["profile"]["distinct"]) == ("text", 1, 3)
    tie = next(each for each in look["ties"] if each["role"] == "line")
    assert (tie["found"], tie["blank"], tie["unknown"], tie["examples"]) == (4, 1, 1, ["X9"])
    values = administrator.get(f"{AT}/tables/sales/columns/line").json()
    assert values == [{"value": "T1", "records": 2}, {"value": "F1", "records": 2}, {"value": "X9", "records": 1}]
    # One that does not fit its type says so where it stands, and the others are there.
    wrong = step(administrator, {"kind": "type_column", "table": "sales", "column": "seller", "type": "integer"}).json()
    look = administrator.get(f"{AT}/tables").json()
    sales = next(each for each in look["tables"] if each["name"] == "sales")
    seller = next(each for each in sales["columns"] if each["name"] == "seller")
    assert seller["profile"] is None
    assert "Kiosk" in seller["trouble"]
    assert seller["first"][0] == "Kiosk"
    assert wrong["shown"]


def test_a_broken_tie_is_offered_again_and_mended(administrator: TestClient) -> None:
    untied = step(administrator, {"kind": "untie", "table": "sales", "role": "line"}).json()
    look = administrator.get(f"{AT}/tables").json()
    offer = next(each for each in look["offers"] if each["key"].startswith("tie:sales.line"))
    assert offer["says"] == "line points at Lines"
    assert "2 of its 3 values are found there" in offer["because"]
    mended = step(administrator, offer["gesture"], untied["shown"])
    assert mended.status_code == 200, mended.text
    assert [each["role"] for each in mended.json()["model"]["relationships"]] == ["day", "line"]
    administrator.put(f"{AT}/shown", json={"step": untied["shown"]})
    administrator.post(f"{AT}/offers/refused", json={"key": offer["key"]})
    look = administrator.get(f"{AT}/tables").json()
    assert all(each["key"] != offer["key"] for each in look["offers"])
    assert look["refused"] == 1
    administrator.post(f"{AT}/offers/refused", json={})
    assert administrator.get(f"{AT}/tables").json()["refused"] == 0


def trial(client: TestClient, **more: object) -> Any:
    return client.post(f"{AT}/trial", json={"dimension": "line", "hierarchy": "line", "measure": "sold", **more}).json()


def test_members_are_seen_as_they_will_open_and_as_a_role_sees_them(administrator: TestClient) -> None:
    found = trial(administrator)
    # Trams 3 + 1, ferries 2, and 1 + 4 without a line.
    assert [(each["caption"], each["value"]) for each in found["members"]] == [
        ("Ferry", 2),
        ("Tram", 4),
        ("without a line", 5),
    ]
    assert found["total"] == 11
    as_trams = trial(administrator, role="trams")
    assert [(each["caption"], each["value"]) for each in as_trams["members"]] == [("Tram", 4)]
    assert as_trams["total"] == 4
    below = trial(administrator, path=["Tram"])
    assert [(each["caption"], each["value"]) for each in below["members"]] == [("Shore tram", 4), ("Hill tram", None)]
    found = trial(administrator, search="hill")
    assert [each["caption"] for each in found["members"]] == ["Hill tram"]
    # The draft is asked, and not what is in use.
    measure = {"name": "sold", "caption": "Sold", "table": "sales", "aggregate": "max", "expression": "quantity"}
    step(administrator, {"kind": "put_measure", "measure": measure})
    assert trial(administrator)["total"] == 4


def test_tables_stay_where_they_were_put(administrator: TestClient) -> None:
    places = [{"table": "sales", "x": 40.0, "y": 80.5}]
    assert administrator.put(f"{AT}/places", json={"places": places}).status_code == 204
    assert administrator.get(AT).json()["places"] == places
    administrator.put(f"{AT}/places", json={"places": []})
    assert administrator.get(AT).json()["places"] == []


def holders(client: TestClient) -> list[tuple[str, str]]:
    return [(each["role"], each["name"]) for each in client.get(f"{AT}/holders").json()["holders"]]


def test_whoever_shapes_a_model_says_who_may_open_it(administrator: TestClient, signed_in: Enter) -> None:
    assert holders(administrator) == [("", "Ines"), ("", "Tomas"), ("trams", "Oda")]
    assert administrator.post(f"{AT}/holders/taken", json={"person": "tomas"}).status_code == 200
    assert signed_in("tomas").get("/api/models/tickets/catalogue").status_code == 404
    assert administrator.post(f"{AT}/holders", json={"person": "tomas", "role": "trams"}).status_code == 200
    assert signed_in("tomas").get("/api/models/tickets/catalogue").status_code == 200
    assert holders(administrator) == [("", "Ines"), ("trams", "Oda"), ("trams", "Tomas")]
    for sent, status, words in (
        ({"person": "nobody"}, 422, "nobody"), ({"group": "nobody"}, 422, "no such group"),
        ({"person": "tomas", "role": "tram"}, 422, "Did you mean “trams”"), ({}, 422, "either a person or a group"),
        ({"person": "tomas", "group": "x"}, 422, "either a person or a group"),
    ):  # fmt: skip
        refused = administrator.post(f"{AT}/holders", json=sent)
        assert refused.status_code == status, refused.text
        assert words in refused.text
    # Nobody shuts themselves out, and nobody else says who may open it.
    assert administrator.post(f"{AT}/holders/taken", json={"person": "ines"}).status_code == 422
    assert signed_in("tomas").post(f"{AT}/holders", json={"person": "tomas"}).status_code == 403
    assert administrator.post(f"{AT}/holders/taken", json={"person": "tomas"}).status_code == 404


def test_a_role_that_is_not_published_is_given_to_nobody(administrator: TestClient) -> None:
    ferry = {"dimension": "line", "hierarchy": "line", "kind": "members", "members": [["Ferry"]]}
    step(
        administrator,
        {"kind": "put_role", "role": {"name": "ferries", "caption": "the ferry desk", "conditions": [ferry]}},
    )
    refused = administrator.post(f"{AT}/holders", json={"person": "tomas", "role": "ferries"})
    assert refused.status_code == 422
    assert "has no role “ferries”" in refused.text


def test_what_an_analysis_makes_goes_into_the_model_and_is_everybodys_once_published(
    administrator: TestClient, signed_in: Enter
) -> None:
    draft, shown = built(administrator)
    document = shown["document"]
    made = {
        "caption": "Twice sold",
        "formula": {
            "kind": "arithmetic",
            "operator": "+",
            "left": {"kind": "measure", "measure": "sold"},
            "right": {"kind": "measure", "measure": "sold"},
        },
    }
    gesture = {"kind": "make_measure", "made": made}
    asked = {"id": "s-9", "parent": draft["ids"][2], "document": document, "gesture": gesture}
    reply = administrator.post(f"/api/drafts/{draft['id']}/steps", json=asked)
    assert reply.status_code == 200, reply.text
    document = reply.json()["document"]
    name = document["made"][0]["name"]
    sent = {"document": document, "kind": "measure", "name": name}
    assert signed_in("tomas").post(f"{AT}/moved", json=sent).status_code == 403
    assert administrator.post(f"{AT}/moved", json=sent).status_code == 204
    found = administrator.get(AT).json()
    assert [each["words"] for each in found["steps"]] == ["made Twice sold"]
    assert administrator.post(f"{AT}/moved", json=sent).status_code == 422  # it is there already
    assert publish(administrator, found["shown"]).status_code == 200
    captions = [
        one["caption"]
        for each in signed_in("tomas").get("/api/models/tickets/catalogue").json()["folders"]
        for one in each["measures"]
    ]
    assert "Twice sold" in captions
    # In the text its formula is written as people write it.
    assert 'formula: \'"Sold" + "Sold"\'' in administrator.get(f"{AT}/text").json()["text"]


def test_a_joint_member_is_everybodys_once_published_and_tells_nobody_of_members_that_they_may_not_see(
    administrator: TestClient, signed_in: Enter
) -> None:
    both = {"name": "both", "caption": "Water and rails", "dimension": "line", "hierarchy": "line"}
    joint = both | {"members": [["Tram"], ["Ferry"]], "how": "together"}
    less = both | {"name": "less", "caption": "Tram less Ferry", "how": "difference"} | {"members": joint["members"]}
    water = both | {"name": "water", "caption": "Water", "members": [["Ferry"]]}
    shown = None
    for each in (joint, less, water):
        reply = step(administrator, {"kind": "put_joint", "joint": each}, shown)
        assert reply.status_code == 200, reply.text
        shown = reply.json()["shown"]
    assert administrator.get(f"{AT}/conditions").json()["joints"]["both"] == "joins Tram and Ferry"
    assert publish(administrator, shown).status_code == 200
    catalogue = administrator.get("/api/models/tickets/catalogue").json()
    assert [each["says"] for each in catalogue["joints"]] == [
        "joins Tram and Ferry",
        "is Tram less Ferry",
        "joins Ferry",
    ]
    # Trams 4, ferries 2.
    draft, found = built(administrator)
    taken = {"kind": "take_in_joint", "name": "both", "alone": True}
    asked = {"id": "s-9", "parent": draft["ids"][2], "document": found["document"], "gesture": taken}
    reply = administrator.post(f"/api/drafts/{draft['id']}/steps", json=asked)
    assert reply.status_code == 200, reply.text
    document = reply.json()["document"]
    assert "Water and rails" in reply.text
    oda = signed_in("oda")
    seen = oda.get("/api/models/tickets/catalogue").text
    assert "Ferry" not in seen
    assert [each["says"] for each in oda.get("/api/models/tickets/catalogue").json()["joints"]] == ["joins Tram"]
    # Nor does the document that they get, by taking it in or from a colleague; its numbers are of what they see.
    draft, found = built(oda)
    asked = {"id": "s-9", "parent": draft["ids"][2], "document": found["document"], "gesture": taken}
    reply = oda.post(f"/api/drafts/{draft['id']}/steps", json=asked)
    assert reply.status_code == 200, reply.text
    assert "Ferry" not in reply.text
    assert reply.json()["document"]["joints"][0]["members"] == [["Tram"]]
    begun = oda.post("/api/drafts", json={"document": document}).json()
    first = begun["steps"][0]
    position = {"step": first["id"], "document": first["document"]}
    reply = oda.post(f"/api/drafts/{begun['id']}/position", json=position)
    assert reply.json()["document"]["joints"][0]["members"] == [["Tram"]]
    assert "Ferry" not in reply.text
    gone = asked | {"id": "s-10", "gesture": taken | {"name": "less"}}
    assert oda.post(f"/api/drafts/{draft['id']}/steps", json=gone).status_code == 404
