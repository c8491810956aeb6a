"""Which questions run and which wait: one budget of memory and processors over everything, fair between people.

A question begins with a small share, in which it finds out how large it is. A larger one then asks for what it needs,
and waits until that is free. Of those that wait, the person comes first who has the fewest running, then whose
questions have taken the least time while others asked too, and the time that one waits counts against that: what took
long once is not passed for ever by all that is short. What does not fit yet lets smaller ones pass, but not for ever.
One that has just begun runs by itself for a moment: one processor at a time runs Python, so that many that begin
together are all slower than one after the other. One that goes on spends its time in compiled loops, and lets others in
beside it. Safe for threads: everything is looked at and changed under one lock. Whoever leaves lets in whom there is
room for then, and wakes nobody else: with many that wait, waking all of them to look took longer than their questions.
"""

from __future__ import annotations

import time
from collections import Counter, OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from itertools import count
from threading import Event, Lock

from dastan.core.engine.watch import Watch
from dastan.core.errors import LimitError
from dastan.server.memory import give_back

SMALL_BYTES = 32 * 2**20
"""What every question may use before it knows how large it is."""
LARGE_BYTES = 256 * 2**20
"""Of a question as large, memory is given back to the system once it has ended."""
MOST_WAITING_EACH = 16
MOST_WAITING = 240
MOST_BEHIND_S = 5.0
"""Nobody begins further behind than this whose questions have taken the least time."""
MOST_PASSED = 200
"""So many smaller ones may pass a question that waits for room; then they wait for it."""
TURN_S = 0.005
"""So long a question runs by itself."""
_LOOK_S = 0.25
_QUIET_S = 1.0
_NUMBERS = count(1)
"""Of tickets, wherever they wait."""
_REMEMBERED = 10_000
"""So many people are remembered with the time that their questions took."""


class BusyError(LimitError):
    """Too much is waiting already."""

    code = "busy"


@dataclass(eq=False)
class Ticket:
    """One question's place: waiting, or running with so many bytes."""

    person: str
    words: str
    wanted: int = SMALL_BYTES
    held: int = 0
    is_running: bool = False
    started: float = 0.0
    """When it was let in last."""
    came: float = 0.0
    """When it began to wait last."""
    passed: int = 0
    watch: Watch = field(default_factory=Watch)
    gate: Event = field(default_factory=Event)
    """Open while it runs."""
    number: int = 0
    """By which an administrator ends it."""
    began: float = field(default_factory=time.monotonic)

    @property
    def seconds(self) -> float:
        """How long it has been there."""
        return time.monotonic() - self.began


class Admission:
    """Args: `memory_bytes` for all questions together, of which `at_once` run at a time; a second that one waits counts
    as `waited` seconds less that its person's questions took."""

    def __init__(self, memory_bytes: int, at_once: int, waited: float = 0.1) -> None:
        self.memory_bytes = memory_bytes
        self.at_once = at_once
        self._waited = waited
        self._lock = Lock()
        self.last_asked = float("-inf")
        """When somebody asked last, by `time.monotonic`."""
        self._waiting: list[Ticket] = []
        self._running: list[Ticket] = []
        self._spent: OrderedDict[str, float] = OrderedDict()
        """The seconds that each person's questions have run; only the differences between those who ask matter."""
        self._floor = self._most = 0.0
        """The least of those who asked when somebody last came, and the most of anybody."""

    @contextmanager
    def running(self, person: str, watch: Watch, words: str = "") -> Iterator[None]:
        """Runs a question inside once there is room for it. Its watch may ask for more, and may take it back while it
        waits. Raises BusyError, CancelledError."""
        if watch.is_admitted:  # a part of a question that runs
            yield
            return
        ticket = Ticket(person, words, watch=watch, number=next(_NUMBERS))
        self._wait(ticket)
        watch.on_size(lambda wanted: self._grow(ticket, wanted))
        try:
            yield
        finally:
            watch.on_size(None)
            was_large = ticket.wanted >= LARGE_BYTES
            self._leave(ticket)
            if was_large:
                give_back()

    def tickets(self) -> tuple[list[Ticket], list[Ticket]]:
        """What runs now, and what waits, in the order in which it will run."""
        with self._lock:
            return list(self._running), self._in_order()

    def is_quiet(self) -> bool:
        """Whether nothing runs or waits, and nobody has asked for a while."""
        return time.monotonic() - self.last_asked > _QUIET_S and not any(self.tickets())

    def place(self, watch: Watch) -> int | None:
        """The place in the queue of the question that a watch follows, from 1 on; None where it does not wait."""
        with self._lock:
            return next((at for at, each in enumerate(self._in_order(), 1) if each.watch is watch), None)

    def _grow(self, ticket: Ticket, wanted: int) -> None:
        """Waits until a question may have as much as it needs. It gives up what it has meanwhile."""
        if wanted <= ticket.held:
            return
        self._leave(ticket)
        ticket.wanted = min(wanted, self.memory_bytes)
        self._wait(ticket)

    def _wait(self, ticket: Ticket) -> None:
        with self._lock:
            if sum(each.person == ticket.person for each in self._waiting) >= MOST_WAITING_EACH:
                raise BusyError("Many questions of yours are waiting already.", "Wait for them, or take some back.")
            if len(self._waiting) >= MOST_WAITING:
                raise BusyError("Very many questions are waiting just now.", "Try again in a moment.")
            self._begin(ticket.person)
            ticket.came = self.last_asked = time.monotonic()
            self._waiting.append(ticket)
            self._let_in()
            pause = self._pause()
        try:
            while not ticket.gate.wait(pause):
                ticket.watch.check()
                with self._lock:
                    self._let_in()
                    pause = self._pause()
        except BaseException:
            self._leave(ticket)
            raise

    def _pause(self) -> float:
        """How long one that waits does so before it looks whether a turn is over: the more wait, the more look."""
        return min(TURN_S * max(len(self._waiting), 1), _LOOK_S)

    def _begin(self, person: str) -> None:
        """Counts the time of a person's questions from what the least among those has had who ask now, and from the
        most that anybody has had where nobody asks: nobody is ahead for what was long ago, nor far behind."""
        asking = {each.person for each in (*self._running, *self._waiting)}
        if person not in asking:
            self._floor = max(self._floor, min((self._spent[each] for each in asking), default=self._most))
            spent = max(self._spent.get(person, 0.0), self._floor)
            self._spent[person] = min(spent, self._floor + MOST_BEHIND_S)
        self._spent.move_to_end(person)
        while len(self._spent) > _REMEMBERED and next(iter(self._spent)) not in asking:
            self._spent.popitem(last=False)

    def _leave(self, ticket: Ticket) -> None:
        """Gives up the place of one that runs or waits, to whom there is room for now."""
        with self._lock:
            if ticket.is_running:
                self._running.remove(ticket)
                self._spent[ticket.person] += time.monotonic() - ticket.started
                self._most = max(self._most, self._spent[ticket.person])
            elif ticket in self._waiting:  # one that was taken back while it waited for more has left already
                self._waiting.remove(ticket)
            ticket.held, ticket.is_running = 0, False
            ticket.gate.clear()
            self._let_in()

    def _let_in(self) -> None:
        while self._has_room() and (ticket := self._next()) is not None:
            self._waiting.remove(ticket)
            self._running.append(ticket)
            ticket.held, ticket.is_running, ticket.started = ticket.wanted, True, time.monotonic()
            ticket.gate.set()

    def _has_room(self) -> bool:
        begun = time.monotonic() - TURN_S
        return len(self._running) < self.at_once and all(each.started <= begun for each in self._running)

    def _next(self) -> Ticket | None:
        """Whose turn it is, if there is room for anybody. Those for which there is none yet remember how often they are
        passed; once that is too often, everybody waits for them."""
        too_large = [each for each in self._waiting if not self._fits(each)]
        if any(each.passed >= MOST_PASSED for each in too_large):
            return None
        found = next((each for each in self._in_order() if each not in too_large), None)
        if found is not None:
            for each in too_large:
                each.passed += 1
        return found

    def _fits(self, ticket: Ticket) -> bool:
        used = sum(each.held for each in self._running)
        return not self._running or used + ticket.wanted <= self.memory_bytes

    def _in_order(self) -> list[Ticket]:
        """Those that wait, whose turn it is first: who was passed too often, then by person; of one person, in the
        order in which they came."""
        running = Counter(each.person for each in self._running)
        ahead: Counter[str] = Counter()
        keys, now = [], time.monotonic()
        for at, each in enumerate(self._waiting):
            is_passed = each.passed >= MOST_PASSED
            spent = self._spent[each.person] - self._waited * (now - each.came)
            keys.append((not is_passed, running[each.person] + ahead[each.person], spent, at))
            ahead[each.person] += 1
        return [self._waiting[key[-1]] for key in sorted(keys)]
