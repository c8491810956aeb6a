"""Which periods are filled in part: the data begins or ends inside of them, so that they are no measure of the others.

Only the members that hold the first or the last day of the data can be such. How long a period of its level is, is told
by the others: a calendar that ends with the data does not know what would follow.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np

from dastan.core.engine.axes import Axis
from dastan.core.engine.grains import Placement
from dastan.core.model.document import SemanticModel
from dastan.core.model.joints import own_members
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import is_calendar

_KEPT = 32
_LEAST = 3
"""So many periods tell how long one of them usually is."""
_MOST_FILLED = 0.9
"""Months are of 28 to 31 days, and quarters of 90 to 92: what has so much of the usual is whole."""


def with_part_filled(axis: Axis, model: SemanticModel, oldest: str | None, newest: str | None) -> Axis:
    """An axis that knows which of its periods are filled in part. Args: the data's first and last day as ISO text."""
    if oldest is None or newest is None:
        return axis
    return replace(axis, part_filled=tuple(_of(each, model, oldest, newest) for each in axis.placements))


def _of(placement: Placement, model: SemanticModel, oldest: str, newest: str) -> tuple[np.ndarray, ...]:
    if not is_calendar(model, model.dimension(placement.placed.dimension)):
        return ()
    return part_filled(own_members(placement.members), oldest, newest)


@lru_cache(_KEPT)
def part_filled(members: HierarchyMembers, oldest: str, newest: str) -> tuple[np.ndarray, ...]:
    """Per level `(n_members,) bool`; nothing of a hierarchy whose finest members are not days.

    Args: the data's first and last day as ISO text.
    """
    deepest = len(members.levels) - 1
    days = np.array([str(key)[:10] if key is not None else "" for key in members.levels[deepest].keys])
    is_day = np.array([len(each) == len(oldest) and each[4:5] == "-" for each in days], np.bool_)
    within = np.flatnonzero(is_day & (days >= oldest) & (days <= newest))
    if members.spread is not None or not len(within) or not is_day[days != ""].all():
        return ()
    edges = within[[np.argmin(days[within]), np.argmax(days[within])]]
    found = []
    for depth, level in enumerate(members.levels):
        filled = np.zeros(len(level), np.bool_)
        if depth < deepest:
            lengths = np.bincount(members.at_depth(np.flatnonzero(is_day), deepest, depth), minlength=len(level))
            loaded = np.bincount(members.at_depth(within, deepest, depth), minlength=len(level))
            if (lengths > 0).sum() >= _LEAST:
                cut = members.at_depth(edges, deepest, depth)
                filled[cut] = loaded[cut] < _MOST_FILLED * np.median(lengths[lengths > 0])
        found.append(filled)
    return tuple(found)
