"""The plan: which grouped requests answer a question, and how each cell's grain is served.

Every cell belongs to one pair of grains, a row grain and a column grain. A pair whose cross product is
small is grouped whole, so that coarser pairs roll up from it. A pair that could be large is grouped only
below the members that are open, so that opening one day does not group every day.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from math import prod

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate, roll_up
from dastan.core.engine.grains import AxisGrain, Placement
from dastan.core.engine.grouping import group_rows
from dastan.core.engine.waist import Condition, Groups, MemberSet, Request, Rights
from dastan.core.model.reach import Grain

WHOLE_LIMIT = 1_000_000
"""A pair of grains with at most this many possible groups is grouped whole."""

OPEN_PATHS_LIMIT = 2_000
"""Above this many open members a restriction costs more than it saves."""


@dataclass(frozen=True, slots=True)
class PairOfGrains:
    rows: AxisGrain
    columns: AxisGrain


@dataclass(frozen=True, slots=True)
class Shape:
    """The two axes as they are seen."""

    rows: tuple[Placement, ...]
    columns: tuple[Placement, ...]

    def parts(self, pair: PairOfGrains) -> list[tuple[Placement, int]]:
        """The placements in a pair of grains with their depths, rows first."""
        return [
            *zip(self.rows, pair.rows.depths, strict=False),
            *zip(self.columns, pair.columns.depths, strict=False),
        ]


@dataclass(frozen=True, slots=True)
class Asked:
    """What every request of a question has in common."""

    grain: Grain
    aggregates: tuple[BaseAggregate, ...]
    condition: Condition
    rights: Rights


def group_pairs(
    pairs: Iterable[PairOfGrains], shape: Shape, asked: Asked, group: Callable[[Request], Groups]
) -> dict[PairOfGrains, Groups]:
    """The groups of every pair, with as few requests as roll-up allows.

    Aggregates that roll up are asked at the finest grain only; the others at every grain.
    Args: `group` answers one request, as a source does.
    """
    ordered = sorted(pairs, key=lambda each: -_room(shape, each))
    parts = [
        _group_alike(ordered, shape, replace(asked, aggregates=alike), group, rolls_up)
        for rolls_up in (True, False)
        if (alike := tuple(each for each in asked.aggregates if each.rolls_up == rolls_up))
    ]
    place = sorted(asked.aggregates, key=lambda each: not each.rolls_up)
    answers = {}
    for pair in ordered:
        values = [each for part in parts for each in part[pair].values]
        answers[pair] = Groups(parts[0][pair].codes, tuple(values[place.index(each)] for each in asked.aggregates))
    return answers


def _group_alike(
    pairs: list[PairOfGrains], shape: Shape, asked: Asked, group: Callable[[Request], Groups], rolls_up: bool
) -> dict[PairOfGrains, Groups]:
    answers: dict[PairOfGrains, Groups] = {}
    whole: list[PairOfGrains] = []
    for pair in pairs:
        finer = [each for each in whole if _is_finer(shape, each, pair)] if rolls_up else []
        if finer:
            smallest = min(finer, key=lambda each: len(answers[each]))
            answers[pair] = roll_up_groups(answers[smallest], smallest, pair, shape, asked)
            whole.append(pair)
            continue
        restriction = _open_parents(shape, pair) if _room(shape, pair) > WHOLE_LIMIT else ()
        levels = tuple(placement.level(depth) for placement, depth in shape.parts(pair))
        request = Request(asked.grain, levels, asked.aggregates, asked.condition + restriction, asked.rights)
        answers[pair] = group(request)
        if not restriction:
            whole.append(pair)
    return answers


def roll_up_groups(finer: Groups, finer_pair: PairOfGrains, pair: PairOfGrains, shape: Shape, asked: Asked) -> Groups:
    """The groups of a coarser pair, from those of a finer one that covers the same records."""
    finer_codes = {
        placement.level(depth): codes
        for (placement, depth), codes in zip(shape.parts(finer_pair), finer.codes, strict=True)
    }
    finer_depths = {id(placement): depth for placement, depth in shape.parts(finer_pair)}
    levels = []
    for placement, depth in shape.parts(pair):
        from_depth = finer_depths[id(placement)]
        size = len(placement.members.levels[depth])
        lookup = placement.members.at_depth(
            np.arange(len(placement.members.levels[from_depth])), from_depth, depth
        ).astype(np.int32)
        levels.append((finer_codes[placement.level(from_depth)], lookup, size))
    grouped = group_rows(levels, len(finer))
    values = tuple(
        roll_up(aggregate.kind, each, grouped.group, grouped.count, aggregate.argument)
        for aggregate, each in zip(asked.aggregates, finer.values, strict=True)
    )
    return Groups(grouped.codes, values)


def _room(shape: Shape, pair: PairOfGrains) -> int:
    return prod(len(placement.members.levels[depth]) for placement, depth in shape.parts(pair))


def _is_finer(shape: Shape, finer: PairOfGrains, coarser: PairOfGrains) -> bool:
    depths = {id(placement): depth for placement, depth in shape.parts(finer)}
    return all(depths.get(id(placement), -1) >= depth for placement, depth in shape.parts(coarser))


def _open_parents(shape: Shape, pair: PairOfGrains) -> Condition:
    """Restricts each placement below its start to what lies under its open members, where that helps."""
    restriction: list[MemberSet] = []
    for placement, depth in shape.parts(pair):
        if depth == placement.start:
            continue
        above = placement.is_seen[depth - 1] & placement.is_open[depth - 1]
        codes = np.flatnonzero(above)
        if len(codes) < len(above) and len(codes) <= OPEN_PATHS_LIMIT:
            paths = tuple(placement.members.path_of(depth - 1, int(code)) for code in codes)
            restriction.append(MemberSet(placement.placed.dimension, placement.placed.hierarchy, paths, True))
    return tuple(restriction)
