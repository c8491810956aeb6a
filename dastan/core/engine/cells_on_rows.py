"""The cells of a cube as the rows of financial layouts have them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from dastan.core.engine.arranging import Cells
from dastan.core.engine.axes import Axis, breaks_down
from dastan.core.engine.cube import Cube, cells_by_pair, with_cells
from dastan.core.engine.grains import Placement
from dastan.core.engine.on_rows import on_rows
from dastan.core.formula.formula import Formula, bases_of
from dastan.core.formula.scopes import Above, Without
from dastan.core.model.financial_layouts import LaidOutMembers
from dastan.core.values import Values, put_at


def cells_on_rows(formula: Formula, values: Values, cube: Cube, rows: Axis, columns: Axis) -> Values:
    """The values of a formula in the cells of a cube as the rows of layouts have them. What is wholly above the rows of
    a layout, or outside its dimension, is the same for all of its rows, and stays what it is."""
    scopes = {base.scope for base in bases_of(formula)}
    places = [
        (at, axis, placement, placement.members)
        for axis, own in (("rows", rows), ("columns", columns))
        for at, placement in enumerate(own.placements)
        if isinstance(placement.members, LaidOutMembers)
        if not all(leaves_rows(each, axis, placement) for each in scopes)
    ]
    if not places:
        return values
    found = []
    for each in cells_by_pair(cube, rows, columns):
        width = each.row_codes.shape[1]
        here = [
            (at if axis == "rows" else width + at, members)
            for at, axis, _, members in places
            if at < len((each.pair.rows if axis == "rows" else each.pair.columns).depths)
        ]
        found.append((each.cells, on_rows(values.take(each.cells), each.codes, here)))
    return put_at(found, len(cube.rows))


def filled_on_rows(cube: Cube, formulas: Sequence[Formula], rows: Axis, columns: Axis) -> Cube:
    """The cube with a cell for each row with records that a formula over rows may be of, where any formula looks above
    or outside of its cells: there it has a value, though no record is there."""
    if not any(isinstance(base.scope, Above | Without) for each in formulas for base in bases_of(each)):
        return cube
    for name, axis in (("rows", rows), ("columns", columns)):
        own, other = (cube.rows, cube.columns) if name == "rows" else (cube.columns, cube.rows)
        for place, placement in enumerate(axis.placements):
            if placement.layout is None:
                continue
            codes = [at for at, row in enumerate(placement.layout.rows) if row.kind == "members"]
            further = [np.column_stack(each) for each in _beside(axis, place, codes, own, other)]
            known = np.column_stack([own, other])
            if further:
                both = np.unique(np.concatenate([known, *further]), axis=0)
                width = len(rows) * len(columns) + 1
                is_new = ~np.isin(both[:, 0] * width + both[:, 1], known[:, 0] * width + known[:, 1])
                more, across = both[is_new].T
                cube = with_cells(cube, *((more, across) if name == "rows" else (across, more)))
                own, other = (cube.rows, cube.columns) if name == "rows" else (cube.columns, cube.rows)
    return cube


def _beside(
    axis: Axis, place: int, codes: list[int], own: np.ndarray, other: np.ndarray
) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """For each of some rows of a layout, where it stands beside other cells: its entries, and those across."""
    for number, grain in enumerate(axis.grains):
        here = np.flatnonzero(axis.grain[own] == number)
        if len(grain.depths) <= place or not len(here):
            continue
        headers = axis.codes[own[here], : len(grain.depths)].copy()
        for code in codes:
            headers[:, place] = code
            entries = axis.entries_of(grain, headers)
            stands = np.flatnonzero(entries >= 0)
            yield entries[stands], other[here[stands]]


def seen_alone(cells: Cells) -> Cells:
    """The cells without those of headers that are there for formulas over rows alone, and do not stand in the table."""
    for name, axis in (("rows", cells.rows), ("columns", cells.columns)):
        kept = np.flatnonzero(breaks_down(axis))
        if len(kept) == len(axis):
            continue
        number_of = np.full(len(axis), -1)
        number_of[kept] = np.arange(len(kept))
        own, other = (cells.cell_rows, cells.cell_columns) if name == "rows" else (cells.cell_columns, cells.cell_rows)
        stands = np.flatnonzero(number_of[own] >= 0)
        own, other = number_of[own][stands], other[stands]
        left, values = axis.arranged(kept, axis.is_heading[kept]), tuple(each.take(stands) for each in cells.values)
        if name == "rows":
            cells = Cells(left, cells.columns, own, other, values)
        else:
            cells = Cells(cells.rows, left, other, own, values)
    return cells


def leaves_rows(scope: object, axis: str, placement: Placement) -> bool:
    """Whether a scope is over more than the row of a layout that stands at a place."""
    if isinstance(scope, Without):
        return placement.placed.dimension in scope.dimensions
    return isinstance(scope, Above) and (scope.rows if axis == "rows" else scope.columns) in ("all", "parent")
