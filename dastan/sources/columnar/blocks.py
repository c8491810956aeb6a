"""Records a block at a time: which blocks to skip, which rows to choose, their keys, and who works on them."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from dastan.sources.columnar import block_kernels as kernels

_T = TypeVar("_T")

BLOCK = 65_536
"""Records in a block: its keys stay in the second cache of a processor."""

WORKERS = max(1, os.cpu_count() or 1)
_POOL = ThreadPoolExecutor(WORKERS, "scan")


@dataclass(frozen=True, slots=True, eq=False)
class Zones:
    """The least and the greatest code in each block, `(n_blocks,)` each."""

    least: np.ndarray
    greatest: np.ndarray


def zones_of(codes: np.ndarray) -> Zones:
    """The zones of a fact's codes."""
    starts = np.arange(0, len(codes), BLOCK)
    if not len(codes):
        return Zones(np.empty(0, codes.dtype), np.empty(0, codes.dtype))
    return Zones(np.minimum.reduceat(codes, starts), np.maximum.reduceat(codes, starts))


@dataclass(frozen=True, slots=True, eq=False)
class Test:
    """Keeps the records whose code is allowed. Codes `(n_records,)`, unsigned; `allowed` `(n_codes,) bool`."""

    codes: np.ndarray
    allowed: np.ndarray
    zones: Zones | None
    """None where none are known: then one has to look at every block."""
    dimension: str = ""

    @property
    def span(self) -> tuple[int, int] | None:
        """The first allowed code and how many follow it, where they are all in a row."""
        found = np.flatnonzero(self.allowed)
        if not len(found) or int(found[-1] - found[0]) != len(found) - 1:
            return None
        return int(found[0]), len(found) - 1

    def verdicts(self) -> np.ndarray:
        """For each block: 0 where no record can pass, 2 where all do, 1 where one has to look. `(n_blocks,) int8`."""
        if self.zones is None:
            return np.ones(-(-len(self.codes) // BLOCK), np.int8)
        upto = np.concatenate([[0], np.cumsum(self.allowed)])
        low, high = self.zones.least.astype(np.int64), self.zones.greatest.astype(np.int64)
        inside = upto[high + 1] - upto[low]
        return np.where(inside == 0, 0, np.where(inside == high - low + 1, 2, 1)).astype(np.int8)


@dataclass(frozen=True, slots=True, eq=False)
class Level:
    """What is grouped by: each record's member, unsigned, and how many members there are."""

    codes: np.ndarray
    size: int


def room_to_choose(count: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """Where the chosen rows of so many blocks are written, and the mask from which they are chosen."""
    size = count * BLOCK
    return np.empty(size + 8, np.uint32), np.zeros(size + -size % 8, np.uint8)


def choose(
    tests: Sequence[Test],
    spans: Sequence[tuple[int, int] | None],
    start: int,
    stop: int,
    mask: np.ndarray,
    chosen: np.ndarray,
) -> int:
    """Writes the rows, counted from `start`, that pass all tests to `chosen`; returns how many."""
    size, found = stop - start, -1
    if any(each is not None for each in spans):
        mask[:size], mask[size:] = 1, 0
        for test, span in zip(tests, spans, strict=True):
            if span is not None:
                kernels.keep_range(mask, test.codes[start:stop], *span)
        found = int(kernels.choose_marked(mask, size, chosen))
    for test, span in zip(tests, spans, strict=True):
        codes = test.codes[start:stop]
        if span is None and found < 0:
            found = int(kernels.choose(chosen, codes, test.allowed))
        elif span is None:
            found = int(kernels.choose_among(chosen, found, codes, test.allowed))
    return found


def choose_among(tests: Sequence[Test], some: np.ndarray, chosen: np.ndarray) -> int:
    """Of some records, writes those that pass all tests to `chosen`; returns how many."""
    found = len(some)
    chosen[:found] = some
    for each in tests:
        found = int(kernels.choose_among(chosen, found, each.codes, each.allowed))
    return found


def keys(
    levels: Sequence[Level], start: int, end: int, key: np.ndarray, chosen: np.ndarray | None = None
) -> np.ndarray:
    """The keys of the records from `start` to `end`, or of the chosen ones among them, written to `key`."""
    if not levels:
        key[:] = 0
    for at, level in enumerate(levels):
        codes = level.codes[start:end]
        if chosen is not None:
            kernels.set_key_at(key, codes, chosen) if not at else kernels.push_key_at(key, codes, chosen, level.size)
        else:
            kernels.set_key(key, codes) if not at else kernels.push_key(key, codes, level.size)
    return key


def together(work: Callable[[], _T], workers: int) -> list[_T]:
    """What each of some workers comes to. Nobody is left working when it ends, however it ends."""
    others = [_POOL.submit(work) for _ in range(workers - 1)]
    try:
        own = work()
    finally:
        failed = [each.exception() for each in others]
    for error in failed:
        if error is not None:
            raise error
    return [own, *(each.result() for each in others)]
