"""What the members of each hierarchy in a table come to by themselves, whatever totals the table shows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import AXES, AxisName
from dastan.core.engine.axes import Axis
from dastan.core.engine.grains import AxisGrain
from dastan.core.engine.worked_out import WorkedOut
from dastan.core.model.joints import own_members

_TOTAL = AxisGrain(())


@dataclass(frozen=True, slots=True, eq=False)
class Margin:
    """The members of a hierarchy's outermost level that is shown, at a place of an axis, `(n,)` codes, and what a
    measure that adds up comes to for each, `(n,) float64`; `whole` is what it comes to in all."""

    axis: AxisName
    place: int
    depth: int
    measure: int
    codes: np.ndarray
    values: np.ndarray
    whole: float


def margins_of(found: WorkedOut, adds_up: tuple[bool, ...]) -> tuple[Margin, ...]:
    """Of the first measure that adds up; none without one, or where nothing is in scope.

    Members of an inner hierarchy are added up over the outer ones, where these do not overlap.
    """
    at = next((at for at, adds in enumerate(adds_up) if adds), None)
    if at is None:
        return ()
    values, cube = found.values[at], found.cube
    rows, columns = found.rows.grain[cube.rows], found.columns.grain[cube.columns]
    is_total = (rows == found.rows.grains.index(_TOTAL)) & (columns == found.columns.grains.index(_TOTAL))
    numbers = np.where(values.present, values.as_float(), 0.0)
    whole = float(numbers[is_total].sum())
    margins = []
    for name in AXES:
        axis, entries, other = (
            (found.rows, cube.rows, columns) if name == "rows" else (found.columns, cube.columns, rows)
        )
        others = (found.columns if name == "rows" else found.rows).grains.index(_TOTAL)
        for place in range(len(axis.placements)):
            if any(each.members.spread is not None for each in axis.placements[:place]):
                break
            margins.append(_margin(name, place, at, axis, entries, (other == others) & values.present, numbers, whole))
    return tuple(each for each in margins if len(each.codes))


def _is_rest(axis: Axis, place: int) -> np.ndarray:
    """`(n,) bool`: at which entries the rest that a limit leaves stands at a place."""
    return np.isin(axis.grain, [at for at, each in enumerate(axis.grains) if place in each.others])


def _margin(
    name: AxisName, place: int, measure: int, axis: Axis, entries: np.ndarray, counted: np.ndarray,
    numbers: np.ndarray, whole: float,
) -> Margin:  # fmt: skip
    depth = axis.placements[place].shown_depths[0]
    here = [
        at for at, each in enumerate(axis.grains)
        if len(each.depths) == place + 1 and each.depths[place] == depth and place not in each.others
    ]  # fmt: skip
    counted = counted & np.isin(axis.grain[entries], here)
    for at, each in enumerate(axis.placements[: place + 1]):
        # A joint member has the records of others, which stand beside it.
        rooms = np.array([len(level.keys) for level in own_members(each.members).levels])
        deep = np.array([grain.depths[at] if at < len(grain.depths) else 0 for grain in axis.grains])
        counted &= (axis.codes[entries, at] < rooms[deep[axis.grain[entries]]]) | _is_rest(axis, at)[entries]
    cells = np.flatnonzero(counted)
    codes, own = np.unique(axis.codes[entries[cells], place], return_inverse=True)
    values = np.bincount(np.asarray(own).ravel(), numbers[cells], len(codes))
    return Margin(name, place, depth, measure, codes, values, whole)
