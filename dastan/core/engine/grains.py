"""The grains of an axis: every depth at which something of it is seen."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np

from dastan.core.analysis.document import PlacedDimension
from dastan.core.engine.waist import LevelRef
from dastan.core.model.members import HierarchyMembers


@dataclass(frozen=True, slots=True, eq=False)
class Placement:
    """One hierarchy on an axis with what is seen of it.

    Per depth `(n_members,) bool`: `is_open`; `is_seen` (it starts the placement or its parent is open and
    seen); an *edge* is seen and not open, so that the next dimension stands under it.
    """

    placed: PlacedDimension
    members: HierarchyMembers
    start: int
    is_open: tuple[np.ndarray, ...]
    is_seen: tuple[np.ndarray, ...]

    def is_edge(self, depth: int) -> np.ndarray:
        """`(n_members,) bool`: the members seen at a depth that are not open."""
        return np.asarray(self.is_seen[depth] & ~self.is_open[depth])

    def seen_depths(self) -> list[int]:
        """The depths at which some member is seen, from the start down."""
        return [depth for depth in range(self.start, len(self.members.levels)) if self.is_seen[depth].any()]

    def level(self, depth: int) -> LevelRef:
        """What to group by for that depth."""
        return LevelRef(self.placed.dimension, self.placed.hierarchy, self.members.levels[depth].name)


@dataclass(frozen=True, slots=True)
class AxisGrain:
    """One depth per placement, outermost first; fewer than there are placements for an outer subtotal."""

    depths: tuple[int, ...]


def see(placed: PlacedDimension, members: HierarchyMembers, masks: list[np.ndarray]) -> Placement:
    """What is seen of a hierarchy whose open members are given by `masks`."""
    start = members.depth_of(placed.level)
    seen: list[np.ndarray] = []
    for depth, level in enumerate(members.levels):
        if depth < start:
            seen.append(np.zeros(len(level), np.bool_))
        elif depth == start:
            seen.append(np.ones(len(level), np.bool_))
        else:
            seen.append((seen[-1] & masks[depth - 1])[level.parent])
    return Placement(placed, members, start, tuple(masks), tuple(seen))


def axis_grains(placements: tuple[Placement, ...]) -> list[AxisGrain]:
    """Every grain at which the axis has something to show, the grand total's first."""
    grains: list[AxisGrain] = []
    for count in range(len(placements) + 1):
        depths = [each.seen_depths() for each in placements[:count]]
        for combination in product(*depths):
            outer = zip(placements, combination[:-1], strict=False)
            if all(placement.is_edge(depth).any() for placement, depth in outer):
                grains.append(AxisGrain(tuple(combination)))
    return grains
