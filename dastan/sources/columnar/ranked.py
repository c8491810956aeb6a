"""Finds the values of given ranks in each group, from records in order of value: two passes, and no value is moved."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import pairwise
from math import prod
from threading import Lock

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.stopping import check_here
from dastan.sources.columnar import block_kernels, blocks
from dastan.sources.columnar.blocks import Level, Test

Ranks = tuple[np.ndarray, np.ndarray]
"""Two ranks to be found in each possible group, `(room,) int64`, 0 for the least value."""


class Ranked:
    """Records in order of value, those without one first, as a question groups and chooses them.

    Args:
        known: where the records with a value begin.
        levels, tests: with codes in the same order, so that no block is skipped.
    """

    def __init__(self, count: int, known: int, levels: Sequence[Level], tests: Sequence[Test]) -> None:
        self._check = check_here()
        self._levels = levels
        self._tests = tests
        self._spans = [each.span for each in tests]
        self.room = prod(each.size for each in levels)
        edges = [known + (count - known) * part // blocks.WORKERS for part in range(blocks.WORKERS + 1)]
        self._ranges = [each for each in pairwise(edges) if each[0] < each[1]]
        without = np.zeros(self.room, np.int64)
        for key, _, _ in self._blocks(0, known):
            kernels.count_rows(key, without)
        self._counts = self._counted()
        self.sizes = np.sum(self._counts, axis=0) if self._counts else np.zeros(self.room, np.int64)
        """How many values each possible group has, `(room,) int64`."""
        self.exists = np.flatnonzero((self.sizes > 0) | (without > 0))
        """The groups that have records, ascending."""

    def find(self, ranks: Ranks) -> tuple[np.ndarray, np.ndarray]:
        """Where the values of two ranks stand, `(room,) int64` each: places in the order of the records, 0 for none."""
        found = [np.zeros(self.room, np.int64) for _ in ranks]
        before = np.zeros(self.room, np.int64)
        starts = []
        for counts in self._counts:
            starts.append(before.copy())
            before += counts

        def pick(at: int) -> None:
            seen = starts[at]
            for key, first, chosen in self._blocks(*self._ranges[at]):
                # No two workers meet: each rank of a group stands in one range.
                block_kernels.pick_places(key, first, chosen, *ranks, seen, *found)

        self._each_range(pick)
        return found[0], found[1]

    def _counted(self) -> list[np.ndarray]:
        counts = [np.zeros(self.room, np.int64) for _ in self._ranges]

        def count(at: int) -> None:
            for key, _, _ in self._blocks(*self._ranges[at]):
                kernels.count_rows(key, counts[at])

        self._each_range(count)
        return counts

    def _each_range(self, work: Callable[[int], None]) -> None:
        left, lock = iter(range(len(self._ranges))), Lock()

        def take() -> None:
            with lock:
                at = next(left, None)
            if at is not None:
                work(at)

        blocks.together(take, max(1, len(self._ranges)))

    def _blocks(self, start: int, end: int) -> Iterator[tuple[np.ndarray, int, np.ndarray]]:
        """The keys of the records that pass, a block at a time; where the block begins, and which of it were chosen:
        none are named where all were."""
        buffer = np.zeros(blocks.BLOCK, np.uint32)
        chosen, mask = blocks.room_to_choose()
        every = np.zeros(0, np.uint32)
        for first in range(start, end, blocks.BLOCK):
            self._check()
            stop = min(first + blocks.BLOCK, end)
            if not self._tests:
                yield blocks.keys(self._levels, first, stop, buffer[: stop - first]), first, every
                continue
            found = blocks.choose(self._tests, self._spans, first, stop, mask, chosen)
            if found:
                picked = chosen[:found]
                yield blocks.keys(self._levels, first, stop, buffer[:found], picked), first, picked
