"""How large a question is, before it is asked; one beyond its limits is refused with what to narrow."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from math import prod

from dastan.core.engine.grains import Placement
from dastan.core.engine.plan import WHOLE_LIMIT, PairOfGrains, Shape
from dastan.core.errors import LimitError
from dastan.core.formula.bases import BaseAggregate

# Measured by bench/sparse.py and bench/gestures.py, on slow cores.
_CELL_BYTES = 150
"""Working memory for each cell, its headers' share included."""
_VALUE_BYTES = 9
_ROW_BYTES = 40
"""Working memory for each record that a request reads: its key, its group, and room to number them."""

_CELLS_PER_SECOND = 900_000
_STEPS_PER_SECOND = 60_000_000
"""Records times levels and aggregates in a second."""


@dataclass(frozen=True, slots=True)
class Budget:
    """The largest question that is answered."""

    cells: int = 25_000_000
    memory_bytes: int = 8 * 2**30
    seconds: float = 120.0


@dataclass(frozen=True, slots=True)
class Size:
    """The most that a question can come to: cells, bytes that are kept until its end, seconds, and bytes that one
    request needs while it runs: one follows another."""

    cells: int
    kept_bytes: int
    seconds: float
    passing_bytes: int = 0

    @property
    def memory_bytes(self) -> int:
        """Bytes at a time."""
        return self.kept_bytes + self.passing_bytes

    def __add__(self, other: Size) -> Size:
        kept, passing = self.kept_bytes + other.kept_bytes, max(self.passing_bytes, other.passing_bytes)
        return Size(self.cells + other.cells, kept, self.seconds + other.seconds, passing)


def size_of_groups(groups: int, aggregates: int) -> Size:
    """What so many groups come to by themselves."""
    return Size(groups, groups * (_CELL_BYTES + _VALUE_BYTES * aggregates), groups / _CELLS_PER_SECOND)


def size_of_fact(
    shape: Shape, pairs: Sequence[PairOfGrains], aggregates: tuple[BaseAggregate, ...], records: int
) -> Size:
    """The most that one fact's part can come to: no more groups than members can make, nor than there are records."""
    # What rolls up is read from the records once, at the finest grain; anything else at every grain.
    finest = max(pairs, key=lambda each: sum(each.rows.depths) + sum(each.columns.depths))
    rolls_up = all(each.rolls_up for each in aggregates)
    groups = steps = 0
    for pair in pairs:
        parts = shape.parts(pair)
        room = _room(parts)
        groups += room if room <= records else min(room, records * _overlap(parts))
        if pair == finest or not rolls_up:
            steps += records * (1 + len(parts) + len(aggregates))
    return size_of_groups(groups, len(aggregates)) + Size(0, 0, steps / _STEPS_PER_SECOND, records * _ROW_BYTES)


def refuse_beyond(size: Size, budget: Budget, levels: Iterable[tuple[str, int]], tells_counts: bool = True) -> None:
    """Raises LimitError for a question that would exceed its budget, naming how large it is and what to narrow.

    Args: `levels` hold the caption and the count of members of each level that is shown. `tells_counts` is false for
        a reader who may not see all of them, and is to learn nothing of the others.
    """
    too_much = []
    if size.cells > budget.cells:
        too_much.append(f"up to {size.cells:,} cells, where {budget.cells:,} are the most")
    if size.memory_bytes > budget.memory_bytes:
        most = budget.memory_bytes / 2**30
        too_much.append(f"up to {size.memory_bytes / 2**30:,.1f} GiB of memory, where {most:,.1f} are the most")
    if size.seconds > budget.seconds:
        too_much.append(f"about {size.seconds:,.0f} seconds, where {budget.seconds:,.0f} are the most")
    if not too_much:
        return
    largest = sorted(levels, key=lambda each: -each[1])[:2]
    named = " or ".join(f"{caption} ({count:,} members)" if tells_counts else caption for caption, count in largest)
    hint = (
        f"Show a coarser level than {named}, close what is open, or keep fewer members."
        if largest
        else "Keep fewer records by a filter."
    )
    if not tells_counts:
        raise LimitError("This question is too large.", hint, code="too-large")
    raise LimitError(
        f"This question is too large: {'; '.join(too_much)}.",
        hint,
        code="too-large",
        details={"cells": size.cells, "memory_bytes": size.memory_bytes, "seconds": round(size.seconds, 1)},
    )


def _room(parts: list[tuple[Placement, int]]) -> int:
    """How many groups members can make: only those below what is open where there are very many."""
    whole = prod(placement.members.count_at(depth) for placement, depth in parts)
    if whole <= WHOLE_LIMIT:
        return whole
    return prod(max(int(placement.is_reached[depth].sum()), 1) for placement, depth in parts)


def _overlap(parts: list[tuple[Placement, int]]) -> int:
    """How often a record can count: once in each set of a list that holds it."""
    return prod(placement.members.count_at(depth) for placement, depth in parts if placement.members.spread is not None)


def shown_levels(shape: Shape) -> Iterator[tuple[str, int]]:
    """The caption of each level that is seen, and how many of its members."""
    for placement in (*shape.rows.placements, *shape.columns.placements):
        for depth in placement.seen_depths:
            yield placement.members.levels[depth].caption, int(placement.is_reached[depth].sum())
