"""Long passes look now and then whether the question that they are for is still wanted."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar

import numpy as np

Check = Callable[[], None]
"""Raises CancelledError once the question was taken back."""

SLICE = 1 << 22
"""Rows that are worked on between two looks: some hundredths of a second."""


def _go_on() -> None:
    """For what nobody can take back."""


_CHECK: ContextVar[Check] = ContextVar("check", default=_go_on)


def check_here() -> Check:
    """The check of the question that this thread is answering; to be called from any thread that works for it."""
    return _CHECK.get()


@contextmanager
def checked_by(check: Check) -> Iterator[None]:
    """Whatever long passes are made inside look at that check."""
    mark = _CHECK.set(check)
    try:
        yield
    finally:
        _CHECK.reset(mark)


def slices(count: int) -> Iterator[slice]:
    """The rows from 0 to before `count`, some at a time, with a look before each.

    Raises: CancelledError, from between two slices, once the question was taken back.
    """
    check = check_here()
    for start in range(0, count, SLICE):
        check()
        yield slice(start, min(start + SLICE, count))


def one_after_another(parts: Sequence[np.ndarray]) -> np.ndarray:
    """Places found part by part, `(n,) int64`, with a look before each part is copied."""
    check, at = check_here(), 0
    found = np.empty(sum(len(each) for each in parts), np.int64)
    for each in parts:
        check()
        found[at : at + len(each)] = each
        at += len(each)
    return found
