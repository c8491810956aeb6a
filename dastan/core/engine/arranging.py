"""Cells at their places: the headers in reading order, by what the cells come to, and without those that are hidden."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import HeaderPath, Order, Question
from dastan.core.engine.axes import Axis
from dastan.core.engine.cube import in_order
from dastan.core.engine.emptiness import without_empty
from dastan.core.engine.grains import AxisGrain
from dastan.core.engine.order import Totals, arrange
from dastan.core.engine.repeated import Along, repeated_totals
from dastan.core.values import Values, widened


@dataclass(frozen=True, slots=True, eq=False)
class Cells:
    """Cells with their values: `cell_rows` and `cell_columns` are `(n_cells,) int64` entries of the two axes, and
    `values` holds one `Values` of that length per measure."""

    rows: Axis
    columns: Axis
    cell_rows: np.ndarray
    cell_columns: np.ndarray
    values: tuple[Values, ...]


def arranged(cells: Cells, question: Question) -> Cells:
    """The cells in order of row and column, on axes in reading order."""
    along = _Along(cells, question)
    of_one = question.totals_of_one == "shown"
    rows, row_places = arrange(
        cells.rows, Totals("rows", question.row_total, of_one), along.columns_at, along.repeated_rows
    )
    columns, column_places = arrange(
        cells.columns, Totals("columns", question.column_total, of_one), along.rows_at, along.repeated_columns
    )
    # A header that is no longer shown has no cells, and a heading has no figures.
    at_row, at_column = row_places[cells.cell_rows], column_places[cells.cell_columns]
    is_kept = (at_row >= 0) & (at_column >= 0)
    if rows.is_heading.any():
        is_kept &= ~np.append(rows.is_heading, False)[at_row]
    kept = np.flatnonzero(is_kept)
    kept = kept[in_order(at_row[kept], at_column[kept], len(rows), len(columns))]
    return Cells(rows, columns, at_row[kept], at_column[kept], tuple(each.take(kept) for each in cells.values))


def without_empty_headers(cells: Cells, question: Question) -> Cells:
    """Without the rows, or columns, that have no value at all, where the question hides them."""
    hides_rows, hides_columns = question.hides_empty("rows"), question.hides_empty("columns")
    if not cells.values or not (hides_rows or hides_columns):
        return cells
    rows, columns, cell_rows, cell_columns = cells.rows, cells.columns, cells.cell_rows, cells.cell_columns
    has_value = np.any([each.present for each in cells.values], axis=0)
    if hides_rows:
        rows, places = without_empty(rows, np.bincount(cell_rows[has_value], minlength=len(rows)) > 0)
        cell_rows = places[cell_rows]
    if hides_columns:
        columns, places = without_empty(columns, np.bincount(cell_columns[has_value], minlength=len(columns)) > 0)
        cell_columns = places[cell_columns]
    stands = np.flatnonzero((cell_rows >= 0) & (cell_columns >= 0))
    values = tuple(each.take(stands) for each in cells.values)
    return Cells(rows, columns, cell_rows[stands], cell_columns[stands], values)


@dataclass(frozen=True, slots=True, eq=False)
class _Along:
    """The cells before they are put in order, asked for one header of an axis at a time."""

    cells: Cells
    question: Question

    def columns_at(self, order: Order) -> Values | None:
        """A measure's value for each row at one column."""
        cells = self.cells
        return self._at(order, cells.columns, cells.cell_columns, cells.cell_rows, len(cells.rows))

    def rows_at(self, order: Order) -> Values | None:
        """A measure's value for each column at one row."""
        cells = self.cells
        return self._at(order, cells.rows, cells.cell_rows, cells.cell_columns, len(cells.columns))

    def repeated_rows(self, has_figures: np.ndarray) -> np.ndarray:
        """Which rows say what their only child says, `(n,) bool`."""
        cells = self.cells
        along = Along(cells.cell_rows, cells.cell_columns, cells.values)
        return repeated_totals(cells.rows, has_figures, along, len(cells.columns))

    def repeated_columns(self, has_figures: np.ndarray) -> np.ndarray:
        """Which columns say what their only child says, `(n,) bool`."""
        cells = self.cells
        along = Along(cells.cell_columns, cells.cell_rows, cells.values)
        return repeated_totals(cells.columns, has_figures, along, len(cells.rows))

    def _at(self, order: Order, other: Axis, across: np.ndarray, along: np.ndarray, size: int) -> Values | None:
        entry = _entry_at(order.column, other)
        if entry is None or order.measure not in self.question.measures:
            return None  # the order waits until its header, or its measure, is shown again
        here = np.flatnonzero(across == entry)
        values = self.cells.values[self.question.measures.index(order.measure)]
        return widened(values.take(here), along[here], size)


def _entry_at(path: HeaderPath, axis: Axis) -> int | None:
    """The entry of a header, None where it does not stand on the axis now."""
    codes, depths = [], []
    for placement, members in zip(axis.placements, path.members, strict=False):
        code = placement.members.find(members)
        if code is None:
            return None
        codes.append(code)
        depths.append(len(members) - 1)
    if len(codes) < len(path.members):
        return None
    grain = AxisGrain(tuple(depths))
    entry = int(axis.entries_of(grain, np.array([codes], np.int32).reshape(1, -1))[0])
    return entry if entry >= 0 else None
