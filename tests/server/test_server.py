"""The server through HTTP: who may do what, every step kept, errors as problem documents."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.core import errors
from dastan.server.errors import STATUS, status_of
from dastan.server.openapi import openapi_document

Enter = Callable[[str], TestClient]
SHOW = {"kind": "put_measure", "measure": "sold"}
BY_LINE = {"kind": "put_dimension", "dimension": "line", "hierarchy": "line", "axis": "rows"}


def begin(client: TestClient) -> dict:
    reply = client.post("/api/drafts", json={"model": "tickets"})
    assert reply.status_code == 201
    return reply.json() | {"ids": {0: reply.json()["shown_step"]}}


def step(client: TestClient, draft: dict, number: int, document: dict, gesture: dict, **more: object) -> dict:
    """Takes a step from step `number` of the trail, which becomes the next."""
    id = uuid4().hex
    body = {"id": id, "parent": draft["ids"][number], "document": document, "gesture": gesture, **more}
    reply = client.post(f"/api/drafts/{draft['id']}/steps", json=body)
    assert reply.status_code == 200, reply.text
    draft["ids"][number + 1] = id
    return reply.json()


def built(client: TestClient) -> tuple[dict, dict]:
    """A draft of Sold by line, and what is shown of it."""
    draft = begin(client)
    shown = step(client, draft, 0, draft["steps"][0]["document"], SHOW)
    return draft, step(client, draft, 1, shown["document"], BY_LINE)


def save(client: TestClient, draft: dict, shown: dict, **more: object) -> dict:
    body = {
        "draft": draft["id"],
        "step": draft["ids"][2],
        "document": shown["document"],
        "name": "Sold by line",
        **more,
    }
    return client.post("/api/analyses", json=body).json()


def test_nothing_is_shown_to_who_is_not_signed_in(app: FastAPI) -> None:
    client = TestClient(app)
    for path in (
        "/api/library",
        "/api/models/tickets/catalogue",
        "/api/drafts/x",
        "/api/people",
        "/api/answers/x/window",
    ):
        reply = client.get(path)
        assert (reply.status_code, reply.json()["code"]) == (403, "signed-out"), path


def test_a_wrong_password_and_a_wrong_name_sound_the_same(app: FastAPI) -> None:
    client = TestClient(app)
    replies = [client.post("/api/session", json={"sign_in": name, "password": "x"}) for name in ("ines", "nobody")]
    assert replies[0].json() == replies[1].json()
    assert replies[0].headers["content-type"] == "application/problem+json"


def test_the_cookie_cannot_be_read_by_scripts_nor_sent_by_other_sites(app: FastAPI) -> None:
    reply = TestClient(app).post("/api/session", json={"sign_in": "ines", "password": "ines-secret"})
    cookie = reply.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie


def test_a_change_without_the_sessions_token_is_refused(signed_in: Enter) -> None:
    client = signed_in("ines")
    client.headers["x-dastan-csrf"] = "guess"
    assert client.post("/api/drafts", json={"model": "tickets"}).status_code == 403


def test_signing_out_ends_the_session(signed_in: Enter) -> None:
    client = signed_in("ines")
    assert client.delete("/api/session").status_code == 204
    assert client.get("/api/library").status_code == 403


def test_the_local_link_signs_its_person_in_and_no_other_does(app: FastAPI) -> None:
    client = TestClient(app)
    assert client.get("/enter/guess", follow_redirects=False).status_code == 403
    assert client.get("/enter/open-sesame", follow_redirects=False).status_code == 303
    assert client.get("/api/session").json()["person"]["id"] == "you"
    assert [each["name"] for each in client.get("/api/library").json()["models"]] == ["tickets"]
    assert TestClient(app).get("/enter/open-sesame", follow_redirects=False).status_code == 403


def test_a_gesture_answers_with_document_sentence_handle_and_window(signed_in: Enter) -> None:
    _, shown = built(signed_in("ines"))
    assert shown["text"] == "Sold by Mode"
    assert shown["words"] == "by Mode"
    assert [each["caption"] for each in shown["answered"]["window"]["rows"]] == [
        "Ferry",
        "Tram",
        "without a line",
        "All lines",
    ]
    assert shown["answered"]["window"]["values"] == [[2], [4], [5], [11]]
    assert shown["answered"]["window"]["total_rows"]["values"] == [[11]]
    assert shown["answered"]["newest"] == "2025-03-02"


def test_windows_are_read_by_handle_and_only_by_who_asked(signed_in: Enter) -> None:
    ines = signed_in("ines")
    _, shown = built(ines)
    path = f"/api/answers/{shown['answered']['handle']}/window?row_start=1&rows=2"
    assert [each["caption"] for each in ines.get(path).json()["rows"]] == ["Tram", "without a line"]
    assert signed_in("tomas").get(path).json()["code"] == "answer-gone"


def test_an_evicted_answer_is_computed_again(app: FastAPI, signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    app.state.server.answers._answers.clear()
    assert client.get(f"/api/answers/{shown['answered']['handle']}/window").json()["total_rows"]["values"] == [[11]]


def test_answers_are_kept_up_to_a_size_and_the_last_in_any_case(
    app: FastAPI, signed_in: Enter, monkeypatch: pytest.MonkeyPatch
) -> None:
    answers = app.state.server.answers
    # What other tests asked is kept too, and what is kept is not put again.
    monkeypatch.setattr(answers, "_answers", OrderedDict())
    monkeypatch.setattr(answers, "_size", 0)
    built(signed_in("ines"))
    assert len(answers._answers) == 2
    monkeypatch.setattr(answers, "_answers", OrderedDict())
    monkeypatch.setattr(answers, "_size", 0)
    monkeypatch.setattr(answers, "_kept_bytes", 1)
    built(signed_in("ines"))
    assert len(answers._answers) == 1


def test_every_step_is_kept_and_a_draft_opens_where_it_was(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    found = client.get(f"/api/drafts/{draft['id']}").json()
    assert [each["words"] for each in found["steps"]] == ["an empty sheet", "Sold", "by Mode"]
    assert found["shown_step"] == found["steps"][2]["id"]
    body = {"step": draft["ids"][1], "document": found["steps"][1]["document"]}
    assert client.post(f"/api/drafts/{draft['id']}/position", json=body).json()["text"] == "Sold"
    assert client.get(f"/api/drafts/{draft['id']}").json()["shown_step"] == draft["ids"][1]
    assert shown["document"] == found["steps"][2]["document"]


def test_a_step_from_an_earlier_one_branches_and_steps_have_names(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, _ = built(client)
    by_line = draft["ids"][2]
    step(
        client, draft, 1, client.get(f"/api/drafts/{draft['id']}").json()["steps"][1]["document"], {"kind": "swap_axes"}
    )
    path = f"/api/drafts/{draft['id']}/steps/{by_line}/name"
    assert client.put(path, json={"name": " by mode "}).status_code == 204
    found = client.get(f"/api/drafts/{draft['id']}").json()
    assert [(each["words"], each["name"]) for each in found["steps"]] == [
        ("an empty sheet", ""), ("Sold", ""), ("by Mode", "by mode"), ("turned", ""),
    ]  # fmt: skip
    assert [each["parent"] for each in found["steps"]][2:] == [draft["ids"][1], draft["ids"][1]]


def test_on_request_a_document_is_arranged_and_kept_without_an_answer(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft = begin(client)
    shown = step(client, draft, 0, draft["steps"][0]["document"], SHOW, is_asked=False)
    shown = step(client, draft, 1, shown["document"], BY_LINE, is_asked=False)
    assert (shown["text"], shown["answered"]) == ("Sold by Mode", None)
    assert save(client, draft, shown)["sentence"] == "Sold by Mode"
    body = {"step": draft["ids"][2], "document": shown["document"]}
    ran = client.post(f"/api/drafts/{draft['id']}/position", json=body).json()
    assert ran["answered"]["window"]["total_rows"]["values"] == [[11]]


def test_on_request_another_look_of_what_is_answered_is_shown_at_once(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    looks = {"kind": "dress_table", "look": "tight"}
    tight = step(client, draft, 2, shown["document"], looks, is_asked=False)
    assert tight["answered"]["window"]["total_rows"]["values"] == [[11]]
    waiting = step(client, draft, 3, tight["document"], {"kind": "swap_axes"}, is_asked=False)
    chart = {"kind": "set_view", "view": "chart"}
    assert step(client, draft, 4, waiting["document"], chart, is_asked=False, was_answered=False)["answered"] is None


def test_a_gesture_that_cannot_be_done_is_a_problem_and_keeps_no_step(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft = begin(client)
    asked = {
        "id": "next",
        "parent": draft["ids"][0],
        "document": draft["steps"][0]["document"],
        "gesture": {"kind": "put_measure", "measure": "solt"},
    }
    reply = client.post(f"/api/drafts/{draft['id']}/steps", json=asked)
    assert reply.status_code == 404
    assert reply.json()["detail"] == "Measure “solt” is not in model “Tickets sold”."
    assert reply.json()["hint"].startswith("Did you mean “sold”")
    assert len(client.get(f"/api/drafts/{draft['id']}").json()["steps"]) == 1


def test_a_name_is_proposed_from_the_sentence(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    assert shown["name"] == "Sold by Mode"
    written = {"question": client.post(
        "/api/models/tickets/words/read", json={"text": "takings and sold by mode for ferry, top 1 modes by sold"}
    ).json()["question"]}  # fmt: skip
    assert step(client, draft, 2, shown["document"], {"kind": "rewrite", **written})["name"] == (
        "Takings and Sold by Mode for Ferry"
    )


def test_a_sentence_is_written_read_and_asked(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft, shown = built(client)
    written = client.post("/api/models/tickets/words/write", json=shown["document"]).json()["text"]
    assert written == "Sold by Mode"
    reading = client.post("/api/models/tickets/words/read", json={"text": "takings by mode for ferry"}).json()
    again = step(client, draft, 2, shown["document"], {"kind": "rewrite", "question": reading["question"]})
    assert (again["text"], again["words"]) == ("Takings by Mode for Ferry (line)", "wrote the sentence")
    wrong = client.post("/api/models/tickets/words/read", json={"text": "takings by lime"}).json()
    assert (wrong["question"], wrong["fault"]["near"][0]) == (None, "Line")
    refused = client.post(
        "/api/models/tickets/words/read", json={"text": "takings by mode against mode", "document": shown["document"]}
    ).json()
    assert refused["refusal"].startswith("Line stands twice in the table")


def test_members_are_listed_by_branch_and_by_search(signed_in: Enter) -> None:
    client = signed_in("ines")
    query = {"dimension": "line", "hierarchy": "line"}
    top = client.post("/api/models/tickets/members", json=query).json()
    assert [each["caption"] for each in top["members"]] == ["Ferry", "Tram", "without a line"]
    below = client.post("/api/models/tickets/members", json={**query, "path": ["Tram"]}).json()
    assert [each["path"] for each in below["members"]] == [["Tram", "T1"], ["Tram", "T2"]]
    found = client.post("/api/models/tickets/members", json={**query, "search": "TRAM"}).json()
    assert [each["caption"] for each in found["members"]] == ["Tram", "Shore tram", "Hill tram"]
    assert client.post("/api/models/tickets/members", json={**query, "path": ["Bus"]}).status_code == 422
    lines = client.post("/api/models/tickets/members", json={**query, "level": "line"}).json()
    assert [each["caption"] for each in lines["members"]] == [
        "Island ferry",
        "Shore tram",
        "Hill tram",
        "without a line",
    ]
    pasted = {"dimension": "line", "hierarchy": "line", "lines": ["shore TRAM ", "T2", "", "Bus 9", "ferry"]}
    matched = client.post("/api/models/tickets/members/match", json=pasted).json()
    assert [each["caption"] for each in matched["members"]] == ["Shore tram", "Hill tram", "Ferry"]
    assert matched["unmatched"] == ["Bus 9"]


def test_the_measure_stands_beside_members_and_those_without_records_come_last(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    query = {"dimension": "line", "hierarchy": "line", "document": shown["document"]}
    top = client.post("/api/models/tickets/members", json=query).json()
    assert [(each["caption"], each["value"]) for each in top["members"]] == [
        ("Ferry", 2), ("Tram", 4), ("without a line", 5),
    ]  # fmt: skip
    trams = {"kind": "members", "dimension": "line", "hierarchy": "line", "members": [["Tram"]]}
    dear = {"kind": "measure", "measure": "sold", "at": [{"dimension": "line", "hierarchy": "line", "level": "line"}],
            "operator": "more", "values": [3]}  # fmt: skip
    document = {**shown["document"], "question": {**shown["document"]["question"], "filters": [trams, dear]}}
    filtered = client.post("/api/models/tickets/members", json={**query, "document": document}).json()
    # The list's own pick does not empty it, the other filter does.
    assert filtered["without_records"] == 1
    assert [each["has_records"] for each in filtered["members"]][-1] is False


def test_what_would_remain_is_counted_before_it_is_done(signed_in: Enter) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    gesture = {
        "kind": "filter_members",
        "dimension": "line",
        "hierarchy": "line",
        "action": "keep",
        "members": [["Tram"]],
    }
    asked = {
        "document": shown["document"],
        "gesture": gesture,
        "dimension": "line",
        "hierarchy": "line",
        "level": "mode",
    }
    assert client.post("/api/models/tickets/remaining", json=asked).json() == {"before": 3, "after": 1}
    limit = {"kind": "set_limit", "dimension": "line", "hierarchy": "line", "level": "mode",
             "limit": {"level": "mode", "amount": 2, "by": {"measure": "sold"}, "others": True}}  # fmt: skip
    assert client.post("/api/models/tickets/remaining", json={**asked, "gesture": limit}).json() == {
        "before": 3,
        "after": 2,
    }


def test_the_catalogue_lists_what_can_be_put_in_and_what_was_noticed(signed_in: Enter) -> None:
    found = signed_in("ines").get("/api/models/tickets/catalogue").json()
    assert [each["caption"] for each in found["folders"][0]["measures"]] == ["Sold", "Takings", "Sales"]
    assert [each["name"] for each in found["dimensions"]] == ["line", "calendar", "seller"]
    assert found["notes"]


def test_an_unknown_model_or_address_is_a_problem(signed_in: Enter) -> None:
    client = signed_in("ines")
    assert client.get("/api/models/ticket/catalogue").json()["hint"] == "Did you mean “tickets”?"
    assert client.get("/api/nowhere").json()["detail"] == "There is nothing at /api/nowhere."


def test_an_unexpected_error_shows_no_internals(
    app: FastAPI, signed_in: Enter, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    client = signed_in("ines")
    monkeypatch.setattr(app.state.server.shelf, "places", lambda: 1 / 0)
    reply = client.get("/api/models/tickets/catalogue")
    assert reply.status_code == 500
    assert "ZeroDivisionError" not in reply.text
    assert reply.json()["hint"].split()[-1].rstrip(".") in caplog.text


def test_every_class_of_error_has_a_status() -> None:
    kinds = [each for each in vars(errors).values() if isinstance(each, type) and issubclass(each, errors.AppError)]
    for kind in kinds:
        if kind is not errors.AppError:
            assert status_of(kind("x")) != 500, kind
    assert set(STATUS.values()) == {422, 404, 409, 403, 413, 503, 429, 401}


def test_many_gestures_at_once_are_all_answered(signed_in: Enter) -> None:
    client = signed_in("ines")
    draft = begin(client)
    document = draft["steps"][0]["document"]
    with ThreadPoolExecutor(8) as pool:
        shown = list(pool.map(lambda _: step(client, draft, 0, document, SHOW), range(40)))
    assert {each["answered"]["window"]["total_rows"]["values"][0][0] for each in shown} == {11}


def test_the_published_description_of_the_server_is_current() -> None:
    """The front end's client is made from it; `make publish` writes both anew."""
    assert json.loads(Path("docs/schema/openapi.json").read_text()) == openapi_document()


def test_a_document_is_answered_by_itself_and_its_handle_serves_as_a_drafts_does(
    signed_in: Callable[[str], TestClient],
) -> None:
    client = signed_in("ines")
    _, shown = built(client)
    drafts = client.get("/api/library").json()["drafts"]
    found = client.post("/api/models/tickets/answers", json=shown["document"]).json()
    assert (found["text"], found["answered"]["window"]) == (shown["text"], shown["answered"]["window"])
    # The same question by the same person is the same answer.
    assert found["answered"]["handle"] == shown["answered"]["handle"]
    assert client.get("/api/library").json()["drafts"] == drafts
    wrong = {**shown["document"], "question": {"measures": [{"measure": "solt"}]}}
    lost = client.post("/api/models/tickets/answers", json=wrong).json()
    assert "solt" in str(lost["lost"])
    assert client.post("/api/models/nothing/answers", json=shown["document"]).status_code == 404
