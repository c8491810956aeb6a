"""The rows of a fact that a request is about."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.stopping import one_after_another, slices
from dastan.core.engine.waist import Condition, Conditions, LevelRef
from dastan.core.values import Values
from dastan.sources.columnar.conditions import (
    DimensionRows,
    FactRows,
    has_own_mask,
    looks_at_lists,
    row_mask,
    spread_rows,
)
from dastan.sources.columnar.scan import Scan


@dataclass(frozen=True, slots=True, eq=False)
class Scope:
    """Rows of a fact, ascending (all where None); `lists` the set each stands in where a list repeats them."""

    rows: np.ndarray | None
    count: int
    lists: dict[LevelRef, np.ndarray]

    def of(self, values: np.ndarray) -> np.ndarray:
        """Those of the whole fact's values that belong to the rows."""
        if self.rows is None:
            return values
        found = np.empty(self.count, values.dtype)
        for some in slices(self.count):
            found[some] = values[self.rows[some]]
        return found

    def take(self, values: Values) -> Values:
        """The same for values that may be empty."""
        return values if self.rows is None else Values(self.of(values.data), values.scale, self.of(values.present))

    def numbers(self) -> np.ndarray:
        """The rows' own numbers."""
        return np.arange(self.count) if self.rows is None else self.rows

    def only(self, places: np.ndarray) -> Scope:
        """The rows at those places of the scope."""
        rows = places if self.rows is None else self.rows[places]
        return Scope(rows, len(places), {level: each[places] for level, each in self.lists.items()})


def select_rows(
    rows: FactRows,
    condition: Conditions,
    levels: tuple[LevelRef, ...],
    source: DimensionRows,
    scan: Callable[[Conditions], Scan],
) -> Scope:
    """The rows for which every condition holds, repeated for each set that holds them where lists are asked.

    Args:
        rows: all rows of the fact.
        levels: what is grouped by; among them may be lists.
        scan: a pass over what conditions that look at one dimension each leave.
    A condition that asks in which of these sets a row stands is held against each repeated row by itself.
    """
    lists = {each for each in levels if source.members(each.dimension, each.hierarchy).spread is not None}
    scope = _fulfilling(rows, [each for each in condition if not looks_at_lists(each, lists)], source, scan)
    for level in levels:
        if level in lists:
            members = source.members(level.dimension, level.hierarchy)
            places, codes = spread_rows(members, scope.of(rows.dimension_rows(level.dimension)))
            scope = scope.only(places)
            scope = Scope(scope.rows, scope.count, scope.lists | {level: codes})
    for each in condition:
        if looks_at_lists(each, lists):
            scope = scope.only(_holding(scope, rows, each, source))
    return scope


def _fulfilling(
    rows: FactRows,
    condition: list[Condition],
    source: DimensionRows,
    scan: Callable[[Conditions], Scan],
) -> Scope:
    if not condition:
        return Scope(None, rows.count, {})
    plain = tuple(each for each in condition if has_own_mask(each))
    scope = Scope(None, rows.count, {})
    if plain:
        found = scan(plain).rows()
        scope = Scope(found, len(found), {})
    for each in condition:
        if not has_own_mask(each):
            scope = scope.only(_holding(scope, rows, each, source))
    return scope


def _holding(scope: Scope, rows: FactRows, condition: Condition, source: DimensionRows) -> np.ndarray:
    """The places of a scope for which a condition holds."""
    parts = []
    for some in slices(scope.count):
        parts.append(np.flatnonzero(row_mask(condition, source, _rows_of(scope, rows, some))) + some.start)
    return one_after_another(parts)


def _rows_of(scope: Scope, rows: FactRows, some: slice) -> FactRows:
    own = some if scope.rows is None else scope.rows[some]
    lists = {level: codes[some] for level, codes in scope.lists.items()}
    return FactRows(some.stop - some.start, lambda name: rows.dimension_rows(name)[own], lists)
