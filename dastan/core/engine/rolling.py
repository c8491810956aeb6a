"""Coarser groups from finer ones."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import prod

import numpy as np

from dastan.core.engine.aggregates import roll_up
from dastan.core.engine.grouping import group_rows, unpacked_rows
from dastan.core.engine.waist import Groups, LevelRef
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.members import HierarchyMembers
from dastan.core.values import Values

_DENSE_FLOOR = 1 << 12
"""Up to so many possible groups, or twice as many as there are finer ones, all possible groups have a place."""


Members = Callable[[str, str], HierarchyMembers]


def finer_level(wanted: LevelRef, levels: tuple[LevelRef, ...], members: Members) -> LevelRef | None:
    """The level among some, at least as deep, of the same hierarchy; of a list, whose sets overlap, only itself."""
    for each in levels:
        if (each.dimension, each.hierarchy) == (wanted.dimension, wanted.hierarchy):
            known = members(each.dimension, each.hierarchy)
            if each == wanted or (known.spread is None and known.depth_of(each.level) >= known.depth_of(wanted.level)):
                return each
    return None


class Rolled:
    """One level of coarser groups: each finer group's code, and how many members the level has."""

    __slots__ = ("codes", "size")

    def __init__(self, codes: np.ndarray, members: HierarchyMembers, depth: int, wanted: int) -> None:
        """Args: `codes` are members at `depth`, `(n,) int32`; `wanted` is the depth of the level."""
        self.codes = codes if depth == wanted else members.above(depth, wanted)[codes]
        self.size = len(members.levels[wanted])


def rolled_up(
    levels: Sequence[Rolled], aggregates: Sequence[BaseAggregate], values: Sequence[Values], count: int
) -> Groups:
    """The groups by some levels, from `count` finer ones and their values, of aggregates that roll up."""
    sizes = [each.size for each in levels]
    room = prod(sizes)
    if room > max(_DENSE_FLOOR, 2 * count):
        every = [(each.codes, np.arange(each.size, dtype=np.int32), each.size) for each in levels]
        grouped = group_rows(every, count)
        found = _values(aggregates, values, grouped.group, grouped.count)
        return Groups(grouped.codes, tuple(found))
    key = np.zeros(count, np.int64)
    for each in levels:
        if each.size > 1:
            key *= each.size
            key += each.codes
    exists = np.flatnonzero(np.bincount(key, minlength=room))
    found = _values(aggregates, values, key, room)
    if len(exists) < room:
        found = [each.take(exists) for each in found]
    return Groups(unpacked_rows(exists, sizes), tuple(found))


def _values(
    aggregates: Sequence[BaseAggregate], values: Sequence[Values], group: np.ndarray, count: int
) -> list[Values]:
    return [
        roll_up(aggregate.kind, each, group, count, aggregate.argument)
        for aggregate, each in zip(aggregates, values, strict=True)
    ]
