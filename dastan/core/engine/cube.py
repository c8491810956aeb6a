"""The cube: every cell that exists, shown or not, with the values of all bases that formulas stand on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np

from dastan.core.engine.axes import Axis
from dastan.core.engine.facts import Fact
from dastan.core.engine.grains import AxisGrain
from dastan.core.engine.plan import PairOfGrains
from dastan.core.formula.formula import Base
from dastan.core.values import Values, empty_values, joined, widened


@dataclass(frozen=True, slots=True, eq=False)
class Cube:
    """Cells in no order: `rows` and `columns` are `(n_cells,) int64` entries of the axes before these are arranged.

    All totals are among them. `values` holds one `Values` of that length per base.
    """

    rows: np.ndarray
    columns: np.ndarray
    values: dict[Base, Values]

    def value_of(self, base: Base) -> Values:
        """A base's values, cell by cell; empty where its records have no cell."""
        found = self.values.get(base)
        return empty_values(len(self.rows), 0) if found is None else found


@dataclass(frozen=True, slots=True, eq=False)
class CellsOfPair:
    """The cells of one pair of grains, `(n,) int64` places in the cube, and the codes of their headers,
    `(n, n_places)` each."""

    cells: np.ndarray
    pair: PairOfGrains
    row_codes: np.ndarray
    column_codes: np.ndarray

    @property
    def codes(self) -> np.ndarray:
        """Of both, rows first."""
        return np.hstack([self.row_codes, self.column_codes])


def cells_by_pair(cube: Cube, rows: Axis, columns: Axis) -> Iterator[CellsOfPair]:
    """The cells of a cube, those of each pair of grains together. The finest come first: what is asked for above them
    is added up from what was asked for them."""
    row_grain, column_grain = rows.grain[cube.rows], columns.grain[cube.columns]
    pairs = product(enumerate(rows.grains), enumerate(columns.grains))
    finest_first = sorted(pairs, key=lambda pair: sum(_fineness(grain) for _, grain in pair), reverse=True)
    for (number, own), (other, across) in finest_first:
        cells = np.flatnonzero((row_grain == number) & (column_grain == other))
        if len(cells):
            row_codes = rows.codes[cube.rows[cells], : len(own.depths)]
            column_codes = columns.codes[cube.columns[cells], : len(across.depths)]
            yield CellsOfPair(cells, PairOfGrains(own, across), row_codes, column_codes)


def _fineness(grain: AxisGrain) -> int:
    """More for a grain than for all that lie above it."""
    return sum(depth + 1 for depth in grain.depths)


def with_cells(cube: Cube, rows: np.ndarray, columns: np.ndarray) -> Cube:
    """The cube with further cells, which have no records of their own. Args: `rows` and `columns` are their entries."""
    count, size = len(cube.rows), len(cube.rows) + len(rows)
    places = np.append(np.arange(count), np.zeros(len(rows), np.int64))
    is_own = np.arange(size) < count
    values = {}
    for base, each in cube.values.items():
        taken = each.take(places) if count else empty_values(size, each.scale)
        values[base] = replace(taken, present=taken.present & is_own)
    return Cube(np.append(cube.rows, rows), np.append(cube.columns, columns), values)


def build_cube(facts: Sequence[Fact], rows: Axis, columns: Axis) -> Cube:
    """The cells of all facts in one list: a base is empty where its own fact has no cell."""
    parts = [_cells(each, rows, columns) for each in facts]
    if not parts:
        return Cube(np.empty(0, np.int64), np.empty(0, np.int64), {})
    if len(parts) == 1:
        return parts[0]  # a fact has each cell once
    width = max(len(columns), 1)
    cells, found_at = _numbered([each.rows * width + each.columns for each in parts], len(rows) * width)
    values: dict[Base, Values] = {}
    for part, at in zip(parts, found_at, strict=True):
        values |= {base: widened(own, at, len(cells)) for base, own in part.values.items()}
    return Cube(cells // width, cells % width, values)


def _cells(fact: Fact, rows: Axis, columns: Axis) -> Cube:
    pairs = fact.pairs.items()
    row = np.concatenate([rows.entries_of(pair.rows, each.row_codes) for pair, each in pairs])
    column = np.concatenate([columns.entries_of(pair.columns, each.column_codes) for pair, each in pairs])
    # Without levels there is one group even when no record is in scope: a cell over nothing is empty.
    further = [np.ones(len(each.row_codes) - each.own_count, np.bool_) for _, each in pairs]
    has_records = [part for (_, each), more in zip(pairs, further, strict=True) for part in (each.counts > 0, more)]
    is_kept = (row >= 0) & (column >= 0) & np.concatenate(has_records)
    values = {}
    for base in fact.wanted.bases:
        own = [each.values.get(base) or empty_values(len(each.row_codes), None) for _, each in pairs]
        values[base] = joined(own)
    if is_kept.all():
        return Cube(row, column, values)
    kept = np.flatnonzero(is_kept)
    return Cube(row[kept], column[kept], {base: each.take(kept) for base, each in values.items()})


def in_order(rows: np.ndarray, columns: np.ndarray, row_count: int, column_count: int) -> np.ndarray:
    """What puts different cells in order of row and then column."""
    return _order(rows * column_count + columns, row_count * column_count)


def _order(places: np.ndarray, room: int) -> np.ndarray:
    """What puts different places in ascending order. Args: `room` is above every place."""
    if room > max(1 << 16, 8 * len(places)):
        return np.argsort(places)
    at = np.full(room, -1)
    at[places] = np.arange(len(places))
    return at[at >= 0]


def _numbered(places: list[np.ndarray], room: int) -> tuple[np.ndarray, list[np.ndarray]]:
    """The different places in ascending order, and which of them each one is. Args: `room` is above every place."""
    if room <= max(1 << 16, 8 * sum(len(each) for each in places)):
        number = np.zeros(room, np.int64)
        for each in places:
            number[each] = 1
        different = np.flatnonzero(number)
        number[different] = np.arange(len(different))
        return different, [number[each] for each in places]
    # Sorted by hand: NumPy's own `unique` hashes whole numbers, which is ten times slower for many.
    ordered = np.sort(np.concatenate(places))
    different = ordered[np.append(True, ordered[1:] != ordered[:-1])]
    return different, [np.searchsorted(different, each) for each in places]
