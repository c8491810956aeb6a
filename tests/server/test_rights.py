"""What a role hides stays hidden, by whatever door: cells, members, offers, and what colleagues share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.core.engine.size import Budget
from dastan.core.errors import CancelledError
from tests.server.test_server import SHOW, begin, built, save, step

Enter = Callable[[str], TestClient]


@dataclass
class PassedOn:
    """What Ines saved and lets Oda change, who sees trams alone. Wherever Oda looks and saves, no ferry is named."""

    owner: TestClient
    oda: TestClient
    saved: dict
    draft: dict
    document: dict
    """As Oda has it."""
    shown: dict
    """What it shows her."""

    def save(self, gesture: dict, name: str) -> dict:
        """Oda takes a step and saves over it: what her step showed."""
        shown = step(self.oda, self.draft, 0, self.document, gesture)
        body = {"draft": self.draft["id"], "step": self.draft["ids"][1], "document": shown["document"], "name": name,
                "analysis": self.saved["id"], "version": self.saved["version"]}  # fmt: skip
        reply = self.oda.post("/api/analyses", json=body)
        assert reply.status_code == 201
        assert "Ferry" not in reply.text
        return shown

    def whole(self) -> dict:
        """The document as Ines has it now."""
        return self.owner.post("/api/drafts", json={"analysis": self.saved["id"]}).json()["steps"][0]["document"]


def passed_on(signed_in: Enter, owner: TestClient, saved: dict) -> PassedOn:
    owner.put(f"/api/analyses/{saved['id']}/sharing", json={"grants": [{"person": "oda", "may": "change"}]})
    oda = signed_in("oda")
    opened = oda.post("/api/drafts", json={"analysis": saved["id"]})
    first = opened.json()["steps"][0]
    asked = {"step": first["id"], "document": first["document"]}
    again = oda.post(f"/api/drafts/{opened.json()['id']}/position", json=asked)
    (shared,) = [each for each in oda.get("/api/library").json()["entries"] if each["id"] == saved["id"]]
    assert not [each for each in (opened.text, again.text, shared["sentence"]) if "Ferry" in each]
    draft = {"id": opened.json()["id"], "ids": {0: first["id"]}}
    return PassedOn(owner, oda, saved, draft, first["document"], again.json())


def captions(shown: dict) -> list[str]:
    return [each["caption"] for each in shown["answered"]["window"]["rows"]]


def test_a_person_with_a_role_sees_its_records_and_the_sentence_says_so(signed_in: Enter) -> None:
    _, everything = built(signed_in("ines"))
    _, some = built(signed_in("oda"))
    assert captions(everything) == ["Ferry", "Tram", "without a line", "All lines"]
    assert captions(some) == ["Tram"]
    assert some["answered"]["window"]["values"][-1] == [4]
    assert some["text"] == "Sold by Mode, as far as the tram desk may see"
    assert some["answered"]["handle"] != everything["answered"]["handle"]


def test_lists_of_members_and_searches_show_no_more(signed_in: Enter) -> None:
    client = signed_in("oda")
    query = {"dimension": "line", "hierarchy": "line"}
    top = client.post("/api/models/tickets/members", json=query).json()
    assert [each["caption"] for each in top["members"]] == ["Tram"]
    assert client.post("/api/models/tickets/members", json={**query, "search": "ferry"}).json()["count"] == 0
    below = client.post("/api/models/tickets/members", json={**query, "path": ["Ferry"]})
    assert below.status_code == 422


def test_what_was_noticed_in_all_records_is_told_to_who_sees_them_all(signed_in: Enter) -> None:
    assert signed_in("ines").get("/api/models/tickets/catalogue").json()["notes"]
    assert signed_in("oda").get("/api/models/tickets/catalogue").json()["notes"] == []


def test_members_of_a_facts_own_columns_are_those_of_records_that_may_be_seen(signed_in: Enter) -> None:
    """Only kiosks sold tickets for trams; that boats sell tickets is in the hidden records alone."""
    own = {"dimension": "seller", "hierarchy": "seller"}
    for name, sellers in (("ines", ["Boat", "Kiosk"]), ("oda", ["Kiosk"])):
        client = signed_in(name)
        listed = client.post("/api/models/tickets/members", json=own).json()
        assert [each["caption"] for each in listed["members"] if not each["is_nowhere"]] == sellers
        assert (
            client.post("/api/models/tickets/members", json={**own, "search": "boat"}).json()["count"]
            == len(sellers) - 1
        )
        matched = client.post("/api/models/tickets/members/match", json={**own, "lines": ["Boat"]}).json()
        assert len(matched["members"]) == len(sellers) - 1
        typed = client.post("/api/models/tickets/words/read", json={"text": "Sold for B"}).text
        assert ("Boat" in typed) == (len(sellers) == 2)
        draft = begin(client)
        document = draft["steps"][0]["document"]
        alone = step(client, draft, 0, document, {"kind": "put_dimension", **own, "axis": "rows"})
        assert [each for each in captions(alone) if not each.startswith(("All", "without"))] == sellers
        measured = step(client, draft, 1, alone["document"], SHOW)
        shown = step(client, draft, 2, measured["document"], {"kind": "show_all_members", **own, "is_shown": True})
        assert [each for each in captions(shown) if not each.startswith(("All", "without"))] == sellers


def test_the_newest_day_is_that_of_records_that_may_be_seen(signed_in: Enter) -> None:
    newest = [built(signed_in(name))[1]["answered"]["newest"] for name in ("ines", "oda")]
    assert newest == ["2025-03-02", "2024-02-05"]


def test_a_refusal_tells_no_counts_of_what_is_hidden(
    signed_in: Enter, app: FastAPI, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(app.state.server.answers, "_budget", Budget(cells=0))
    said = []
    for name in ("ines", "oda"):
        client = signed_in(name)
        draft = begin(client)
        body = {"id": "one", "parent": draft["ids"][0], "document": draft["steps"][0]["document"],
                "gesture": SHOW | {"aggregate": "max"}}  # fmt: skip
        said.append(client.post(f"/api/drafts/{draft['id']}/steps", json=body).json())
    assert [each["code"] for each in said] == ["too-large", "too-large"]
    assert said[0]["details"]["cells"] == 1
    assert (said[1]["detail"], said[1]["details"]) == ("This question is too large.", {})
    assert not any(each.isdigit() for each in said[1]["hint"])


def test_offers_and_steps_name_no_hidden_member(signed_in: Enter) -> None:
    client = signed_in("oda")
    draft, shown = built(client)
    thing = {"kind": "member", "dimension": "line", "hierarchy": "line", "path": ["Ferry"]}
    offers = client.post("/api/models/tickets/offers", json={"document": shown["document"], "thing": thing}).json()
    assert any("Ferry (not in the data)" in each["words"] for each in offers["offers"])
    keep = {
        "kind": "filter_members",
        "dimension": "line",
        "hierarchy": "line",
        "action": "keep",
        "members": [["Ferry"]],
    }
    assert "Ferry (not in the data)" in step(client, draft, 2, shown["document"], keep)["text"]


def test_what_a_colleague_shares_is_computed_anew_with_the_readers_rights(signed_in: Enter) -> None:
    owner = signed_in("ines")
    draft, shown = built(owner)
    keep = {
        "kind": "filter_members",
        "dimension": "line",
        "hierarchy": "line",
        "action": "leave_out",
        "members": [["Ferry"]],
    }
    shown = step(owner, draft, 2, shown["document"], keep)
    saved = save(owner, draft, shown)
    owner.put(f"/api/analyses/{saved['id']}/sharing", json={"grants": [{"person": "oda", "may": "explore"}]})
    reader = signed_in("oda")
    opened = reader.post("/api/drafts", json={"analysis": saved["id"]}).json()
    body = {"step": opened["shown_step"], "document": opened["steps"][0]["document"]}
    again = reader.post(f"/api/drafts/{opened['id']}/position", json=body).json()
    assert captions(again) == ["Tram"]
    listed = {each["id"]: each["sentence"] for each in reader.get("/api/library").json()["entries"]}
    assert "without a member that you do not see (line)" in listed[saved["id"]]
    assert reader.get(f"/api/answers/{shown['answered']['handle']}/window").status_code == 404


def test_a_restricted_colleague_sees_no_hidden_key_and_rewrites_none(signed_in: Enter) -> None:
    """Oda sees trams alone. Whatever she saves keeps the ferries that she does not see, and their names."""
    owner = signed_in("ines")
    draft, shown = built(owner)
    only: dict = {"kind": "filter_members", "dimension": "line", "hierarchy": "line", "action": "keep"}
    for number, gesture in enumerate((
        only | {"members": [["Ferry"], ["Tram", "T1"]]},
        {"kind": "open_member", "dimension": "line", "hierarchy": "line", "path": ["Ferry"]},
        {"kind": "put_dimension", "dimension": "calendar", "hierarchy": "calendar", "axis": "columns"},
    ), 2):  # fmt: skip
        shown = step(owner, draft, number, shown["document"], gesture)
    saved = save(owner, draft, shown)
    hers = passed_on(signed_in, owner, saved)
    told = "Sold by Mode › Line against Year for Shore tram and a member that you do not see"
    assert hers.shown["text"].startswith(told)
    assert captions(hers.shown)[:1] == ["Tram"]
    hidden = [each for each in hers.document["question"]["filters"][0]["members"] if each != ["Tram", "T1"]]
    assert len(hidden) == 1
    changed = hers.save(only | {"members": [["Tram"]]}, "Sold by line")
    assert changed["document"]["question"]["filters"][0]["members"] == [["Tram"], *hidden]
    listed = {each["id"]: each["sentence"] for each in owner.get("/api/library").json()["entries"]}
    assert listed[saved["id"]] == "Sold by Mode › Line against Year for Tram and Ferry (line)"
    whole = hers.whole()
    assert whole["question"]["filters"][0]["members"] == [["Tram"], ["Ferry"]]
    assert whole["openings"][0]["open"] == [["Ferry"]]


def test_a_change_on_a_member_that_a_colleague_does_not_see_names_it_nowhere_and_is_kept(signed_in: Enter) -> None:
    """Ines compares with the ferries and orders by it; Oda, who sees trams alone, turns the table and saves."""
    owner = signed_in("ines")
    draft, shown = built(owner)
    view = {"kind": "change", "on": "member", "dimension": "line", "hierarchy": "line", "path": ["Ferry"]}
    on_ferries = {"measure": "sold", "view": view}
    for number, gesture in enumerate((
        {"kind": "put_measure", **on_ferries},
        {"kind": "set_order", "dimension": "line", "hierarchy": "line", "order": {"by": "measure", "measure": on_ferries}},
        {"kind": "dress_numbers", "numbers": {"measure": on_ferries, "pattern": "0 %"}},
    ), 2):  # fmt: skip
        shown = step(owner, draft, number, shown["document"], gesture)
    assert shown["text"].startswith("Sold and its change in per cent on Ferry by Mode")
    saved = save(owner, draft, shown, step=draft["ids"][5])
    hers = passed_on(signed_in, owner, saved)
    told = "Sold and its change in per cent on a member that you do not see by Mode"
    assert hers.shown["text"].startswith(told)
    hers.save({"kind": "swap_axes"}, "Sold by line")
    whole = hers.whole()
    assert whole["question"]["measures"][1]["view"]["path"] == ["Ferry"]
    assert whole["question"]["columns"][0]["order"]["measure"]["view"]["path"] == ["Ferry"]
    assert whole["dress"]["numbers"][0]["measure"]["view"]["path"] == ["Ferry"]


def test_a_slice_by_a_member_that_a_colleague_does_not_see_names_it_nowhere_and_is_kept(signed_in: Enter) -> None:
    owner = signed_in("ines")
    draft, shown = built(owner)
    asked = {"document": shown["document"], "text": 'sold - (sold only "Mode" = "Ferry")'}
    read = owner.post("/api/models/tickets/formula/read", json=asked).json()
    assert (read["aloud"], read["fault"]) == ("Sold less Sold, of Ferry only", None)
    made = {"caption": "Ashore", "formula": read["expression"]}
    shown = step(owner, draft, 2, shown["document"], {"kind": "make_measure", "made": made})
    assert shown["made"][0]["text"] == '"Sold" - ("Sold" only "Mode" = "Ferry")'
    saved = save(owner, draft, shown, step=draft["ids"][3])
    hers = passed_on(signed_in, owner, saved)
    assert hers.shown["made"][0]["text"] == '"Sold" - ("Sold" only "Mode" = "a member that you do not see")'
    assert hers.shown["text"].startswith(
        "Sold and Ashore by Mode, where Ashore is Sold less Sold, of a member that you do not see only"
    )
    # To her no ferry was ever sold, so nothing is less.
    assert hers.shown["answered"]["window"]["values"][0] == [4, 4]
    for text in ('sold only "Mode" = "Ferry"', 'sold only "Mode" = "'):
        asked = {"document": hers.document, "text": text, "cursor": len(text)}
        assert "Ferry" not in hers.oda.post("/api/models/tickets/formula/complete", json=asked).text
    hers.save({"kind": "swap_axes"}, "Ashore")
    whole = hers.whole()
    assert whole["made"][0]["formula"]["right"]["conditions"][0]["members"] == [["Ferry"]]


def test_joined_members_that_a_colleague_does_not_see_are_named_nowhere_and_kept(signed_in: Enter) -> None:
    owner = signed_in("ines")
    draft, shown = built(owner)
    joint = {"caption": "Both", "dimension": "line", "hierarchy": "line", "members": [["Tram"], ["Ferry"]]}
    shown = step(owner, draft, 2, shown["document"], {"kind": "make_joint", "joint": joint, "alone": True})
    assert shown["text"] == "Sold by Mode, with Both in place of Tram and Ferry (line)"
    assert captions(shown) == ["Both", "without a line", "All lines"]
    saved = save(owner, draft, shown, step=draft["ids"][3])
    hers = passed_on(signed_in, owner, saved)
    assert hers.shown["text"].startswith("Sold by Mode, with Both in place of Tram and a member that you do not see")
    # To her it holds the trams alone, as many as she sees of them.
    assert captions(hers.shown) == ["Both"]
    assert hers.shown["answered"]["window"]["values"][0] == [4]
    for route, more in (
        ("made", {}),
        ("offers", {"thing": {"kind": "member", "dimension": "line", "hierarchy": "line", "path": ["joint:both"]}}),
    ):
        body = {"document": hers.document, **more} if more else hers.document
        assert "Ferry" not in hers.oda.post(f"/api/models/tickets/{route}", json=body).text
    hers.save({"kind": "swap_axes"}, "Both")
    whole = hers.whole()
    assert whole["joints"][0]["members"] == [["Tram"], ["Ferry"]]
    assert whole["question"]["filters"][0]["members"] == [["Tram"], ["Ferry"]]


def test_the_records_of_each_term_of_a_view_can_be_listed_and_downloaded(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    put = {"kind": "put_measure", "measure": "sold", "view": {"kind": "share", "of": "whole"}}
    shown = step(client, draft, 2, shown["document"], put)
    path = f"/api/answers/{shown['answered']['handle']}"
    cell = {"row": 0, "column": 1}
    operands = client.get(f"{path}/paper", params=cell).json()["account"]["operands"]
    assert [each["caption"] for each in operands] == ["Sold", "Sold of the whole"]
    counts = [client.get(f"{path}/records", params=cell | {"part": each["name"]}).json()["total"] for each in operands]
    assert counts == [each["records"] for each in operands]
    assert 0 < counts[0] < counts[1]
    lines = client.get(f"{path}/records.csv", params=cell | {"part": operands[1]["name"]}).text.strip().splitlines()
    assert len(lines) == counts[1] + 1
    assert len(client.get(f"{path}/source", params=cell).json()) == 1


def test_a_ready_made_filter_that_asks_is_answered_and_then_shown(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    put = {"kind": "put_filter", "condition": {"kind": "ready", "name": "big_lines"}}
    body = {"id": "next", "parent": draft["ids"][2], "document": shown["document"], "gesture": put}
    asked = client.post(f"/api/drafts/{draft['id']}/steps", json=body)
    assert (asked.status_code, asked.json()["code"]) == (422, "prompt-unanswered")
    assert asked.json()["details"] == {"prompt": "big_from"}
    catalogue = client.get("/api/models/tickets/catalogue").json()
    assert [each["name"] for each in catalogue["prompts"]] == ["big_from"]
    document = {**shown["document"], "question": {**shown["document"]["question"], "filters": [put["condition"]]}}
    answer = {"kind": "answer_prompt", "answer": {"prompt": "big_from", "values": [3]}}
    answered = step(client, draft, 2, document, answer)
    # The shore tram sold four, the ferries two: without a line does not count as a line that sold more than three.
    assert "lines with more than 3 Sold" in answered["text"]
    assert answered["answered"]["window"]["values"][-1] == [9]


def test_a_question_can_be_asked_after_and_taken_back_only_by_who_asked(signed_in: Enter, app: object) -> None:
    server = app.state.server  # type: ignore[attr-defined]
    with server.questions.asked("ines", "mine") as watch:
        watch.expect(4)
        watch.note_done()
        assert signed_in("ines").get("/api/questions/mine").json() == {"done": 1, "total": 4, "place": None}
        assert signed_in("tomas").get("/api/questions/mine").status_code == 404
        assert signed_in("tomas").delete("/api/questions/mine").status_code == 404
        assert signed_in("ines").delete("/api/questions/mine").status_code == 204
        client = signed_in("ines")
        draft = begin(client)
        with pytest.raises(CancelledError):
            watch.check()
    assert signed_in("ines").get("/api/questions/mine").status_code == 404
    assert step(client, draft, 0, draft["steps"][0]["document"], SHOW)["text"] == "Sold"


def test_an_answer_is_kept_once_for_all_with_the_same_rights_under_handles_of_their_own(
    app: FastAPI, signed_in: Enter
) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    _, one = built(ines)
    kept = app.state.server.answers.size_bytes
    _, other = built(tomas)
    assert app.state.server.answers.size_bytes == kept
    assert one["answered"]["window"] == other["answered"]["window"]
    own, theirs = one["answered"]["handle"], other["answered"]["handle"]
    assert own != theirs
    assert tomas.get(f"/api/answers/{own}/window").status_code == 404
    assert tomas.get(f"/api/answers/{theirs}/window").status_code == 200


def test_a_list_by_a_rule_is_of_what_its_reader_may_see(signed_in: Enter) -> None:
    """The same list of the same analysis: ferries are on it for whoever sees them, and nowhere else."""
    made = {"caption": "All of them", "dimension": "line", "hierarchy": "line", "level": "mode"}
    largest = made | {"ranked": {"measure": "sold", "amount": 1, "side": "smallest"}}
    document = {"dastan": "analysis/1", "model": "tickets"}
    chosen = made | {"level": None, "members": [["Ferry"], ["Tram"]]}
    for name, everyone, smallest in (("ines", ["Ferry", "Tram"], ["Ferry"]), ("oda", ["Tram"], ["Tram"])):
        client = signed_in(name)
        read = [
            client.post("/api/models/tickets/lists/read", json={"document": document, "made": each}).json()
            for each in (made, largest, chosen)
        ]
        assert [each["captions"] for each in read] == [everyone, smallest, everyone]
        assert [each["count"] for each in read] == [len(everyone), 1, len(everyone)]
        assert ("Ferry" in read[2]["says"]) == (name == "ines")
