"""Postings: where the records of each member stand, so that a question about few of them reads only these.

The small dimensions of a fact share one order of its records, so that what is asked of several of them at once, as by a
cell, is a run of it; each larger one has an order of its own. Dimensions by whose order the records stand already need
none: there the blocks that are skipped do the same.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import prod

import numpy as np

from dastan.sources.columnar import block_kernels

_MOST_GATHERED = 1 << 15


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
