"""Counts different values exactly, from records in order of value."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import accumulate, pairwise
from threading import Lock

import numpy as np

from dastan.core.engine.stopping import check_here
from dastan.sources.columnar import block_kernels, blocks, scan
from dastan.sources.columnar.blocks import Level, Test

Counted = tuple[np.ndarray, np.ndarray]
"""Which possible groups have records, `(room,) bool`, and how many different values each, `(room,) int64`."""


def count_distinct(
    codes: np.ndarray, levels: Sequence[Level], tests: Sequence[Test], grains: Sequence[tuple[np.ndarray, int]]
) -> list[Counted]:
    """The different codes of the records that pass, at several grains in one pass over them.

    Args:
        codes: `(n,) int32` in ascending order, blanks negative; those of the levels and tests stand in the same order,
            so that no block is skipped.
        grains: for each possible group by the levels, that of the grain which it is part of, `(room,) int32`, and how
            many the grain has. The first is that of the levels themselves.
    Each worker takes a range of codes of its own, so that what they count adds up.
    """
    known = int(np.searchsorted(codes, np.int32(0)))
    if not levels and not tests:
        own = codes[known:]
        different = int(np.count_nonzero(own[1:] != own[:-1])) + (len(own) > 0)
        return [(np.array([len(codes) > 0]), np.array([different])) for _ in grains]
    starts: list[int] = [0, *accumulate(size for _, size in grains)]
    coarser = [(own, size, start) for (own, size), start in zip(grains, starts, strict=False)][1:]
    places = np.array([own + start for own, size, start in coarser if size > 1], np.int32)
    total = next((start for _, size, start in coarser if size == 1), -1)
    step, begin = _marking(codes, levels, tests, places.reshape(len(places), len(grains[0][0])), total)
    # No code is cut in two: where it begins, a worker begins.
    cuts = [part * len(codes) // blocks.WORKERS for part in range(1, blocks.WORKERS)]
    edges = [0, *(int(np.searchsorted(codes, codes[each])) for each in cuts if each < len(codes)), len(codes)]
    ranges = [each for each in pairwise(edges) if each[0] < each[1]]
    left, lock, check = iter(ranges), Lock(), check_here()

    def work() -> np.ndarray:
        marks = np.full(starts[-1], _NONE, np.uint64)
        mark = begin()
        with lock:
            first, end = next(left, (0, 0))
        for start, stop in ((first, min(known, end)), (max(first, known), end)):
            for at in range(start, stop, step):
                check()
                mark(at, min(at + step, stop), marks)
            if start < known:
                marks[marks != _NONE] = _BLANK  # it has records, and no value yet
        return marks

    parts = blocks.together(work, max(1, len(ranges)))
    has_records = np.any([each != _NONE for each in parts], axis=0)
    different = np.sum([each & np.uint64(_LOW) for each in parts], axis=0).astype(np.int64)
    found = [(has_records[first:end], different[first:end]) for first, end in pairwise(starts)]
    of_total = (has_records[total : total + 1], different[total : total + 1])
    return [each if at == 0 or grains[at][1] > 1 else of_total for at, each in enumerate(found)]


_LOW = (1 << 32) - 1
_NONE = np.uint64(1 << 63)
"""What no code makes: a group that has no records yet."""
_BLANK = np.uint64(_LOW << 32)
"""That of a blank, as the last code of a group, and none counted."""

_Mark = Callable[[int, int, np.ndarray], None]
"""Marks the codes of the records from one to before another."""


def _marking(
    codes: np.ndarray, levels: Sequence[Level], tests: Sequence[Test], places: np.ndarray, total: int
) -> tuple[int, Callable[[], _Mark]]:
    """How many records are marked in one call, and what each worker begins with."""
    unsigned = codes.view(np.uint32)
    is_compact = len(levels) <= scan.MOST_LEVELS
    packed = scan.as_bytes(levels) if is_compact else ()
    run = scan.RUN if is_compact else 1
    spans, every = [each.span for each in tests], np.zeros(0, np.uint32)

    def begin() -> _Mark:
        buffer = np.zeros(0 if is_compact else blocks.BLOCK, np.uint32)
        chosen, mask = blocks.room_to_choose(run)

        def mark(start: int, stop: int, marks: np.ndarray) -> None:
            picked = chosen[: blocks.choose(tests, spans, start, stop, mask, chosen)] if tests else None
            if is_compact:
                own = every if picked is None else picked
                block_kernels.mark_run(
                    start, stop, own, picked is None, len(levels), *packed, unsigned, places, marks, total
                )  # fmt: skip
                return
            counted = unsigned[start:stop] if picked is None else unsigned[start:stop][picked]
            key = blocks.keys(levels, start, stop, buffer[: len(counted)], picked)
            block_kernels.mark_keys(key, counted, places, marks, total)

        return mark

    return run * blocks.BLOCK, begin
