"""Counts different values exactly, from records in order of value."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from threading import Lock

import numpy as np

from dastan.core.engine import block_kernels
from dastan.core.engine.stopping import check_here
from dastan.sources import blocks, scan
from dastan.sources.blocks import Level, Test


def count_distinct(codes: np.ndarray, levels: Sequence[Level], tests: Sequence[Test]) -> tuple[np.ndarray, np.ndarray]:
    """Which possible groups have records that pass, `(room,) bool`, and how many different codes, `(room,) int64`.

    Args: `codes` are `(n,) int32` in ascending order, blanks negative; those of the levels and tests stand in the same
        order, so that no block is skipped.
    Each worker takes a range of codes of its own, so that what they count adds up.
    """
    room = int(np.prod([each.size for each in levels], dtype=np.int64))
    if not levels and not tests:
        known = codes[np.searchsorted(codes, np.int32(0)) :]
        different = int(np.count_nonzero(known[1:] != known[:-1])) + (len(known) > 0)
        return np.array([len(codes) > 0]), np.array([different])
    # No code is cut in two: where it begins, a worker begins.
    places = [part * len(codes) // blocks.WORKERS for part in range(1, blocks.WORKERS)]
    edges = [0, *(int(np.searchsorted(codes, codes[each])) for each in places if each < len(codes)), len(codes)]
    ranges = [each for each in pairwise(edges) if each[0] < each[1]]
    left, lock, check = iter(ranges), Lock(), check_here()
    step, begin = _marking(codes, levels, tests)

    def work() -> tuple[np.ndarray, np.ndarray]:
        # So many records as a worker has need no more than 32 bits, and stay nearer so.
        last, distinct = np.full(room, _NONE, np.int32), np.zeros(room, np.int32)
        mark = begin()
        with lock:
            first, end = next(left, (0, 0))
        for start in range(first, end, step):
            check()
            mark(start, min(start + step, end), last, distinct)
        return last != _NONE, distinct

    parts = blocks.together(work, max(1, len(ranges)))
    has_records = np.any([each[0] for each in parts], axis=0)
    return has_records, np.asarray(np.sum([each[1] for each in parts], axis=0, dtype=np.int64))


_NONE = -2
"""The last code of a group that has no records yet; a blank's is -1."""

_Mark = Callable[[int, int, np.ndarray, np.ndarray], None]
"""Marks the codes of the records from one to before another: the last one of each group, and how many different."""


def _marking(codes: np.ndarray, levels: Sequence[Level], tests: Sequence[Test]) -> tuple[int, Callable[[], _Mark]]:
    """How many records are marked in one call, and what each worker begins with."""
    if not tests and len(levels) <= scan.MOST_LEVELS:
        packed = scan.as_bytes(levels)

        def mark_all(start: int, stop: int, last: np.ndarray, distinct: np.ndarray) -> None:
            block_kernels.mark_run(start, stop, len(levels), *packed, codes, last, distinct)

        return scan.RUN * blocks.BLOCK, lambda: mark_all
    spans = [each.span for each in tests]

    def begin() -> _Mark:
        buffer, chosen, mask = np.zeros(blocks.BLOCK, np.uint32), *blocks.room_to_choose()

        def mark_chosen(start: int, stop: int, last: np.ndarray, distinct: np.ndarray) -> None:
            own, picked = codes[start:stop], None
            if tests:
                picked = chosen[: blocks.choose(tests, spans, start, stop, mask, chosen)]
                own = own[picked]
            key = blocks.keys(levels, start, stop, buffer[: len(own)], picked)
            block_kernels.mark_distinct(key, own, last, distinct)

        return mark_chosen

    return blocks.BLOCK, begin
