"""Counts different values exactly, from records in order of value."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from threading import Lock

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.stopping import check_here
from dastan.sources import blocks
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
    spans = [each.span for each in tests]
    left, lock, check = iter(ranges), Lock(), check_here()

    def work() -> tuple[np.ndarray, np.ndarray]:
        counts, distinct, last = np.zeros(room, np.int64), np.zeros(room, np.int64), np.full(room, -1, np.int64)
        buffer, chosen, mask = np.zeros(blocks.BLOCK, np.uint32), *blocks.room_to_choose()
        with lock:
            first, end = next(left, (0, 0))
        for start in range(first, end, blocks.BLOCK):
            check()
            stop = min(start + blocks.BLOCK, end)
            own, picked = codes[start:stop], None
            if tests:
                size = blocks.choose(tests, spans, start, stop, mask, chosen)
                picked = chosen[:size]
                own = own[picked]
            key = blocks.keys(levels, start, stop, buffer[: len(own)], picked)
            kernels.count_rows(key, counts)
            kernels.count_distinct(key, own, last, distinct)
        return counts, distinct

    parts = blocks.together(work, max(1, len(ranges)))
    return np.sum([each[0] for each in parts], axis=0) > 0, np.sum([each[1] for each in parts], axis=0)
