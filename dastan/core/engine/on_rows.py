"""Rows of a financial layout worked out from one another: a formula over rows, and a sign that is turned."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dastan.core.formula.arithmetic import operate
from dastan.core.formula.formula import Along, Base, Beneath, OnRows, Standing, calculate
from dastan.core.model.financial_layouts import LaidOutMembers, formula_of_row
from dastan.core.values import Values, empty_values, put_at, widened


def on_rows(values: Values, codes: np.ndarray, laid_out: Sequence[tuple[int, LaidOutMembers]]) -> Values:
    """Some values as the rows of layouts have them.

    Args: `codes` are where they stand, `(n, n_places)`; `laid_out` tells at which of the places rows of a layout do.
    """
    for place, members in laid_out:
        values = _on_rows(values, codes, place, members)
    return values


def _on_rows(values: Values, codes: np.ndarray, place: int, members: LaidOutMembers) -> Values:
    # Cells that differ in their row alone are worked out together, as one line of a small table with a column a row.
    _, line = np.unique(np.delete(codes, place, axis=1), axis=0, return_inverse=True)
    line, count = np.asarray(line).ravel(), int(line.max()) + 1 if len(codes) else 0
    places = [np.flatnonzero(codes[:, place] == code) for code in range(len(members.layout.rows))]
    known: dict[str, Values] = {}
    for row, at in zip(members.layout.rows, places, strict=True):
        if row.kind == "members":
            own = widened(values.take(at), line[at], count)
            known[row.name] = turned(own) if row.is_turned else own
    ground, parts = RowValues(count, known), []
    is_left = np.ones(len(codes), np.bool_)
    for row, at in zip(members.layout.rows, places, strict=True):
        if len(at) and (row.kind == "formula" or row.is_turned):
            own = calculate(formula_of_row(members.layout, row.name), ground)
            parts.append((at, own.take(line[at])))
            is_left[at] = False
    left = np.flatnonzero(is_left)
    return put_at([(left, values.take(left)), *parts], len(codes)) if parts else values


def turned(values: Values) -> Values:
    """Values with the other sign."""
    return operate("*", Values(np.full(len(values), -1), 0, np.ones(len(values), np.bool_)), values)


@dataclass(frozen=True, slots=True, eq=False)
class RowValues:
    """A line for everything but the rows: the values of rows with records, by name."""

    size: int
    known: dict[str, Values]

    def base(self, base: Base) -> Values:
        return self.known.get(base.aggregate.argument) or empty_values(self.size, 0)

    def standing(self, standing: Standing) -> Values:
        raise AssertionError(f"{standing.level}: no row is of where it stands")

    def along(self, along: Along, own: Values) -> Values:
        raise AssertionError(f"{along.kind} of {len(own)} values: rows are worked out from rows alone")

    def beneath(self, beneath: Beneath) -> Values:
        raise AssertionError(f"{beneath.how}: rows are worked out from rows alone")

    def on_rows(self, laid_out: OnRows, own: Values) -> Values:
        raise AssertionError(f"{laid_out.of} of {len(own)} values: rows are worked out from rows alone")
