"""Postings: where the records of each row of a dimension stand, so that a question about few of them reads only these.

They are kept for dimensions of some size by whose order the records do not stand already: there the blocks that are
skipped do the same.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from dastan.core.engine.codes import in_order
from dastan.core.model.document import Dimension
from dastan.core.model.reach import Grain, reaches
from dastan.sources.blocks import Zones, zones_of

if TYPE_CHECKING:
    from dastan.sources.column_source import ColumnSource

POSTED_FROM = 1_000_000
"""Fewer records than these are read before anybody notices."""
FEWEST_ROWS = 32
"""A row of a smaller dimension has too many records to gain by knowing them."""
_TOLD_BY_ZONES = 0.1
"""Where a block holds on average so little of a dimension, skipping blocks is as good."""
_CUT_ROWS = 64
"""For so many rows, their records are cut to a range one row at a time."""


@dataclass(frozen=True, slots=True, eq=False)
class Postings:
    """A fact's records in order of a dimension's rows, `(n_records,) uint32`, ascending for each row; those of a row
    are from `starts` of it to before `starts` of the next, `(n_rows + 1,) int64`."""

    starts: np.ndarray
    records: np.ndarray

    def count(self, rows: np.ndarray) -> int:
        """How many records some rows have."""
        return int((self.starts[rows + 1] - self.starts[rows]).sum())

    def of(self, rows: np.ndarray, first: int, end: int) -> np.ndarray:
        """The records of some rows from `first` to before `end`, ascending."""
        parts = [self.records[self.starts[each] : self.starts[each + 1]] for each in rows.tolist()]
        if len(parts) <= _CUT_ROWS:
            parts = [each[slice(*np.searchsorted(each, np.array([first, end], np.uint32)))] for each in parts]
        if len(parts) == 1:
            return parts[0]
        found = np.sort(np.concatenate([np.empty(0, np.uint32), *parts]))
        return found[slice(*np.searchsorted(found, np.array([first, end], np.uint32)))]


def postings_of(source: ColumnSource, grain: Grain, tell: Callable[[str], None]) -> dict[str, Postings]:
    """The postings of a fact's records, made or opened, by the name of their dimension; none for a small fact."""
    if not POSTED_FROM <= source.record_count(grain) < 2**32:
        return {}
    found = {}
    for each in _posted(source, grain):
        tell(f"{grain.table} of each {each.caption}")
        found[each.name] = Postings(*source.keep(("postings", grain, each.name), partial(_made, source, grain, each)))
    return found


def _posted(source: ColumnSource, grain: Grain) -> Iterator[Dimension]:
    for each in source.model.dimensions:
        if reaches(source.model, grain, each) and source.row_count(each.name) >= FEWEST_ROWS:
            make = partial(zones_of, source.codes(grain, each, None))
            zones = source.keep(("zones", grain, each.name, None), make)
            if _held(zones) > _TOLD_BY_ZONES * source.row_count(each.name):
                yield each


def _held(zones: Zones) -> float:
    """How many rows a block holds on average, counted from its least to its greatest."""
    return float((zones.greatest.astype(np.int64) - zones.least + 1).mean())


def _made(source: ColumnSource, grain: Grain, dimension: Dimension) -> tuple[np.ndarray, np.ndarray]:
    codes = source.codes(grain, dimension, None)
    counts = np.bincount(codes, minlength=source.row_count(dimension.name) + 2)
    return np.concatenate([[0], np.cumsum(counts)]), in_order(codes.astype(np.int32))[1]
