"""Which headers stand at a level, or below it."""

from __future__ import annotations

import numpy as np

from dastan.core.engine.axes import Axis
from dastan.core.formula.formula import Standing


def entries_standing(standing: Standing, axis: Axis) -> np.ndarray:
    """`(n_entries,) bool`: the headers of an axis that stand at the level that is asked for; below it too, where that
    is asked."""
    dimension, _, level = standing.level
    by_grain = np.zeros(len(axis.grains), np.bool_)
    for place, placement in enumerate(axis.placements):
        if placement.placed.dimension != dimension:
            continue
        names = [each.name for each in placement.members.levels]
        if level not in names:
            continue  # a hierarchy that does not go through it
        wanted = names.index(level)
        for number, grain in enumerate(axis.grains):
            depth = grain.depths[place] if len(grain.depths) > place else -1
            by_grain[number] |= depth == wanted or (standing.or_below and depth > wanted)
    return np.asarray(by_grain[axis.grain])
