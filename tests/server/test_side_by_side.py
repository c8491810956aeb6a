"""Two people's questions run side by side: a long one holds up nobody, and can be followed and taken back."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from threading import Event

import pytest
from fastapi.testclient import TestClient

from dastan.core.engine.stopping import check_here
from dastan.core.engine.waist import Groups, Request
from dastan.sources.columnar.column_source import ColumnSource
from tests.server.test_server import SHOW, begin

Enter = Callable[[str], TestClient]


class Long:
    """Questions for the least of something do not end until they are let go."""

    def __init__(self) -> None:
        self.has_begun, self.may_end = Event(), Event()


@pytest.fixture
def long(monkeypatch: pytest.MonkeyPatch) -> Iterator[Long]:
    found = Long()
    group = ColumnSource.group

    def slowly(self: ColumnSource, request: Request) -> Groups:
        if any(each.kind == "min" for each in request.aggregates):
            found.has_begun.set()
            assert found.may_end.wait(30)
            check_here()()
        return group(self, request)

    monkeypatch.setattr(ColumnSource, "group", slowly)
    yield found
    found.may_end.set()


def asked(client: TestClient, draft: dict, gesture: dict, question: str) -> dict:
    """What the server says to a step whose question has a name."""
    body = {"id": f"{question}-step", "parent": draft["shown_step"], "document": draft["steps"][0]["document"],
            "gesture": gesture}  # fmt: skip
    return client.post(f"/api/drafts/{draft['id']}/steps", json=body, params={"question": question}).json()


def test_a_colleague_is_answered_while_a_long_question_runs_and_it_is_taken_back(signed_in: Enter, long: Long) -> None:
    ines, tomas = signed_in("ines"), signed_in("tomas")
    draft, other = begin(ines), begin(tomas)
    # Asked for by nobody before, so that it is not remembered.
    gesture, short = SHOW | {"aggregate": "min"}, SHOW | {"aggregate": "max"}
    with ThreadPoolExecutor(1) as pool:
        reply = pool.submit(asked, ines, draft, gesture, "the-long-one")
        assert long.has_begun.wait(30)
        shown = asked(tomas, other, short, "a-short-one")
        assert not reply.done()
        assert shown["answered"]["window"]["row_count"] == 1
        assert ines.get("/api/questions/the-long-one").json()["total"] >= 1
        assert ines.get("/api/session").status_code == 200
        # Nobody else can follow it or take it back.
        assert tomas.get("/api/questions/the-long-one").status_code == 404
        assert tomas.delete("/api/questions/the-long-one").status_code == 404
        assert ines.delete("/api/questions/the-long-one").status_code == 204
        long.may_end.set()
        assert reply.result(30)["code"] == "cancelled"
    assert ines.get("/api/questions/the-long-one").status_code == 404
