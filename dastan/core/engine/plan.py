"""The plan: which grouped requests answer a question, and how each cell's grain is served.

Every cell belongs to one pair of grains, a row grain and a column grain. A pair whose cross product is
small is grouped whole, so that coarser pairs over the same records roll up from it. A pair that could be
large is grouped only below the members that are open, so that opening one day does not group every day.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from math import prod
from typing import NamedTuple

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.grains import AxisGrain, Placement, axis_codes, grouped_parts
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.rolling import Rolled, rolled_up
from dastan.core.engine.waist import Conditions, Groups, MemberSet, Request, Rights
from dastan.core.engine.watch import Watch
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

    def parts(self, pair: PairOfGrains) -> list[tuple[Placement, int]]:
        """What a pair of grains is grouped by: placements with their depths, rows first."""
        if pair not in self._parts:
            self._parts[pair] = [
                (placement, depth)
                for placements, grain in ((self.rows.placements, pair.rows), (self.columns.placements, pair.columns))
                for _, placement, depth in grouped_parts(placements, grain)
            ]
        return self._parts[pair]

    def dimensions(self, pair: PairOfGrains) -> set[str]:
        """The dimensions whose members head a pair's cells."""
        rows, columns = self.rows.placements[: len(pair.rows.depths)], self.columns.placements
        return {each.placed.dimension for each in (*rows, *columns[: len(pair.columns.depths)])}

    def axis_codes(
        self, pair: PairOfGrains, codes: tuple[np.ndarray, ...], count: int
    ) -> tuple[np.ndarray, np.ndarray]:
        """The codes of the row headers and of the column headers of groups, `(count, n_places)` each."""
        width = len(grouped_parts(self.rows.placements, pair.rows))
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
    """The groups of every pair, with as few requests as roll-up allows.

    Aggregates that roll up are asked at the finest grain only; the others at every grain.
    Args:
        pairs: each with what holds for its records beside the common condition.
        group: answers one request, as a source does.
        watch: is told of each pair.
    """
    ordered = sorted(pairs, key=lambda each: -_room(shape, each))
    parts = [
        _group_alike(ordered, pairs, shape, replace(asked, aggregates=alike), group, rolls_up, watch)
        for rolls_up in (True, False)
        if (alike := tuple(each for each in asked.aggregates if each.rolls_up == rolls_up))
    ]
    place = sorted(asked.aggregates, key=lambda each: not each.rolls_up)
    answers = {}
    for pair in ordered:
        values = [each for part in parts for each in part[pair].values]
        answers[pair] = Groups(parts[0][pair].codes, tuple(values[place.index(each)] for each in asked.aggregates))
    return answers


def part_count(aggregates: tuple[BaseAggregate, ...], pairs: int) -> int:
    """How many parts the watch is told of."""
    return pairs * len({each.rolls_up for each in aggregates})


def _group_alike(
    pairs: list[PairOfGrains],
    more: Mapping[PairOfGrains, Conditions],
    shape: Shape,
    asked: Asked,
    group: Callable[[Request], Groups],
    rolls_up: bool,
    watch: Watch,
) -> dict[PairOfGrains, Groups]:
    answers: dict[PairOfGrains, Groups] = {}
    whole: list[PairOfGrains] = []
    for pair in pairs:
        watch.note_done()
        finer = [each for each in whole if more[each] == more[pair] and _is_finer(shape, each, pair)]
        if rolls_up and finer:
            smallest = min(finer, key=lambda each: len(answers[each]))
            answers[pair] = roll_up_groups(answers[smallest], smallest, pair, shape, asked)
            whole.append(pair)
            continue
        restriction = _open_parents(shape, pair) if _room(shape, pair) > WHOLE_LIMIT else ()
        levels = tuple(placement.level(depth) for placement, depth in shape.parts(pair))
        condition = asked.condition + more[pair] + restriction
        answers[pair] = group(Request(asked.grain, levels, asked.aggregates, condition, asked.rights))
        if not restriction:
            whole.append(pair)
    return answers


def roll_up_groups(finer: Groups, finer_pair: PairOfGrains, pair: PairOfGrains, shape: Shape, asked: Asked) -> Groups:
    """The groups of a coarser pair, from those of a finer one that covers the same records."""
    own = {
        id(placement): (codes, depth)
        for (placement, depth), codes in zip(shape.parts(finer_pair), finer.codes, strict=True)
    }
    levels = []
    for placement, depth in shape.parts(pair):
        codes, own_depth = own[id(placement)]
        levels.append(Rolled(codes, placement.members, own_depth, depth))
    return rolled_up(levels, asked.aggregates, finer.values, len(finer))


def _room(shape: Shape, pair: PairOfGrains) -> int:
    return prod(len(placement.members.levels[depth]) for placement, depth in shape.parts(pair))


def _is_finer(shape: Shape, finer: PairOfGrains, coarser: PairOfGrains) -> bool:
    """Whether a pair's groups add up to another's. Sets of a list may overlap, so they never add up."""
    fine, coarse = ({id(one): (one, depth) for one, depth in shape.parts(each)} for each in (finer, coarser))
    lists = {each for each, (placement, _) in fine.items() if placement.members.spread is not None}
    return lists <= set(coarse) and all(each in fine and fine[each][1] >= depth for each, (_, depth) in coarse.items())


def _open_parents(shape: Shape, pair: PairOfGrains) -> Conditions:
    """Restricts each placement below its start to what lies under its open members, where that helps."""
    restriction: list[MemberSet] = []
    for placement, depth in shape.parts(pair):
        if depth == placement.start:
            continue
        above = placement.is_reached[depth - 1] & placement.is_open[depth - 1]
        codes = np.flatnonzero(above)
        if len(codes) < len(above) and len(codes) <= OPEN_PATHS_LIMIT:
            paths = tuple(placement.members.path_of(depth - 1, int(code)) for code in codes)
            restriction.append(MemberSet(placement.placed.dimension, placement.placed.hierarchy, paths, True))
    return tuple(restriction)
