"""Differences and ratios of members: what is shown of the first less, or by, what is shown of the second, cell by cell.

Until then each of the two stands as a member of its own, under the filters that the difference is under; the second has
no header any more afterwards.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from dastan.core.analysis.document import AXES, AxisName
from dastan.core.engine.arranging import Cells
from dastan.core.engine.axes import Axis
from dastan.core.engine.grains import AxisGrain, Placement
from dastan.core.formula.arithmetic import operate
from dastan.core.model.joints import differences, how_joined
from dastan.core.values import Values, joined, widened


def with_firsts(
    existing: dict[AxisGrain, np.ndarray], placements: tuple[Placement, ...]
) -> dict[AxisGrain, np.ndarray]:
    """The headers with that of a difference wherever its second member stands. Args: codes by grain."""
    found = dict(existing)
    for grain in existing:
        for place, depth in enumerate(grain.depths):
            for first, second in differences(placements[place].members, depth).items():
                further = found[grain][found[grain][:, place] == second].copy()
                if place not in grain.others and len(further):
                    further[:, place] = first
                    found[grain] = np.unique(np.concatenate([found[grain], further]), axis=0)
    return found


class Both(NamedTuple):
    """Per measure, at cells of a difference or ratio of members what each of the two came to."""

    firsts: tuple[Values, ...] = ()
    seconds: tuple[Values, ...] = ()


NEITHER = Both()


def with_differences(cells: Cells, divides: Sequence[bool]) -> Cells:
    """The cells with differences and ratios in place of their two members. Behind the values of the measures follow,
    where there are any, what the first of the two came to at them, and then the second.

    Args: `divides` tells of each measure whether a ratio of it means anything: one of changes does not.
    """
    pairs = [
        (name, place, depth, pair, how_joined(placement.members, depth, pair[0]) == "ratio")
        for name, axis in zip(AXES, (cells.rows, cells.columns), strict=True)
        for place, placement in enumerate(axis.placements)
        for depth in range(len(placement.members.levels))
        for pair in differences(placement.members, depth).items()
    ]
    if not pairs:
        return cells
    nothing = tuple(replace(each, present=np.zeros(len(each), np.bool_)) for each in cells.values)
    found = replace(cells, values=(*cells.values, *nothing, *nothing))
    for name, place, depth, pair, is_ratio in pairs:
        found = _told_apart(found, name, place, depth, pair, divides if is_ratio else None)
    return found


def _told_apart(
    cells: Cells, name: AxisName, place: int, depth: int, pair: tuple[int, int], divides: Sequence[bool] | None
) -> Cells:
    """Args: `divides` of a ratio, None of a difference."""
    most = len(cells.values) // 3
    axis = cells.rows if name == "rows" else cells.columns
    own, other = (cells.cell_rows, cells.cell_columns) if name == "rows" else (cells.cell_columns, cells.cell_rows)
    first_of = np.arange(len(axis))
    is_second = np.zeros(len(axis), np.bool_)
    for number, grain in enumerate(axis.grains):
        entries = axis.entries_at(number)
        if len(grain.depths) <= place or grain.depths[place] != depth or place in grain.others or not len(entries):
            continue
        codes = axis.codes[entries, : len(grain.depths)]
        seconds = entries[codes[:, place] == pair[1]]
        wanted = axis.codes[seconds, : len(grain.depths)].copy()
        wanted[:, place] = pair[0]
        first_of[seconds] = axis.entries_of(grain, wanted)
        is_second[seconds] = True
    is_first = np.isin(axis.codes[:, place], pair[0]) & _at_depth(axis, place, depth)
    across = len(cells.columns if name == "rows" else cells.rows)
    plain = np.flatnonzero(~is_second[own] & ~is_first[own])
    ones, others = np.flatnonzero(is_first[own]), np.flatnonzero(is_second[own])
    places, at = np.unique(
        np.concatenate([own[ones] * across + other[ones], first_of[own[others]] * across + other[others]]),
        return_inverse=True,
    )
    at = np.asarray(at).ravel()
    values = []
    for number, each in enumerate(cells.values):
        measure = cells.values[number % most]
        one = widened(measure.take(ones), at[: len(ones)], len(places))
        two = widened(measure.take(others), at[len(ones) :], len(places))
        if number >= most:
            told = one if number < 2 * most else two
        elif divides is None:
            told = operate("-", one, two)
        elif divides[number]:
            told = operate("/", one, two)
        else:
            told = replace(one, present=np.zeros(len(one), np.bool_))
        rest = each.take(plain)
        if told.scale is None and rest.scale is not None:
            rest = Values(rest.as_float(), None, rest.present)  # beside what is divided all are floats
        values.append(joined([rest, told]))
    new_own = np.concatenate([own[plain], places // across])
    new_other = np.concatenate([other[plain], places % across])
    # The second member's headers stand no more.
    kept = np.flatnonzero(~is_second)
    number_of = np.full(len(axis), -1)
    number_of[kept] = np.arange(len(kept))
    left = axis.arranged(kept, axis.is_heading[kept])
    rows, columns = (number_of[new_own], new_other) if name == "rows" else (new_other, number_of[new_own])
    return Cells(
        left if name == "rows" else cells.rows, cells.columns if name == "rows" else left, rows, columns, tuple(values)
    )


def _at_depth(axis: Axis, place: int, depth: int) -> np.ndarray:
    """`(n,) bool`: which entries have a member of a depth at a place."""
    has = [
        len(each.depths) > place and each.depths[place] == depth and place not in each.others for each in axis.grains
    ]
    return np.asarray(np.array(has)[axis.grain])
