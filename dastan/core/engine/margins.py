"""What the members of each hierarchy in a table come to by themselves, whatever totals the table shows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import AXES, AxisName
from dastan.core.engine.axes import Axis
from dastan.core.engine.worked_out import WorkedOut
from dastan.core.model.joints import own_members


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
    measure = next((at for at, adds in enumerate(adds_up) if adds), None)
    if measure is None:
        return ()
    values, margins = found.values[measure], []
    sides = ((found.rows, found.cube.rows), (found.columns, found.cube.columns))
    for name, (axis, entries), (other, across) in zip(AXES, sides, reversed(sides), strict=True):
        # Of all cells those at the other axis's total, which are few.
        cells = np.flatnonzero((across == other.total) & values.present)
        entries, numbers = entries[cells], values.take(cells).as_float()
        whole = float(numbers[entries == axis.total].sum())
        for place, placement in enumerate(axis.placements):
            margins.append(_margin(name, place, measure, axis, entries, numbers, whole))
            if placement.members.spread is not None:
                break
    return tuple(each for each in margins if len(each.codes))


def _margin(
    name: AxisName, place: int, measure: int, axis: Axis, entries: np.ndarray, numbers: np.ndarray, whole: float
) -> Margin:
    depth = axis.placements[place].shown_depths[0]
    counted = np.zeros(len(entries), np.bool_)
    for number, grain in enumerate(axis.grains):
        if len(grain.depths) == place + 1 and grain.depths[place] == depth and place not in grain.others:
            here = np.flatnonzero(axis.grain[entries] == number)
            codes = axis.codes[entries[here]]
            own = np.ones(len(here), np.bool_)
            for at, each in enumerate(grain.depths):
                if at not in grain.others:
                    # A joint member has the records of others, which stand beside it.
                    own &= codes[:, at] < len(own_members(axis.placements[at].members).levels[each].keys)
            counted[here[own]] = True
    codes = axis.codes[entries[counted], place]
    found = np.flatnonzero(np.bincount(codes))
    return Margin(name, place, depth, measure, found, np.bincount(codes, numbers[counted])[found], whole)
