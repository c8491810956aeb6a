"""What depends on its neighbours on an axis: running totals, ranks and their kin, for all cells at once."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.engine.axes import Axis
from dastan.core.engine.cube import Cube, with_cells
from dastan.core.engine.grains import AxisGrain
from dastan.core.engine.grouping import sorted_by
from dastan.core.errors import LimitError
from dastan.core.formula.arithmetic import operate
from dastan.core.formula.formula import Along
from dastan.core.model.joints import JoinedMembers
from dastan.core.values import Values, empty_values

GOES_ON = ("running", "moving_sum", "moving_mean", "before", "step")
"""What has a value also where no record is."""


@dataclass(frozen=True, slots=True, eq=False)
class Sequences:
    """The cells of a cube as they stand one after another along an axis.

    `order` are the cells, `(n,) int64`, those of a sequence together; `starts` where each sequence begins in it; `back`
    finds each cell there. `beside` is true for cells that are counted already, `is_total` for those of the grand total.
    """

    order: np.ndarray
    starts: np.ndarray
    back: np.ndarray
    beside: np.ndarray
    is_total: np.ndarray


def sequences_along(cube: Cube, axis: Axis, name: AxisName, restarts: bool) -> Sequences:
    """Those of one axis: what stands together on it, at one header of the other axis."""
    own, other = (cube.rows, cube.columns) if name == "rows" else (cube.columns, cube.rows)
    group, place = _standing_together(axis, restarts)
    beside = beside_others(axis, restarts)
    if beside.any():
        # What is counted in the sequence already stands in none.
        group = np.where(beside, len(axis) + np.arange(len(axis)), group)
    order = sorted_by((group[own], other, place[own]))
    of_group, across = group[own][order], other[order]
    starts = np.flatnonzero(np.append(True, (of_group[1:] != of_group[:-1]) | (across[1:] != across[:-1])))
    back = np.empty(len(order), np.int64)
    back[order] = np.arange(len(order))
    return Sequences(order, starts, back, beside[own], axis.grain[own] == axis.grains.index(AxisGrain(())))


def along_axis(along: Along, values: Values, sequences: Sequences) -> Values:
    """The values of `along`, from those of what it is of, one for each cell of the cube.

    Raises: LimitError for a running total of more than 18 digits.
    """
    if not len(values):
        return empty_values(0, values.scale if along.kind in ("running", "before", "step") else 0)
    if sequences.beside.any():
        values = replace(values, present=values.present & ~sequences.beside)
    own, starts = values.take(sequences.order), sequences.starts
    if along.kind == "running":
        found = _running(own, starts)
    elif along.kind in ("moving_sum", "moving_mean"):
        found = _moving(own, starts, along.count, along.kind == "moving_mean")
    elif along.kind in ("before", "step"):
        found = _before(own, starts, along.kind == "step")
    else:
        ways = {"rank": _ranked, "cumulative": _cumulative, "index": _index}
        found = ways[along.kind](own, starts)
        # A grand total has no others beside it.
        found = replace(found, present=found.present & ~sequences.is_total[sequences.order])
    return found.take(sequences.back)


def beside_others(axis: Axis, restarts: bool) -> np.ndarray:
    """`(n,) bool`: which entries are joint members, or below one, whose records stand in the same sequence without them
    as well. Where each sequence has one parent, what is below a joint member stands by itself."""
    found = np.zeros(len(axis), np.bool_)
    for number, grain in enumerate(axis.grains):
        last = len(grain.depths) - 1
        members = axis.placements[last].members if grain.depths else None
        if isinstance(members, JoinedMembers) and last not in grain.others:
            entries, depth = axis.entries_at(number), grain.depths[last]
            standing, place = np.unique(axis.codes[entries, last], return_inverse=True)
            beside = members.beside(depth, standing)
            if restarts:
                beside &= np.isin(standing, [each.code for each in members.branches if each.deep == depth])
            found[entries] = beside[np.asarray(place).ravel()]
    return found


def filled_along(cube: Cube, axis: Axis, name: AxisName, most: int) -> Cube:
    """The cube with a cell wherever a running total goes on, though no record is there.

    Raises: LimitError where these would be more than `most`.
    """
    own, other = (cube.rows, cube.columns) if name == "rows" else (cube.columns, cube.rows)
    further_own, further_other = [], []
    for number in range(len(axis.grains)):
        entries = axis.entries_at(number)
        here = np.flatnonzero(axis.grain[own] == number)
        if len(entries) < 2 or not len(here):
            continue
        across = np.unique(other[here])
        if len(across) * len(entries) > most:
            raise LimitError(
                "A running total along so many members is too large.", "Show a coarser level, or keep fewer members."
            )
        column = np.full(len(axis), -1)
        column[entries] = np.arange(len(entries))
        stands = np.zeros((len(across), len(entries)), np.bool_)
        stands[np.searchsorted(across, other[here]), column[own[here]]] = True
        at_row, at_column = np.nonzero(~stands)
        further_own.append(entries[at_column])
        further_other.append(across[at_row])
    if not further_own:
        return cube
    more, across = np.concatenate(further_own), np.concatenate(further_other)
    return with_cells(cube, *((more, across) if name == "rows" else (across, more)))


def _standing_together(axis: Axis, restarts: bool) -> tuple[np.ndarray, np.ndarray]:
    """For each entry of an axis, `(n,) int64`: which entries stand in sequence with it, and its place among them."""
    place = np.zeros(len(axis), np.int64)
    keys = np.full((len(axis), len(axis.placements) + 2), -1, np.int64)
    keys[:, 0] = axis.grain
    for number, grain in enumerate(axis.grains):
        entries = axis.entries_at(number)
        if not len(entries) or not grain.depths:
            continue
        last = len(grain.depths) - 1
        keys[entries[:, None], 1 + np.arange(last)] = axis.codes[entries, :last]
        codes = axis.codes[entries, last]
        level = axis.placements[last].members.levels[grain.depths[last]]
        # The rest that a limit leaves, where it stands, comes after all members.
        place[entries] = codes if last in grain.others else level.first[codes]
    if restarts:
        keys[:, -1] = axis.parents()
    group = np.unique(keys, axis=0, return_inverse=True)[1]
    return np.asarray(group).ravel(), place


def _running(values: Values, starts: np.ndarray) -> Values:
    """The total so far in each sequence; empty before the first value."""
    data = np.where(values.present, values.data, 0)
    total, seen = np.cumsum(data), np.cumsum(values.present)
    if values.scale is not None and len(data) and np.abs(data.astype(np.float64)).sum() > np.iinfo(np.int64).max / 2:
        raise LimitError("A running total has more than 18 digits and would not be exact.", "Narrow the question.")
    lengths = np.diff(np.append(starts, len(data)))
    if values.scale is None:
        # Each sequence by itself, so that none carries the rounding of those before it.
        total = np.concatenate([np.cumsum(each) for each in np.split(data, starts[1:])])
    else:
        total = total - np.repeat(total[starts] - data[starts], lengths)
    seen = seen - np.repeat(seen[starts] - values.present[starts], lengths)
    return Values(total, values.scale, seen > 0)


def _moving(values: Values, starts: np.ndarray, count: int, is_mean: bool) -> Values:
    """The sum, or the mean, of each value with those before it in its sequence, `count` together."""
    size = len(values)
    place = np.arange(size) - np.repeat(starts, np.diff(np.append(starts, size)))
    data = np.where(values.present, values.data, 0)
    if values.scale is not None and size and np.abs(data.astype(np.float64)).max() * count > np.iinfo(np.int64).max / 2:
        raise LimitError("A moving sum has more than 18 digits and would not be exact.", "Narrow the question.")
    total, seen = np.zeros(size, data.dtype), np.zeros(size, np.int64)
    for back in range(min(count, size)):
        reached = np.flatnonzero(place >= back)
        total[reached] += data[reached - back]
        seen[reached] += values.present[reached - back]
    present = (seen > 0) & (place >= count - 1)
    if not is_mean:
        return Values(total, values.scale, present)
    return Values(Values(total, values.scale, present).as_float() / np.maximum(seen, 1), None, present)


def _before(values: Values, starts: np.ndarray, is_step: bool) -> Values:
    """What the one before each in its sequence has, or how much more than that each has; the first has none before it.
    Where only one of two is there, the other counts as nothing."""
    size = len(values)
    has_one = np.ones(size, np.bool_)
    has_one[starts] = False
    before = values.take(np.maximum(np.arange(size) - 1, 0))
    before = replace(before, present=before.present & has_one)
    if not is_step:
        return before
    step = operate("-", values, before)
    return replace(step, present=step.present & has_one)


def _index(values: Values, starts: np.ndarray) -> Values:
    """100 times each value over the first of its sequence that there is; empty where that is zero."""
    size = len(values)
    lengths = np.diff(np.append(starts, size))
    at = np.where(values.present, np.arange(size), size)
    first = np.repeat(np.minimum.reduceat(at, starts), lengths)
    base = np.append(values.as_float(), 0.0)[first]
    present = values.present & (base != 0)
    return Values(np.divide(100 * values.as_float(), base, out=np.zeros(size), where=present), None, present)


def _cumulative(values: Values, starts: np.ndarray) -> Values:
    """The share of each sequence's sum that a value and those before it make, the largest first; equal ones in
    natural order."""
    size = len(values)
    lengths = np.diff(np.append(starts, size))
    sequence = np.repeat(np.arange(len(starts)), lengths)
    data = np.where(values.present, values.as_float(), 0.0)
    order = np.lexsort((np.arange(size), -data, ~values.present, sequence))
    so_far = np.concatenate([np.cumsum(each) for each in np.split(data[order], starts[1:])])
    total = np.repeat(np.add.reduceat(data, starts), lengths)
    found = np.empty(size)
    found[order] = so_far
    present = values.present & (total != 0)
    return Values(np.divide(found, total, out=np.zeros(size), where=present), None, present)


def _ranked(values: Values, starts: np.ndarray) -> Values:
    """1 for the largest of each sequence; equal ones share a place, and what is empty has none."""
    size = len(values)
    sequence = np.zeros(size, np.int64)
    sequence[starts[1:]] = 1
    sequence = np.cumsum(sequence)
    order = np.lexsort((np.where(values.present, -values.data, 0), ~values.present, sequence))
    position = np.arange(size) - starts[sequence[order]]
    is_same = (values.data[order][1:] == values.data[order][:-1]) & (sequence[order][1:] == sequence[order][:-1])
    first = np.maximum.accumulate(np.where(np.append(True, ~is_same), np.arange(size), 0))
    ranks = np.empty(size, np.int64)
    ranks[order] = position[first] + 1
    return Values(ranks, 0, values.present.copy())
