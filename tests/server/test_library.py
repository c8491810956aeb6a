"""The library: saving, sharing, folders with rights that reach all within them, versions, and the way back."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from dastan.records.database import connect
from dastan.records.groups import put_group, set_members
from tests.server.test_server import BY_LINE, SHOW, begin, built, save, step

Enter = Callable[[str], TestClient]
KEEP_TRAMS: dict = {
    "kind": "filter_members",
    "dimension": "line",
    "hierarchy": "line",
    "action": "keep",
    "members": [["Tram"]],
}


def listed(client: TestClient, part: str = "entries") -> dict[str, dict[str, Any]]:
    """What the library lists there, by id."""
    return {each["id"]: each for each in client.get("/api/library").json()[part]}


def share(client: TestClient, path: str, *grants: dict[str, str]) -> dict[str, Any]:
    reply = client.put(f"/api/{path}/sharing", json={"grants": list(grants)})
    assert reply.status_code == 200, reply.text
    found: dict[str, Any] = reply.json()
    return found


def to(person: str, may: str) -> dict[str, str]:
    return {"person": person, "may": may}


def folder(client: TestClient, name: str, parent: str | None = None) -> str:
    reply = client.post("/api/folders", json={"name": name, "parent": parent})
    assert reply.status_code == 201, reply.text
    id: str = reply.json()["id"]
    return id


def saved_by(client: TestClient, **more: object) -> dict[str, Any]:
    draft, shown = built(client)
    return save(client, draft, shown, **more)


def opened(client: TestClient, saved: dict[str, Any]) -> dict[str, Any]:
    """A draft of a saved analysis, ready for steps."""
    draft = client.post("/api/drafts", json={"analysis": saved["id"]}).json()
    return {**draft, "ids": {number: each["id"] for number, each in enumerate(draft["steps"])}}


def test_saving_sharing_reading_and_copying(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    draft, shown = built(ines)
    saved = save(ines, draft, shown, name="Sold by line")
    assert (saved["sentence"], saved["version"], saved["may"]) == ("Sold by Mode", 1, "manage")
    assert tomas.post("/api/drafts", json={"analysis": saved["id"]}).status_code == 404
    path = f"analyses/{saved['id']}"
    assert tomas.put(f"/api/{path}/sharing", json={"grants": [to("tomas", "manage")]}).status_code == 404
    (granted,) = share(ines, path, to("tomas", "explore"))["granted"]
    assert (granted["name"], granted["may"]) == ("Tomas", "explore")
    assert listed(tomas)[saved["id"]]["owner_name"] == "Ines"
    theirs = tomas.post("/api/drafts", json={"analysis": saved["id"]}).json()
    assert theirs["analysis"]["may"] == "explore"
    over = {"draft": theirs["id"], "step": theirs["shown_step"], "document": shown["document"], "name": "Mine now",
            "analysis": saved["id"], "version": 1}  # fmt: skip
    refused = tomas.post("/api/analyses", json=over)
    assert refused.status_code == 403
    assert "is yours to read and explore but not to change" in refused.json()["detail"]
    assert tomas.delete(f"/api/{path}").status_code == 403
    copy = tomas.post("/api/analyses", json=over | {"analysis": None}).json()
    assert (copy["owner"], copy["id"] != saved["id"]) == ("tomas", True)
    assert listed(ines)[saved["id"]]["name"] == "Sold by line"


def test_who_may_only_look_goes_down_and_answers_and_does_no_more(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines)
    path = f"analyses/{saved['id']}"
    share(ines, path, to("tomas", "see"))
    draft = opened(tomas, saved)
    document = draft["steps"][0]["document"]
    down = {"kind": "open_member", "dimension": "line", "hierarchy": "line", "path": ["Tram"]}
    shown = step(tomas, draft, 0, document, down)
    assert "Shore tram" in [each["caption"] for each in shown["answered"]["window"]["rows"]]
    turned = {"id": "t", "parent": draft["ids"][0], "document": document, "gesture": {"kind": "swap_axes"}}
    refused = tomas.post(f"/api/drafts/{draft['id']}/steps", json=turned)
    assert (refused.status_code, refused.json()["code"]) == (403, "only-seen")
    mine = {"draft": draft["id"], "step": draft["shown_step"], "document": document, "name": "Mine"}
    assert tomas.post("/api/analyses", json=mine).status_code == 403
    assert tomas.post(f"/api/{path}/copy", json={"name": "Mine"}).status_code == 403
    share(ines, path, to("tomas", "explore"))
    assert tomas.post(f"/api/drafts/{draft['id']}/steps", json=turned).status_code == 200
    assert tomas.post(f"/api/{path}/copy", json={"name": "Mine"}).json()["owner"] == "tomas"


def test_what_a_folder_grants_holds_for_all_within_it(signed_in: Enter, records_path: Path) -> None:
    ines, tomas, oda = (signed_in(each) for each in ("ines", "tomas", "oda"))
    connection = connect(records_path)
    put_group(connection, "desk", "The desk")
    set_members(connection, "desk", ["tomas"])
    connection.close()
    outer = folder(ines, "Ridership")
    inner = folder(ines, "By month", outer)
    saved = saved_by(ines, folder=inner)
    assert saved["id"] not in listed(tomas)
    share(ines, f"folders/{outer}", {"group": "desk", "may": "explore"}, to("oda", "see"))
    assert (listed(tomas)[saved["id"]]["may"], listed(oda)[saved["id"]]["may"]) == ("explore", "see")
    assert listed(tomas, "folders")[inner]["parent"] == outer
    # The more of several holds, and why is said.
    share(ines, f"analyses/{saved['id']}", to("oda", "change"))
    assert listed(oda)[saved["id"]]["may"] == "change"
    found = ines.get(f"/api/analyses/{saved['id']}/sharing").json()
    assert [(each["name"], each["may"], each["through"]) for each in found["from_above"]] == [
        ("The desk", "explore", "Ridership"),
        ("Oda", "see", "Ridership"),
    ]
    # Only what is granted on the inner one is seen without the outer one.
    share(ines, f"folders/{outer}")
    share(ines, f"folders/{inner}", to("tomas", "change"))
    theirs = listed(tomas, "folders")
    assert (theirs[inner]["parent"], outer in theirs) == (None, False)
    # Who may change what lies there puts things there, whose owner they are, and which the folder's owner manages.
    own = saved_by(tomas, folder=inner, name="Of Tomas")
    (ines_has,) = tomas.get(f"/api/analyses/{own['id']}/sharing").json()["from_above"]
    assert (ines_has["name"], ines_has["may"], ines_has["through"]) == ("Ines", "manage", "By month")
    assert (listed(ines)[own["id"]]["may"], listed(ines)[own["id"]]["owner"]) == ("manage", "tomas")
    assert tomas.delete(f"/api/folders/{inner}").status_code == 403
    # Named by one who does not see the folder around it, it stays there.
    share(ines, f"folders/{inner}", to("tomas", "manage"))
    named = tomas.put(f"/api/folders/{inner}", json={"name": "Months", "parent": None})
    assert (named.json()["name"], listed(ines, "folders")[inner]["parent"]) == ("Months", outer)
    # Removed with a folder of somebody else's, what is one's own can be brought back by itself.
    share(ines, f"folders/{inner}", to("tomas", "change"))
    assert ines.delete(f"/api/folders/{outer}").status_code == 204
    assert (own["id"] in listed(tomas, "removed"), own["id"] in listed(ines, "removed")) == (True, False)
    assert tomas.post(f"/api/analyses/{own['id']}/back").status_code == 204
    assert listed(tomas)[own["id"]]["folder"] is None
    assert ines.post(f"/api/folders/{outer}/back").status_code == 204
    assert saved["id"] in listed(ines)
    refused = oda.post("/api/folders", json={"name": "Mine", "parent": inner})
    assert refused.status_code == 404


def test_saving_over_what_somebody_else_saved_is_told_with_what_they_changed(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines, name="Both")
    share(ines, f"analyses/{saved['id']}", to("tomas", "change"))
    mine, theirs = opened(ines, saved), opened(tomas, saved)
    before = mine["steps"][0]["document"]
    kept = step(tomas, theirs, 0, before, KEEP_TRAMS)
    again = {"draft": theirs["id"], "step": theirs["ids"][1], "document": kept["document"], "name": "Both",
             "analysis": saved["id"], "version": 1}  # fmt: skip
    assert tomas.post("/api/analyses", json=again).json()["version"] == 2
    turned = step(ines, mine, 0, before, {"kind": "swap_axes"})
    over = {"draft": mine["id"], "step": mine["ids"][1], "document": turned["document"], "name": "Both",
            "analysis": saved["id"], "version": 1}  # fmt: skip
    refused = ines.post("/api/analyses", json=over)
    assert (refused.status_code, refused.json()["code"]) == (409, "saved-since")
    newest, first = ines.get(f"/api/analyses/{saved['id']}/versions").json()
    assert (newest["number"], newest["saved_by"], newest["sentence"]) == (2, "Tomas", "Sold by Mode for Tram (line)")
    assert [(each["side"], each["part"], each["text"]) for each in newest["changes"]] == [
        ("after", "for", "Tram (line)")
    ]
    assert (first["number"], first["saved_by"], first["changes"]) == (1, "Ines", [])
    # Looked at on the own trail, left again, and saved over knowingly.
    look = {"id": "look", "parent": mine["ids"][1]}
    shown = ines.post(f"/api/drafts/{mine['id']}/versions/2", json=look).json()
    assert (shown["text"], shown["words"]) == ("Sold by Mode for Tram (line)", "version 2, as Tomas saved it")
    assert ines.post("/api/analyses", json=over | {"version": 2}).json()["version"] == 3
    back = ines.post(f"/api/analyses/{saved['id']}/versions/2/restore").json()
    assert (back["version"], back["sentence"]) == (4, "Sold by Mode for Tram (line)")
    assert [each["number"] for each in ines.get(f"/api/analyses/{saved['id']}/versions").json()] == [4, 3, 2, 1]
    assert ines.get(f"/api/analyses/{saved['id']}/happenings").json()[0]["about"] == "“Both”, as version 2"
    assert tomas.get(f"/api/analyses/{saved['id']}/happenings").status_code == 403


def test_a_version_shows_a_restricted_reader_nothing_hidden(signed_in: Enter) -> None:
    ines, oda = signed_in("ines"), signed_in("oda")
    draft = begin(ines)
    document = draft["steps"][0]["document"]
    for number, gesture in enumerate((SHOW, BY_LINE, {**KEEP_TRAMS, "members": [["Ferry"]]})):
        document = step(ines, draft, number, document, gesture)["document"]
    body = {"draft": draft["id"], "step": draft["ids"][3], "document": document, "name": "Ferries"}
    saved = ines.post("/api/analyses", json=body).json()
    assert "Ferry" in saved["sentence"]
    share(ines, f"analyses/{saved['id']}", to("oda", "change"))
    own = opened(oda, saved)
    step_body = {"id": "v", "parent": own["ids"][0]}
    for reply in (
        oda.get(f"/api/analyses/{saved['id']}/versions"),
        oda.post(f"/api/drafts/{own['id']}/versions/1", json=step_body),
        oda.post(f"/api/analyses/{saved['id']}/versions/1/restore"),
        oda.get(f"/api/drafts/{own['id']}"),
    ):
        assert reply.status_code == 200, reply.text
        assert "ferry" not in reply.text.lower().replace("ferries", "")
    assert "for Ferry" in listed(ines)[saved["id"]]["sentence"]


def test_an_analysis_without_a_name_is_refused(signed_in: Enter) -> None:
    assert saved_by(signed_in("ines"), name="  ")["code"] == "invalid-request"


def test_a_sentence_is_not_kept_as_a_description_which_all_are_told_alike(signed_in: Enter) -> None:
    ines, oda = signed_in("ines"), signed_in("oda")
    draft = begin(ines)
    document = draft["steps"][0]["document"]
    for number, gesture in enumerate((SHOW, BY_LINE, {**KEEP_TRAMS, "members": [["Ferry"]]})):
        shown = step(ines, draft, number, document, gesture)
        document = shown["document"]
    body = {"draft": draft["id"], "step": draft["ids"][3], "document": document, "name": "Mine"}
    saved = ines.post("/api/analyses", json=body | {"description": shown["text"]}).json()
    assert ("Ferry" in saved["sentence"], saved["description"]) == (True, "")
    share(ines, f"analyses/{saved['id']}", to("oda", "change"))
    assert "Ferry" not in str(listed(oda)[saved["id"]])
    own = opened(oda, saved)
    seen = oda.post(
        f"/api/drafts/{own['id']}/position",
        json={"step": own["shown_step"], "document": own["steps"][0]["document"]},
    ).json()
    over = {"draft": own["id"], "step": own["shown_step"], "document": own["steps"][0]["document"], "name": "Mine",
            "analysis": saved["id"], "version": 1, "description": seen["text"]}  # fmt: skip
    assert oda.post("/api/analyses", json=over).json()["description"] == ""
    written = ines.post("/api/analyses", json=body | {"description": "For the board"}).json()
    assert written["description"] == "For the board"


def test_what_is_deleted_can_be_brought_back_with_its_grants(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    id = saved_by(ines)["id"]
    share(ines, f"analyses/{id}", to("tomas", "explore"))
    assert ines.delete(f"/api/analyses/{id}").status_code == 204
    for each in (ines, tomas):
        assert id not in listed(each)
        assert each.post("/api/drafts", json={"analysis": id}).status_code == 404
    assert (id in listed(ines, "removed"), id in listed(tomas, "removed")) == (True, False)
    assert tomas.post(f"/api/analyses/{id}/back").status_code == 404
    assert ines.post(f"/api/analyses/{id}/back").status_code == 204
    assert (id in listed(tomas), id in listed(ines), id in listed(ines, "removed")) == (True, True, False)
    assert ines.post(f"/api/analyses/{id}/back").status_code == 404


def test_a_folder_goes_with_all_in_it_and_comes_back_with_it(signed_in: Enter) -> None:
    ines = signed_in("ines")
    outer = folder(ines, "Outer")
    inner = folder(ines, "Inner", outer)
    before, within = saved_by(ines, folder=inner)["id"], saved_by(ines, folder=inner)["id"]
    assert ines.delete(f"/api/analyses/{before}").status_code == 204  # by itself, earlier
    assert ines.delete(f"/api/folders/{outer}").status_code == 204
    assert not {outer, inner} & set(listed(ines, "folders"))
    assert within not in listed(ines)
    assert (outer in listed(ines, "removed_folders"), inner in listed(ines, "removed_folders")) == (True, False)
    assert (within in listed(ines, "removed"), before in listed(ines, "removed")) == (False, True)
    # What was removed by itself comes back outermost, for its folder is gone.
    assert ines.post(f"/api/analyses/{before}/back").status_code == 204
    assert listed(ines)[before]["folder"] is None
    assert ines.post(f"/api/folders/{outer}/back").status_code == 204
    assert listed(ines, "folders")[inner]["parent"] == outer
    assert listed(ines)[within]["folder"] == inner


def test_folders_have_names_of_their_own_and_lie_in_no_circle(signed_in: Enter) -> None:
    ines = signed_in("ines")
    outer = folder(ines, "Circle")
    inner = folder(ines, "Within", outer)
    assert ines.post("/api/folders", json={"name": "circle"}).json()["code"] == "conflict"
    assert ines.post("/api/folders", json={"name": "Circle", "parent": outer}).status_code == 201
    refused = ines.put(f"/api/folders/{outer}", json={"name": "Circle", "parent": inner})
    assert (refused.status_code, refused.json()["detail"]) == (422, "“Circle” cannot lie within itself.")
    moved = ines.put(
        f"/api/folders/{inner}", json={"name": "Out", "parent": None, "name_parts": ["who", "what"]}
    ).json()
    assert (moved["name"], moved["parent"], moved["name_parts"]) == ("Out", None, ["who", "what"])


def test_those_who_manage_rename_and_move_an_analysis_and_nobody_else(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines)
    months = folder(ines, "Months")
    path = f"/api/analyses/{saved['id']}"
    share(ines, f"analyses/{saved['id']}", to("tomas", "change"))
    words = {"name": " Sold, again ", "description": "by mode", "folder": months}
    assert tomas.put(f"{path}/words", json=words).status_code == 403
    assert ines.put(f"{path}/words", json={**words, "name": " "}).status_code == 422
    assert ines.put(f"{path}/words", json={**words, "folder": "nowhere"}).status_code == 404
    assert ines.put(f"{path}/words", json=words).status_code == 204
    found = listed(ines)[saved["id"]]
    assert (found["name"], found["description"], found["folder"]) == ("Sold, again", "by mode", months)
    # What it asks is as it was, so whoever has it open saves over it as before; the folder is not Tomas's to see.
    assert (found["version"], listed(tomas)[saved["id"]]["folder"]) == (saved["version"], None)
    theirs = opened(tomas, saved)
    over = {"draft": theirs["id"], "step": theirs["shown_step"], "document": theirs["steps"][0]["document"],
            "name": "Sold, again", "analysis": saved["id"], "version": 1}  # fmt: skip
    assert tomas.post("/api/analyses", json=over).json()["version"] == 2
    assert listed(ines)[saved["id"]]["folder"] == months
    share(ines, f"analyses/{saved['id']}", to("tomas", "manage"))
    assert tomas.put(f"{path}/words", json={**words, "name": "Named by Tomas", "folder": None}).status_code == 204
    assert (listed(ines)[saved["id"]]["name"], listed(ines)[saved["id"]]["folder"]) == ("Named by Tomas", months)
    assert tomas.put(f"{path}/words", json={**words, "folder": folder(tomas, "Of Tomas")}).status_code == 204


@pytest.mark.parametrize(
    "grant", [{"may": "see"}, {"person": "tomas", "group": "desk", "may": "see"}, to("tomas", "own")]
)
def test_a_grant_names_one_person_or_group_and_a_right_that_there_is(signed_in: Enter, grant: dict[str, str]) -> None:
    ines = signed_in("ines")
    path = f"/api/analyses/{saved_by(ines)['id']}/sharing"
    assert ines.put(path, json={"grants": [grant]}).status_code == 422
    for nobody in (to("nobody", "see"), {"group": "nobody", "may": "see"}):
        assert ines.put(path, json={"grants": [nobody]}).json()["code"] == "input"


def test_the_library_says_what_an_analysis_uses_how_it_looks_and_which_are_favourites(signed_in: Enter) -> None:
    ines = signed_in("ines")
    saved = saved_by(ines)
    brief = listed(ines)[saved["id"]]["brief"]
    assert brief["uses"][:2] == ["Sold", "Line"] or {"Sold", "Line"} <= set(brief["uses"])
    assert brief["outline"] == {
        "rows": 1, "columns": 0, "measures": 1, "measures_on": "columns", "view": "table", "form": "bars",
    }  # fmt: skip
    path = f"/api/analyses/{saved['id']}/favourite"
    for _ in range(2):
        assert ines.put(path).status_code == 204
    assert listed(ines)[saved["id"]]["is_favourite"]
    assert ines.delete(path).status_code == 204
    assert not listed(ines)[saved["id"]]["is_favourite"]


def test_an_analysis_tells_who_took_it_away(signed_in: Enter) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    saved = saved_by(ines)
    path = f"analyses/{saved['id']}"
    share(ines, f"{path}", to("tomas", "see"))

    def take(draft: dict, named: dict) -> None:
        place = {"step": draft["shown_step"], "document": draft["steps"][0]["document"]}
        shown = tomas.post(f"/api/drafts/{draft['id']}/position", json=place).json()
        asked = {"dress": {}, "draft": named["id"]}
        assert tomas.post(f"/api/answers/{shown['answered']['handle']}/table.csv", json=asked).status_code == 200

    theirs = opened(tomas, saved)
    take(theirs, theirs)
    take(theirs, opened(ines, saved))  # another's draft names nothing
    found = ines.get(f"/api/{path}/happenings").json()
    assert [(each["kind"], each["person_name"]) for each in found].count(("exported", "Tomas")) == 1
