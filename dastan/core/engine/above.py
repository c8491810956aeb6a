"""What stands above a cell: the headers that a share looks up to, for all cells of a pair of grains at once."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.grains import AxisGrain, ancestors
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.plan import PairOfGrains, Shape
from dastan.core.engine.waist import Conditions
from dastan.core.formula.scopes import Above, Reach

_TOTAL = AxisGrain(())


@dataclass(frozen=True, slots=True, eq=False)
class LookedUp:
    """Some cells, `(n,) int64` places, and where each finds what stands above it: a pair of grains, the codes of its
    headers there, `(n, n_places)` each, and the limits that hold there."""

    cells: np.ndarray
    pair: PairOfGrains
    row_codes: np.ndarray
    column_codes: np.ndarray
    limits: Conditions


def looked_up(
    scope: Above, shape: Shape, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
) -> Iterator[LookedUp]:
    """What stands above the cells of a pair of grains, some cells after others. Those above which nothing does are left
    out."""
    rows, columns = shape.rows, shape.columns
    if isinstance(scope.rows, tuple) and not (_stands_on(rows, scope.rows) or _stands_on(columns, scope.rows)):
        return
    for own_rows, row_grain, row_above in _of_axis(rows, pair.rows, row_codes, scope.rows):
        for own_columns, column_grain, column_above in _of_axis(columns, pair.columns, column_codes, scope.columns):
            cells = np.flatnonzero(own_rows & own_columns)
            if len(cells):
                limits = (*_kept_limits(rows, pair.rows, row_grain), *_kept_limits(columns, pair.columns, column_grain))
                target = PairOfGrains(row_grain, column_grain)
                yield LookedUp(cells, target, row_above[cells], column_above[cells], limits)


def _kept_limits(limits: AxisLimits, own: AxisGrain, above: AxisGrain) -> Conditions:
    """What limits hide from a cell's own header is hidden here too. What stands above is as it is before any limit, but
    for the rest of a level in which it stands itself."""
    if above == own:
        return limits.condition(own)
    return AxisLimits(limits.placements, "scope", limits.kept).condition(above)


def _of_axis(
    limits: AxisLimits, grain: AxisGrain, codes: np.ndarray, reach: Reach
) -> Iterator[tuple[np.ndarray, AxisGrain, np.ndarray]]:
    """Which headers `(n,) bool`, the grain above them, and the codes there `(n, n_places)`: some after others."""
    everything = np.ones(len(codes), np.bool_)
    if reach == "here":
        yield everything, grain, codes
    elif reach == "all":
        yield everything, _TOTAL, np.empty((len(codes), 0), np.int32)
    elif reach == "parent":
        yield from _parents(limits, grain, codes)
    elif not _stands_on(limits, reach):
        yield everything, grain, codes
    else:
        for place, (placement, depth) in enumerate(zip(limits.placements, grain.depths, strict=False)):
            if (placement.placed.dimension, placement.placed.hierarchy) != reach[:2]:
                continue
            wanted = placement.members.depth_of(reach[2])
            # The rest that a limit leaves lies under what is shown above it, and under nothing where nothing is.
            lowest = placement.parent_depth(depth) if place in grain.others else depth
            if lowest is not None and wanted <= lowest:
                own = ancestors(placement, grain, place, codes[:, place], wanted)
                yield everything, grain.at(place, wanted), np.column_stack([codes[:, :place], own])


def _stands_on(limits: AxisLimits, level: tuple[str, str, str]) -> bool:
    """Whether the hierarchy of a level stands on an axis."""
    return any((each.placed.dimension, each.placed.hierarchy) == level[:2] for each in limits.placements)


def _parents(
    limits: AxisLimits, grain: AxisGrain, codes: np.ndarray
) -> Iterator[tuple[np.ndarray, AxisGrain, np.ndarray]]:
    if not grain.depths:
        return
    last = len(grain.depths) - 1
    placement = limits.placements[last]
    left = np.ones(len(codes), np.bool_)
    for depth in reversed([each for each in placement.shown_depths if each < grain.depths[last]]):
        own = ancestors(placement, grain, last, codes[:, last], depth)
        # A member that is passed over does not stand: what is above it is the parent.
        stands = left & ~placement.members.levels[depth].is_passed[own]
        if stands.any():
            yield stands, grain.at(last, depth), np.column_stack([codes[:, :last], own])
        left &= ~stands
    if left.any():
        yield left, grain.upto(last), codes[:, :last]
