"""Threads by what they are for, so that what is quick never waits behind what is slow.

Where a route does not say otherwise it runs in one of a few common threads: it reads and writes some records and is
done. Who asks is found on threads of its own, which never wait for a write. Questions have others, in which most of
them wait to be admitted; so have looks at what was answered, and the checking of passwords.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from functools import partial, wraps
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

from anyio import CapacityLimiter, to_thread

_Result = TypeVar("_Result")


class Lane:
    """So many threads at a time. Used by event loops alone, each of which has threads of its own (a server has one)."""

    def __init__(self, threads: int) -> None:
        self._threads = threads
        self._limiters: WeakKeyDictionary[asyncio.AbstractEventLoop, CapacityLimiter] = WeakKeyDictionary()

    @property
    def _limiter(self) -> CapacityLimiter:
        return self._limiters.setdefault(asyncio.get_running_loop(), CapacityLimiter(self._threads))

    @property
    def waiting(self) -> int:
        """How many wait for a thread."""
        return self._limiter.statistics().tasks_waiting

    async def run(self, work: Callable[..., _Result], *arguments: object) -> _Result:
        """Does it on one of the lane's threads."""
        return await to_thread.run_sync(partial(work, *arguments), limiter=self._limiter)


SHORT_AT_ONCE = 4
"""The threads of what says no lane. One thread at a time runs Python, and the event loop waits for its turn behind all
that want to: with twelve of them it was held for a tenth of a second, with four for a third of that, and everybody was
answered sooner."""
SESSIONS = Lane(2)
"""Who asks, and what they may see."""
QUESTIONS = Lane(64)
"""What may ask the engine. Most of these threads wait: how many run is for the admission to say."""
LOOKS = Lane(32)
"""What is read off an answer that is mostly kept."""
DATABASES = Lane(4)
"""Waiting for databases, which may be slow."""
PASSWORDS = Lane(2)
"""Checking one costs memory and a processor on purpose."""
PROVIDER = Lane(4)
"""Waiting for the provider that people sign on with, which may be slow."""


def in_lane(lane: Lane) -> Callable[[Callable[..., _Result]], Callable[..., Any]]:
    """Makes a route's plain function run on a lane's threads."""

    def decorate(work: Callable[..., _Result]) -> Callable[..., Any]:
        @wraps(work)
        async def run(**arguments: Any) -> _Result:
            return await lane.run(partial(work, **arguments))

        return run

    return decorate
