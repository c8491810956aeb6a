"""Totals that would say again what their only child says: the total of one child is not repeated."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.axes import Axis
from dastan.core.values import Values


@dataclass(frozen=True, slots=True, eq=False)
class Along:
    """Cells as they lie along an axis, in no order.

    `own` and `other` are `(n,) int64`, entries of the axis and of the one across; `values` has those of each measure.
    """

    own: np.ndarray
    other: np.ndarray
    values: Sequence[Values]


def repeated_totals(axis: Axis, has_figures: np.ndarray, cells: Along, across: int) -> np.ndarray:
    """Which headers have one child only, with the very same figures; `(n,) bool`.

    A limit that hides its siblings leaves a child with other figures than what it stands in. A child without
    figures of its own says nothing, unless one below it says the same again.

    Args: `has_figures` is `(n,) bool`, `across` the count of entries of the other axis.
    """
    parent = axis.parents()
    inner = np.flatnonzero(parent >= 0)
    count = np.bincount(parent[inner], minlength=len(axis))
    child = np.full(len(axis), -1)
    child[parent[inner]] = inner
    single = np.flatnonzero(count == 1)
    same = single[_have_same(single, child[single], cells, len(axis), across)]
    repeated = np.zeros(len(axis), np.bool_)
    # What is repeated by a child that is repeated itself is said by the last of them.
    for _ in range(len(same)):
        now = same[has_figures[child[same]] | repeated[child[same]]]
        if repeated[now].all():
            break
        repeated[now] = True
    return repeated


def _have_same(totals: np.ndarray, children: np.ndarray, cells: Along, size: int, across: int) -> np.ndarray:
    """`(n,) bool`: whether each total has the same cells as its child, in every fact."""
    same = np.ones(len(totals), np.bool_)
    if not len(totals) or not cells.values:
        return same
    # A cell without any value is as good as none.
    has_value = np.any([each.present for each in cells.values], axis=0)
    found = []
    for number in (_numbers(each, size) for each in (totals, children)):
        pair = number[cells.own]
        here = np.flatnonzero((pair >= 0) & has_value)
        key = pair[here].astype(np.int64) * across + cells.other[here]
        order = np.argsort(key)
        found.append((key[order], here[order]))
    (key, at), (child_key, child_at) = found
    if not len(child_key):
        same[key // max(across, 1)] = False
        return same
    place = np.minimum(np.searchsorted(child_key, key), len(child_key) - 1)
    differs = child_key[place] != key
    for values in cells.values:
        one, other = values.take(at), values.take(child_at[place])
        # A float may have been added up in another order.
        is_other = one.data != other.data if one.scale is not None else ~np.isclose(one.data, other.data, 1e-9, 0)
        differs |= (one.present != other.present) | (one.present & is_other)
    same[key[differs] // max(across, 1)] = False
    same &= np.bincount(key // max(across, 1), minlength=len(totals)) == np.bincount(
        child_key // max(across, 1), minlength=len(totals)
    )
    return same


def _numbers(entries: np.ndarray, size: int) -> np.ndarray:
    number = np.full(size, -1)
    number[entries] = np.arange(len(entries))
    return number
