"""Summaries: what a large fact comes to by the rows of two dimensions, added up beforehand.

A question that looks at these two alone, at whatever levels and under whatever conditions, adds up the summary and not
the records: a few hundred thousand rows instead of tens of millions. The calendar is paired with every other dimension
that is small enough, and these with each other.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.codes import smallest_type
from dastan.core.engine.measures import base_aggregates
from dastan.core.engine.waist import Conditions, Groups, Request, dimensions_of
from dastan.core.model.document import Dimension
from dastan.core.model.reach import Grain, grain_of, is_calendar, reaches
from dastan.sources.blocks import Level
from dastan.sources.conditions import FactRows, row_mask
from dastan.sources.fast_groups import ADDED, counted, summed
from dastan.sources.scan import Scan, Summand, smallest_whole

if TYPE_CHECKING:
    from dastan.sources.column_source import ColumnSource

SUMMARIZED_FROM = 1_000_000
"""Fewer records than these are scanned before anybody notices."""
ROOM = 1 << 18
RECORDS_A_GROUP = 16.0
"""A summary has at most so many possible groups, and no more than one for so many records."""


@dataclass(frozen=True, slots=True, eq=False)
class Summary:
    """A fact's records by the rows of some dimensions; everything is `(n_groups,)`.

    `sums` holds for each aggregate that adds something up the sums and how many records had a value; the latter is
    empty where all had one. Counts of values are kept with the sums of the same values.
    """

    dimensions: tuple[str, ...]
    rows: dict[str, np.ndarray]
    counts: np.ndarray
    sums: dict[BaseAggregate, tuple[np.ndarray, np.ndarray]]

    def __len__(self) -> int:
        return len(self.counts)

    def answers(self, dimensions: set[str], aggregates: tuple[BaseAggregate, ...]) -> bool:
        """Whether a question about these dimensions can be answered from it."""
        kept = (each.kind == "count" or each in self.sums or _sum_of(each) in self.sums for each in aggregates)
        return dimensions <= set(self.dimensions) and all(kept)


def summaries_of(source: ColumnSource, grain: Grain, tell: Callable[[str], None]) -> list[Summary]:
    """The summaries of a fact's records, made or opened, the smallest first; none for a small fact."""
    count = source.record_count(grain)
    aggregates = _aggregates(source, grain)
    if count < SUMMARIZED_FROM or not aggregates:
        return []
    found = []
    for pair in _pairs(source, grain, min(ROOM, int(count / RECORDS_A_GROUP))):
        tell(f"{grain.table} by {' and '.join(each.caption for each in pair)}")
        names = tuple(each.name for each in pair)
        arrays = source.keep(
            ("summary", grain, names), lambda pair=pair: _added_up(source, grain, pair, aggregates)  # type: ignore[misc]
        )  # fmt: skip
        rows, (counts, *sums) = arrays[: len(names)], arrays[len(names) :]
        by_aggregate = dict(zip(aggregates, zip(sums[::2], sums[1::2], strict=True), strict=True))
        found.append(Summary(names, dict(zip(names, rows, strict=True)), counts, by_aggregate))
    return sorted(found, key=len)


def summary_groups(source: ColumnSource, request: Request, condition: Conditions) -> Groups | None:
    """The groups of a request from the smallest summary that has all of it; None where none has.

    Args: `condition` is the request's own with the reader's rights.
    """
    asked = {each.dimension for each in request.levels} | {name for each in condition for name in dimensions_of(each)}
    summary = next(
        (each for each in source.ready_summaries(request.grain) if each.answers(asked, request.aggregates)), None
    )
    if summary is None:
        return None
    members = [source.members(each.dimension, each.hierarchy) for each in request.levels]
    sizes = [len(own.levels[own.depth_of(each.level)]) for own, each in zip(members, request.levels, strict=True)]
    if any(each.spread is not None for each in members) or np.prod(sizes, dtype=float) > max(1 << 16, 8 * len(summary)):
        return None
    rows = FactRows(len(summary), summary.rows.__getitem__, {})
    holds = np.ones(len(summary), np.bool_)
    for each in condition:
        holds &= row_mask(each, source, rows)
    chosen = slice(None) if holds.all() else np.flatnonzero(holds)
    levels = [
        Level(own.code_by_row[own.depth_of(level.level)].astype(np.uint32)[summary.rows[level.dimension][chosen]], size)
        for own, level, size in zip(members, request.levels, sizes, strict=True)
    ]
    return _from(source, request, summary, chosen, levels)


def _from(
    source: ColumnSource, request: Request, summary: Summary, chosen: slice | np.ndarray, levels: list[Level]
) -> Groups:
    """The groups of the chosen rows of a summary."""
    records = source.record_count(request.grain)
    counts = summary.counts[chosen]
    summands, places = [Summand(counts, None, records)], {}
    for aggregate in request.aggregates:
        if aggregate.kind == "count":
            continue
        own, present = summary.sums.get(_sum_of(aggregate)) or summary.sums[aggregate]
        places[aggregate] = (0, 0)
        if len(present):
            places[aggregate] = (0, len(summands))
            summands.append(Summand(present[chosen], None, records))
        if aggregate.kind == "sum":
            known = source.summand(request.grain.table, aggregate)
            places[aggregate] = (len(summands), places[aggregate][1])
            summands.append(Summand(own[chosen], None, known[0].most if known is not None else 0))
    totals = Scan(len(counts), []).add_up(levels, summands)
    values = []
    for aggregate in request.aggregates:
        at, at_present = places.get(aggregate, (0, 0))
        if aggregate.kind == "sum":
            known = source.summand(request.grain.table, aggregate)
            scale = known[1] if known is not None else None
            values.append(summed(aggregate, totals.sums[at], scale, totals.sums[at_present]))
        else:
            values.append(counted(totals.sums[at_present]))
    return Groups(totals.codes, tuple(values))


def _added_up(
    source: ColumnSource, grain: Grain, pair: tuple[Dimension, ...], aggregates: tuple[BaseAggregate, ...]
) -> tuple[np.ndarray, ...]:
    """The arrays of a summary: rows by dimension, counts, and for each aggregate its sums and counts of values."""
    levels = [Level(source.codes(grain, each, None), source.row_count(each.name) + 2) for each in pair]
    found = [source.summand(grain.table, each) for each in aggregates]
    summands = [each[0] for each in found if each is not None]
    totals = Scan(source.record_count(grain), []).add_up(levels, summands)
    rows = [own.astype(smallest_type(level.size)) for own, level in zip(totals.codes, levels, strict=True)]
    sums = []
    for each, own, present in zip(summands, totals.sums, totals.present, strict=True):
        sums += [smallest_whole(own) if each.is_whole else own]
        sums += [smallest_whole(present) if each.present is not None else np.empty(0, np.int8)]
    return (*rows, smallest_whole(totals.counts), *sums)


def _aggregates(source: ColumnSource, grain: Grain) -> tuple[BaseAggregate, ...]:
    """What measures of the grain add up; a count of values only where their sum is not among them."""
    wanted = {
        base: None
        for measure in source.model.measures
        if measure.aggregate != "ratio" and grain_of(measure) == grain
        for base in base_aggregates(measure)
        if base.kind in ADDED and base.kind != "count" and source.summand(grain.table, base) is not None
    }
    return tuple(each for each in wanted if each.kind == "sum" or _sum_of(each) not in wanted)


def _sum_of(aggregate: BaseAggregate) -> BaseAggregate:
    return replace(aggregate, kind="sum")


def _pairs(source: ColumnSource, grain: Grain, room: int) -> Iterator[tuple[Dimension, ...]]:
    """The pairs of dimensions that are summarized, a calendar before the others so that its rows stand in order."""
    reached = [each for each in source.model.dimensions if reaches(source.model, grain, each)]
    reached.sort(key=lambda each: not is_calendar(source.model, each))
    for one, other in combinations(reached, 2):
        if (source.row_count(one.name) + 2) * (source.row_count(other.name) + 2) <= room:
            yield one, other
