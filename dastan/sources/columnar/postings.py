"""Postings: where the records of each member stand, so that a question about few of them reads only these.

The small dimensions of a fact share one order of its records, so that what is asked of several of them at once, as by a
cell, is a run of it; each larger one has an order of its own. Dimensions by whose order the records stand already need
none: there the blocks that are skipped do the same.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from math import prod
from typing import TYPE_CHECKING

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.watch import Watch
from dastan.core.model.document import Dimension
from dastan.core.model.reach import Grain, reaches
from dastan.sources.columnar import block_kernels
from dastan.sources.columnar.blocks import Level, Zones, keys, zones_of

if TYPE_CHECKING:
    from dastan.sources.columnar.column_source import ColumnSource

POSTED_FROM = 1_000_000
"""Fewer records than these are read before anybody notices."""
FEWEST_GROUPS = 32
"""Of fewer groups each has too many records to gain by knowing them."""
RECORDS_A_GROUP = 64.0
_MOST_GROUPS = 1 << 20
"""Small dimensions share an order up to so many possible groups, and one for so many records."""
_MOST_GATHERED = 1 << 15
_TOLD_BY_ZONES = 0.1
"""Where a block holds on average so little of a dimension, skipping blocks is as good."""


@dataclass(frozen=True, slots=True, eq=False)
class Postings:
    """A fact's records in order of the rows of some dimensions, `(n_records,) uint32`, ascending in each group; those
    of a group are from `starts` of it to before `starts` of the next, `(n_groups + 1,) int64`."""

    sizes: dict[str, int]
    """How many rows each dimension has, blank and unknown ones included."""
    starts: np.ndarray
    records: np.ndarray

    def groups(self, allowed: Mapping[str, np.ndarray]) -> np.ndarray | None:
        """The groups of allowed rows, `(n,) int64` ascending; None where they are too many to gather.

        Args: `allowed` is `(n_rows,) bool` by dimension.
        """
        rows = [
            np.flatnonzero(allowed[name]) if name in allowed else np.arange(size) for name, size in self.sizes.items()
        ]
        if prod(len(each) for each in rows) > _MOST_GATHERED:
            return None
        found = np.zeros(1, np.int64)
        for each, size in zip(rows, self.sizes.values(), strict=True):
            found = (found[:, None] * size + each).ravel()
        return found

    def count(self, groups: np.ndarray) -> int:
        """How many records some groups have."""
        return int((self.starts[groups + 1] - self.starts[groups]).sum())

    def of(self, groups: np.ndarray, first: int, end: int) -> np.ndarray:
        """The records of some groups from `first` to before `end`, ascending."""
        if len(groups) == 1:
            own = self.records[self.starts[groups[0]] : self.starts[groups[0] + 1]]
            return own[slice(*np.searchsorted(own, np.array([first, end], np.uint32)))]
        found = np.empty(self.count(groups), np.uint32)
        size = block_kernels.gather_postings(self.starts, self.records, groups, first, end, found)
        return np.sort(found[:size])


def postings_of(source: ColumnSource, grain: Grain, watch: Watch) -> list[Postings]:
    """The postings of a fact's records, made or opened; none for a small fact."""
    if not POSTED_FROM <= source.record_count(grain) < 2**32:
        return []
    found = []
    shared = [*_shared(source, grain)]
    watch.expect(len(shared))
    for some in shared:
        watch.begin(f"{grain.table} of each {', '.join(each.caption for each in some)}")
        names = tuple(each.name for each in some)
        arrays = source.kept.keep(("postings", grain, names), partial(_made, source, grain, some))
        found.append(Postings({each: source.row_count(each) + 2 for each in names}, *arrays))
        watch.note_done()
    return found


def _shared(source: ColumnSource, grain: Grain) -> Iterator[list[Dimension]]:
    """The dimensions that share an order."""
    most = min(_MOST_GROUPS, int(source.record_count(grain) / RECORDS_A_GROUP))
    shared: list[Dimension] = []
    room = 1
    for each in sorted(_posted(source, grain), key=lambda each: source.row_count(each.name)):
        size = source.row_count(each.name) + 2
        if room * size <= most:
            shared.append(each)
            room *= size
        elif size >= FEWEST_GROUPS:
            yield [each]
    if shared and room >= FEWEST_GROUPS:
        yield shared


def _posted(source: ColumnSource, grain: Grain) -> Iterator[Dimension]:
    for each in source.model.dimensions:
        if reaches(source.model, grain, each):
            make = partial(zones_of, source.codes(grain, each, None))
            zones = source.kept.keep(("zones", grain, each.name, None), make)
            if _held(zones) > _TOLD_BY_ZONES * source.row_count(each.name):
                yield each


def _held(zones: Zones) -> float:
    """How many rows a block holds on average, counted from its least to its greatest."""
    return float((zones.greatest.astype(np.int64) - zones.least + 1).mean())


def _made(source: ColumnSource, grain: Grain, some: list[Dimension]) -> tuple[np.ndarray, np.ndarray]:
    levels = [Level(source.codes(grain, each, None), source.row_count(each.name) + 2) for each in some]
    count = source.record_count(grain)
    key = keys(levels, 0, count, np.empty(count, np.uint32))
    starts, records = np.zeros(prod(each.size for each in levels) + 1, np.int64), np.empty(count, np.uint32)
    kernels.count_rows(key, starts[1:])
    starts = np.cumsum(starts)
    block_kernels.post_records(key, starts.copy(), records)
    return starts, records
