"""The plan: which grouped requests answer a question, and how each cell's grain is served.

Every cell belongs to one pair of grains, a row grain and a column grain. A pair whose cross product is
small is grouped whole, so that coarser pairs over the same records are added up from it. A pair that could be
large is grouped only below the members that are open, so that opening one day does not group every day.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from math import prod
from typing import NamedTuple

import numpy as np

from dastan.core.engine.grains import AxisGrain, Placement, axis_codes, grouped_parts
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.waist import Conditions, Groups, LevelRef, MemberSet, Request, Rights
from dastan.core.engine.watch import Watch
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.reach import Grain

WHOLE_LIMIT = 1_000_000
"""A pair of grains with at most this many possible groups is grouped whole."""

OPEN_PATHS_LIMIT = 2_000
"""Above this many open members a restriction costs more than it saves."""


class PairOfGrains(NamedTuple):
    """A row grain and a column grain: where some of the cells stand."""

    rows: AxisGrain
    columns: AxisGrain


@dataclass(frozen=True, slots=True, eq=False)
class Shape:
    """The two axes as they are seen, with their limits."""

    rows: AxisLimits
    columns: AxisLimits
    _parts: dict[PairOfGrains, list[tuple[Placement, int]]] = field(default_factory=dict, init=False)
    _levels: dict[PairOfGrains, tuple[LevelRef, ...]] = field(default_factory=dict, init=False)

    def parts(self, pair: PairOfGrains) -> list[tuple[Placement, int]]:
        """What a pair of grains is grouped by: placements with their depths, rows first."""
        found = self._parts.get(pair)
        if found is None:
            found = self._parts[pair] = [
                (placement, depth)
                for placements, grain in ((self.rows.placements, pair.rows), (self.columns.placements, pair.columns))
                for _, placement, depth in grouped_parts(placements, grain)
            ]
        return found

    def levels(self, pair: PairOfGrains) -> tuple[LevelRef, ...]:
        """The levels that a pair of grains is grouped by."""
        found = self._levels.get(pair)
        if found is None:
            found = self._levels[pair] = tuple(placement.level(depth) for placement, depth in self.parts(pair))
        return found

    def room(self, pair: PairOfGrains) -> int:
        """How many groups a pair of grains may have."""
        return prod(len(placement.members.levels[depth]) for placement, depth in self.parts(pair))

    def axis_codes(
        self, pair: PairOfGrains, codes: tuple[np.ndarray, ...], count: int
    ) -> tuple[np.ndarray, np.ndarray]:
        """The codes of the row headers and of the column headers of groups, `(count, n_places)` each."""
        width = len(codes) if not pair.columns.depths else len(grouped_parts(self.rows.placements, pair.rows))
        return (
            axis_codes(self.rows.placements, pair.rows, codes[:width], count),
            axis_codes(self.columns.placements, pair.columns, codes[width:], count),
        )


@dataclass(frozen=True, slots=True)
class Asked:
    """What every request of a question has in common."""

    grain: Grain
    aggregates: tuple[BaseAggregate, ...]
    condition: Conditions
    rights: Rights


def group_pairs(
    pairs: Mapping[PairOfGrains, Conditions],
    shape: Shape,
    asked: Asked,
    group: Callable[[Request], Groups],
    watch: Watch,
) -> dict[PairOfGrains, Groups]:
    """The groups of every pair, the finest asked first, so that coarser ones can be added up from them.

    Args:
        pairs: each with what holds for its records beside the common condition.
        group: answers one request, as a cache does that adds up coarser groups from finer ones.
        watch: is told of each pair.
    """
    families = [
        alike
        for rolls_up in (True, False)
        if (alike := tuple(each for each in asked.aggregates if each.rolls_up == rolls_up))
    ]
    place = {each: at for at, each in enumerate(each for alike in families for each in alike)}
    answers = {}
    rooms = {each: shape.room(each) for each in pairs}
    ordered = sorted(pairs, key=lambda each: -rooms[each])
    for at, pair in enumerate(ordered):
        restriction = _open_parents(shape, pair) if rooms[pair] > WHOLE_LIMIT else ()
        condition = asked.condition + pairs[pair] + restriction
        found = []
        for alike in families:
            watch.note_done()
            along: tuple[tuple[LevelRef, ...], ...] = ()
            if not restriction and not alike[0].rolls_up:
                along = tuple(shape.levels(each) for each in ordered[at + 1 :] if pairs[each] == pairs[pair])
            found.append(group(Request(asked.grain, shape.levels(pair), alike, condition, asked.rights, along)))
        values = [each for groups in found for each in groups.values]
        answers[pair] = Groups(found[0].codes, tuple(values[place[each]] for each in asked.aggregates))
    return answers


def part_count(aggregates: tuple[BaseAggregate, ...], pairs: int) -> int:
    """How many parts the watch is told of."""
    return pairs * len({each.rolls_up for each in aggregates})


def _open_parents(shape: Shape, pair: PairOfGrains) -> Conditions:
    """Restricts each placement below its start to what lies under its open members, where that helps."""
    restriction: list[MemberSet] = []
    for placement, depth in shape.parts(pair):
        if depth <= placement.start:
            continue
        above = placement.is_reached[depth - 1] & placement.is_open[depth - 1]
        codes = np.flatnonzero(above)
        if len(codes) < len(above) and len(codes) <= OPEN_PATHS_LIMIT:
            paths = tuple(placement.members.path_of(depth - 1, int(code)) for code in codes)
            restriction.append(MemberSet(placement.placed.dimension, placement.placed.hierarchy, paths, True))
    return tuple(restriction)
