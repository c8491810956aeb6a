"""The base aggregates: each computed from rows, and rolled up from finer groups where that is right."""

from __future__ import annotations

from typing import Literal

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.grouping import RowGroups
from dastan.core.engine.stopping import slices
from dastan.core.errors import LimitError
from dastan.core.formula.bases import BaseAggregate, BaseKind
from dastan.core.values import Values

COUNT = BaseAggregate("count")


def reduce_values(kind: BaseKind, values: Values, group: np.ndarray, count: int, name: str) -> Values:
    """Sum, least or greatest of each group's values, or how many there are; empty where there are none.

    Args:
        group: `(n,) int64` places in 0 to `count` - 1, one per value.
        name: what is aggregated, for the message.
    Raises: LimitError when a sum leaves 64 bits.
    """
    if kind == "sum":
        sums, found = _sum(values, group, count, name)
        return Values(sums, values.scale, found > 0)
    if kind == "count_values":
        found = np.zeros(count, np.int64)
        for rows in slices(len(group)):
            kernels.count_present(group[rows], values.present[rows], found)
        return Values(found, 0, np.ones(count, np.bool_))
    best = np.zeros(count, values.data.dtype)
    has = np.zeros(count, np.bool_)
    kernel = kernels.least if kind == "min" else kernels.greatest
    for rows in slices(len(group)):
        kernel(group[rows], values.data[rows], values.present[rows], has, best)
    return Values(best, values.scale, has)


def _sum(values: Values, group: np.ndarray, count: int, name: str) -> tuple[np.ndarray, np.ndarray]:
    """Each group's sum, and how many values are in it."""
    found = np.zeros(count, np.int64)
    if values.scale is None:
        sums, lost = np.zeros(count), np.zeros(count)
        for rows in slices(len(group)):
            kernels.sum_float(group[rows], values.data[rows], values.present[rows], sums, lost, found)
        sums += lost
        if not np.isfinite(sums).all():
            raise too_large(name)
        return sums, found
    exact = np.zeros(count, np.int64)
    overflowed = False
    for rows in slices(len(group)):
        overflowed |= kernels.sum_exact(group[rows], values.data[rows], values.present[rows], exact, found)
    if overflowed:
        raise LimitError(
            f"A sum of {name} has more than 18 digits and would not be exact.",
            "Narrow the question, or give the column fewer decimals in the model.",
        )
    return exact, found


def too_large(name: str) -> LimitError:
    """For floats whose sum left all bounds."""
    return LimitError(f"A sum of {name} is too large for a number.", "Divide the column, or narrow the question.")


def roll_up(kind: BaseKind, values: Values, group: np.ndarray, count: int, name: str) -> Values:
    """Coarser groups' values from finer ones. Counts add up; a sum of sums is the sum."""
    if kind in ("count", "count_values"):
        return Values(_sum(values, group, count, name)[0], 0, np.ones(count, np.bool_))
    return reduce_values(kind, values, group, count, name)


def percentile_values(fraction: float, values: Values, group: np.ndarray, count: int) -> Values:
    """Each group's percentile, `(count,) float64`, interpolated between the two nearest ranks; to fifteen digits there.

    Args: `values` in ascending order, blanks left out; `group` their `(n,) int64` groups.
    """
    sizes = np.zeros(count, np.int64)
    for rows in slices(len(group)):
        kernels.count_rows(group[rows], sizes)
    low, high, share = ranks_of(fraction, sizes)
    data = values.as_float()
    picked = []
    for wanted in (low, high):
        found, seen = np.zeros(count), np.zeros(count, np.int64)
        for rows in slices(len(group)):
            kernels.pick_ranked(group[rows], data[rows], wanted, seen, found)
        picked.append(found)
    return between(picked[0], picked[1], share, sizes > 0)


def ranks_of(fraction: float, sizes: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The two nearest ranks of a percentile in groups of so many values, `(n,) int64` each, and how far it is from the
    first to the second, `(n,) float64`. Source: Hyndman and Fan (1996), definition 7; the median is the one at a half.
    """
    last = np.maximum(sizes - 1, 0)
    # Rounded away what multiplication leaves, so that 0.1 of 10 steps is step 1 and not just below it.
    place = np.round(last * fraction, 9)
    low = np.floor(place).astype(np.int64)
    return low, np.minimum(low + 1, last), place - low


def between(low: np.ndarray, high: np.ndarray, share: np.ndarray, present: np.ndarray) -> Values:
    """What lies so far from one value to the next in each group, to the digits that are known of both."""
    found = low + (high - low) * share
    size = np.maximum(np.abs(low), np.abs(high))
    return Values(np.where(share > 0, _without_noise(found, size), low), None, present)


def _without_noise(numbers: np.ndarray, size: np.ndarray) -> np.ndarray:
    """Floats with the digits that are known of them: half way from 0.1 to 0.2 is 0.15, and not 0.15000000000000002.

    Args: `size` is how far from zero what they were worked out from may be: fifteen digits of that are known.
    """
    near = (size > _LEAST_ROUNDED) & (size < _MOST_ROUNDED)
    shift = 10.0 ** (14 - np.floor(np.log10(size, out=np.zeros(len(size)), where=near)))
    return np.where(near, np.rint(numbers * shift) / shift, numbers)


_LEAST_ROUNDED, _MOST_ROUNDED = 1e-7, 1e14
"""Between these the shift that leaves whole numbers of fifteen digits is exact."""


def variance_values(values: Values, group: np.ndarray, count: int, name: str) -> Values:
    """Each group's sample variance, `(count,) float64`, in two passes; empty for fewer than two values."""
    numbers = Values(values.as_float(), None, values.present)
    total = reduce_values("sum", numbers, group, count, name)
    found = reduce_values("count_values", numbers, group, count, name).data
    mean = np.divide(total.data, found, out=np.zeros(count), where=found > 0)
    squared = np.empty(len(group))
    for rows in slices(len(group)):
        with np.errstate(over="ignore"):  # what is beyond all bounds is refused once it is summed
            squared[rows] = (numbers.data[rows] - mean[group[rows]]) ** 2
    away = Values(squared, None, values.present)
    squares = reduce_values("sum", away, group, count, name)
    has = found > 1
    return Values(np.divide(squares.data, found - 1, out=np.zeros(count), where=has), None, has)


def dated_values(
    which: Literal["first", "last", "average"], values: Values, days: np.ndarray, grouped: RowGroups, name: str
) -> Values:
    """Each group's value on the first or last day that has one; of several on that day the largest.

    Args: `days` are `(n,) int64` places in order of date, -1 for none: such a value is never the first or last.
    """
    group, count = grouped.group, grouped.count
    dated = Values(days, 0, values.present & (days >= 0))
    best = reduce_values("min" if which == "first" else "max", dated, group, count, name)
    on_day = np.empty(len(group), np.bool_)
    for rows in slices(len(group)):
        on_day[rows] = dated.present[rows] & (days[rows] == best.data[group[rows]])
    return reduce_values("max", Values(values.data, values.scale, on_day), group, count, name)
