"""A formula worked out for each member of a level inside a cell, and these values brought together."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dastan.core.engine.cube import CellsOfPair
from dastan.core.engine.elsewhere import rooms_of
from dastan.core.engine.grouping import find_rows
from dastan.core.engine.plan import PairOfGrains, Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.waist import LevelRef
from dastan.core.errors import LimitError
from dastan.core.formula.formula import Beneath
from dastan.core.model.joints import JoinedMembers
from dastan.core.values import Values, put_at, widened

_MOST = 9.2e18


def beneath_cells(beneath: Beneath, by_pair: Sequence[CellsOfPair], shape: Shape, questioner: Questioner) -> Values:
    """What the members of a level inside each cell of a cube come to together. Args: `by_pair` are all its cells."""
    found = [(each.cells, _of_pair(beneath, each.pair, each.codes, shape, questioner)) for each in by_pair]
    return put_at(found, sum(len(each.cells) for each in by_pair))


def _of_pair(beneath: Beneath, pair: PairOfGrains, codes: np.ndarray, shape: Shape, questioner: Questioner) -> Values:
    levels, limits = shape.levels(pair), shape.rows.condition(pair.rows) + shape.columns.condition(pair.columns)
    sides = ((shape.rows, pair.rows), (shape.columns, pair.columns))
    standing = tuple(each.placed.dimension for own, grain in sides for each in own.placements[: len(grain.depths)])
    finer, values = questioner.table_of(beneath.of, finer_levels(levels, beneath), limits, standing=standing)
    if finer.shape[1] > len(levels):
        kept = np.flatnonzero(~_beside(finer, levels, LevelRef(*beneath.level), questioner))
        finer, values = finer[kept], values.take(kept)
    grouped = tuple(finer[:, place] for place in range(len(levels)))
    both = np.hstack(shape.axis_codes(pair, grouped, len(finer)))
    return brought_together(beneath.how, values, find_rows(both, codes, rooms_of(shape, pair)), len(codes))


def _beside(finer: np.ndarray, levels: tuple[LevelRef, ...], level: LevelRef, questioner: Questioner) -> np.ndarray:
    """`(n,) bool`: of members of the level, which are joint ones beside those that they join: no further ones, but
    under a joint member. Args: `finer` holds the codes of `levels`, and last those of the level."""
    members = questioner.source.members(level.dimension, level.hierarchy)
    if not isinstance(members, JoinedMembers):
        return np.zeros(len(finer), np.bool_)
    found, place = np.unique(finer[:, -1], return_inverse=True)
    beside = members.beside(members.depth_of(level.level), found)[np.asarray(place).ravel()]
    for at, each in enumerate(levels):
        if each[:2] == level[:2]:
            beside &= finer[:, at] < len(members.base.levels[members.depth_of(each.level)])
    return beside


def finer_levels(levels: tuple[LevelRef, ...], beneath: Beneath) -> tuple[LevelRef, ...]:
    """Some levels and that of the members, which may be among them."""
    level = LevelRef(*beneath.level)
    return levels if level in levels else (*levels, level)


def brought_together(how: str, values: Values, at: np.ndarray, size: int) -> Values:
    """Some values as one for each place: their sum, their mean. Only those that are there count.

    Args: `at` is the place of each, `(n,) int64`, -1 for none.
    Raises: LimitError for an exact sum of more than 18 digits.
    """
    has = np.flatnonzero(values.present & (at >= 0))
    places, own = at[has], values.data[has]
    counts = np.bincount(places, minlength=size).astype(np.int64)
    present = counts > 0
    if how == "count":
        return Values(counts, 0, present)
    if how in ("least", "greatest"):
        order = np.lexsort((own, places))
        takes_first = np.append(True, places[order][1:] != places[order][:-1])
        takes = takes_first if how == "least" else np.append(takes_first[1:], True)
        best = order[takes] if len(order) else order
        return widened(Values(own[best], values.scale, np.ones(len(best), np.bool_)), places[best], size)
    total = np.zeros(size, own.dtype)
    np.add.at(total, places, own)
    if values.scale is not None:
        estimate = np.bincount(places, np.abs(own.astype(np.float64)), size)
        if np.any(estimate > _MOST):
            raise LimitError("Values added up over members come to more than 18 digits.", "Narrow the question.")
    if how == "sum":
        return Values(total, values.scale, present)
    whole = total if values.scale is None else total / np.float64(10**values.scale)
    return Values(whole / np.maximum(counts, 1), None, present)
