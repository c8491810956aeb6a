"""One budget over everything that runs: fair between people, nothing waits for ever, and what is taken back leaves."""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from threading import Event

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from dastan.core.engine.watch import Watch
from dastan.core.errors import CancelledError
from dastan.server import admission
from dastan.server.admission import Admission, BusyError
from tests.server.test_server import SHOW, begin, step

Enter = Callable[[str], TestClient]
MB = 2**20


class Runner:
    """Runs questions in threads, and remembers in which order they began; how long they waited counts for nothing, if
    it is not said: some come a few milliseconds before others."""

    def __init__(self, memory_mb: int = 1000, at_once: int = 1, waited: float = 0.0) -> None:
        self.admission = Admission(memory_mb * MB, at_once, waited)
        self.order: list[str] = []
        self.pool = ThreadPoolExecutor(64)
        self.watches: dict[str, Watch] = {}

    def ask(self, name: str, mb: int = 0, until: Event | None = None) -> Future[None]:
        """Asks for one; its person is the first letter of its name. Returns once it waits or runs."""
        watch = self.watches[name] = Watch()

        def run() -> None:
            with self.admission.running(name[0], watch):
                if mb:
                    watch.admit(mb * MB)
                self.order.append(name)
                if until is not None:
                    assert until.wait(20)

        future = self.pool.submit(run)
        for _ in range(2000):
            running, waiting = self.admission.tickets()
            has_grown = any(each.watch is watch and each.wanted >= mb * MB for each in running)
            if future.done() or has_grown or any(each.watch is watch for each in waiting):
                break
            time.sleep(0.002)
        return future


def test_the_person_with_the_fewest_running_comes_first_then_whose_questions_took_the_least_time() -> None:
    runner, go = Runner(), Event()
    first = runner.ask("a0", until=go)
    rest = [runner.ask(each) for each in ("a1", "a2", "a3", "b1", "b2", "c1")]
    time.sleep(0.3)  # so long the first takes, and the others next to nothing
    go.set()
    for each in (first, *rest):
        each.result(20)
    # a asked first and often, and is not served first for it: the others have had no time yet.
    assert runner.order == ["a0", "b1", "c1", "b2", "a1", "a2", "a3"]


@pytest.mark.parametrize(("waited", "order"), [(2.0, ["a0", "a1", "b1"]), (0.0, ["a0", "b1", "a1"])])
def test_who_had_much_comes_before_those_who_come_later_and_later(waited: float, order: list[str]) -> None:
    runner, go = Runner(waited=waited), Event()
    asked = [runner.ask("a0", until=go), runner.ask("a1")]
    time.sleep(0.5)  # so long a0 has run and a1 has waited
    asked.append(runner.ask("b1"))
    go.set()
    for each in asked:
        each.result(20)
    assert runner.order == order


def test_nobody_begins_far_behind(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(admission, "MOST_BEHIND_S", 0.1)
    runner, first, second = Runner(waited=0.0), Event(), Event()
    long = [runner.ask("a0", until=first), runner.ask("b0", until=second)]
    time.sleep(0.6)  # a is so far behind b
    first.set()
    long[0].result(20)
    time.sleep(0.3)  # and b is by now further than a begins
    asked = [runner.ask("b1"), runner.ask("a1")]
    second.set()
    for each in (*long, *asked):
        each.result(20)
    assert runner.order == ["a0", "b0", "a1", "b1"]


def test_nobody_waits_for_what_they_had_while_nobody_else_asked() -> None:
    runner = Runner()
    for name in ("a0", "a1"):  # by themselves, and long
        go = Event()
        alone = runner.ask(name, until=go)
        time.sleep(0.2)
        go.set()
        alone.result(20)
    go = Event()
    asked = [runner.ask("b0", until=go), *(runner.ask(each) for each in ("a2", "b1"))]
    time.sleep(0.2)
    go.set()
    for each in asked:
        each.result(20)
    assert runner.order[2:] == ["b0", "a2", "b1"]


def test_what_runs_at_once_stays_within_the_memory() -> None:
    runner = Runner(memory_mb=1000, at_once=8)
    used, most, lock = 0, 0, threading.Lock()
    chance = random.Random(3)

    def run(person: str, mb: int) -> None:
        nonlocal used, most
        watch = Watch()
        with runner.admission.running(person, watch):
            watch.admit(mb * MB)
            with lock:
                used += mb
                most = max(most, used)
            time.sleep(0.003)
            with lock:
                used -= mb

    with ThreadPoolExecutor(40) as pool:
        asked = [
            pool.submit(run, chance.choice("abcdefg"), chance.choice([40, 100, 400, 900, 5000])) for _ in range(80)
        ]
        for each in asked:
            each.result(60)
    # One that is larger than all there is runs alone.
    assert most == 5000
    assert runner.admission.tickets() == ([], [])


def test_smaller_ones_pass_a_large_one_but_not_for_ever(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(admission, "MOST_PASSED", 3)
    monkeypatch.setattr(admission, "TURN_S", 0.001)
    runner, go = Runner(memory_mb=1000, at_once=3), Event()
    # Beside the large one none of the others has room: none is written down before it, however late its thread wakes.
    done = [runner.ask("a0", mb=600, until=go), runner.ask("b0", mb=950)]
    for number in range(10):
        done.append(runner.ask(f"c{number}", mb=100))
    time.sleep(0.5)  # whoever may pass has passed by then
    before = list(runner.order)
    go.set()
    for each in done:
        each.result(20)
    assert before[0] == "a0"
    assert len([each for each in before if each[0] == "c"]) <= 4  # begun before the large one's turn was over
    assert runner.order.index("b0") < runner.order.index("c9")


def test_what_is_taken_back_leaves_the_queue_and_frees_its_place() -> None:
    runner, go = Runner(), Event()
    first = runner.ask("a0", until=go)
    second, third = runner.ask("b0"), runner.ask("c0")
    assert [runner.admission.place(runner.watches[each]) for each in ("a0", "b0", "c0")] == [None, 1, 2]
    runner.watches["b0"].cancel()
    with pytest.raises(CancelledError):
        second.result(20)
    assert runner.admission.place(runner.watches["c0"]) == 1
    go.set()
    for each in (first, third):
        each.result(20)
    assert runner.order == ["a0", "c0"]


def test_who_asks_too_much_at_once_is_told_and_others_are_not_held_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(admission, "MOST_WAITING_EACH", 3)
    runner, go = Runner(), Event()
    asked = [runner.ask("a0", until=go), *(runner.ask(f"a{number}") for number in (1, 2, 3))]
    with pytest.raises(BusyError):
        runner.ask("a4").result(20)
    asked.append(runner.ask("b0"))
    go.set()
    for each in asked:
        each.result(20)
    assert runner.order == ["a0", "b0", "a1", "a2", "a3"]


def test_a_quick_question_runs_by_itself_and_a_long_one_lets_others_in_beside_it(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(admission, "TURN_S", 0.6)
    runner, go = Runner(at_once=2), Event()
    asked = [runner.ask(name, until=go) for name in ("a1", "b1", "c1")]
    assert runner.order == ["a1"]
    assert [len(each) for each in runner.admission.tickets()] == [1, 2]
    for _ in range(1000):
        if len(runner.order) == 2:
            break
        time.sleep(0.01)
    assert runner.order == ["a1", "b1"]  # a1 goes on, and a third would be one too many however long they take
    time.sleep(1.0)
    assert [len(each) for each in runner.admission.tickets()] == [2, 1]
    go.set()
    for each in asked:
        each.result(20)
    assert runner.order == ["a1", "b1", "c1"]


def test_a_question_that_fails_gives_up_its_place() -> None:
    runner = Runner()
    with pytest.raises(ZeroDivisionError), runner.admission.running("a", Watch()):
        raise ZeroDivisionError
    assert runner.admission.tickets() == ([], [])


def test_it_is_quiet_once_nothing_runs_and_nobody_has_asked_for_a_while(monkeypatch: pytest.MonkeyPatch) -> None:
    runner = Runner()
    assert runner.admission.is_quiet()
    with runner.admission.running("a", Watch()):
        pass
    assert not runner.admission.is_quiet()
    monkeypatch.setattr(admission, "_QUIET_S", 0.0)
    time.sleep(0.001)
    assert runner.admission.is_quiet()
    with runner.admission.running("a", Watch()):
        time.sleep(0.001)
        assert not runner.admission.is_quiet()


def test_taking_back_and_cheap_routes_do_not_wait_behind_questions(app: FastAPI, signed_in: Enter) -> None:
    """Every thread for questions is taken by such as wait for the one that runs; all else is answered at once."""
    server = app.state.server
    ines, tomas = signed_in("ines"), signed_in("tomas")
    draft, document = begin(tomas), {"dastan": "analysis/1", "model": "tickets"}
    held, go = Event(), Event()

    def hold() -> None:
        with server.admission.running("ines", Watch()):
            held.set()
            assert go.wait(30)

    with ThreadPoolExecutor(40) as pool:
        holding = [pool.submit(hold) for _ in range(server.admission.at_once)]
        assert held.wait(20)
        for _ in range(1000):
            if len(server.admission.tickets()[0]) == server.admission.at_once:
                break
            time.sleep(0.01)

        def ask(number: int) -> dict:
            body = {"id": f"s{number}", "parent": draft["ids"][0], "document": document,
                    "gesture": SHOW | {"aggregate": "percentile", "percentile": number}}  # fmt: skip
            reply = tomas.post(f"/api/drafts/{draft['id']}/steps", json=body, params={"question": f"q{number}"})
            return reply.json()

        asked = [pool.submit(ask, number) for number in range(1, 13)]
        for _ in range(1000):
            if len(server.admission.tickets()[1]) == 12:
                break
            time.sleep(0.01)
        assert tomas.get("/api/questions/q3").json()["place"] >= 1
        assert ines.get("/api/session").status_code == 200
        assert tomas.delete("/api/questions/q3").status_code == 204
        assert asked[2].result(20)["code"] == "cancelled"
        go.set()
        for each in holding:
            each.result(20)
        answered = [each.result(30) for number, each in enumerate(asked) if number != 2]
    assert all(each["text"].startswith("") and each["answered"] for each in answered)
    assert step(ines, begin(ines) | {"ids": {0: "x"}}, 0, document, SHOW)["text"] == "Sold"
