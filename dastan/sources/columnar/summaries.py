"""Summaries: what a large fact comes to by the rows of two dimensions, added up beforehand.

A question that looks at these two alone, at whatever levels and under whatever conditions, adds up the summary and not
the records: a few hundred thousand rows instead of tens of millions. The calendar is paired with every other dimension
that is small enough, and these with each other.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from itertools import combinations
from math import prod

import numpy as np

from dastan.core.engine.waist import Conditions, Groups, Request, dimensions_of
from dastan.core.engine.watch import Watch
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.document import Dimension
from dastan.core.model.formulas import base_aggregates
from dastan.core.model.reach import Grain, grain_of, is_calendar, reaches
from dastan.sources.columnar.added import added_up, counted, summed
from dastan.sources.columnar.blocks import Level
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.codes import smallest_type, taken
from dastan.sources.columnar.conditions import FactRows, row_mask
from dastan.sources.columnar.scan import Scan, Summand, smallest_whole
from dastan.sources.columnar.summary import Summary, SummedUp

Pair = tuple[Dimension, Dimension]

SUMMARIZED_FROM = 1_000_000
"""Fewer records than these are scanned before anybody notices."""
ROOM = 1 << 18
RECORDS_A_GROUP = 16.0
"""A summary has at most so many possible groups, and no more than one for so many records."""
_DENSE_FLOOR = 1 << 16


def summaries_of(facts: CodedFacts, grain: Grain, watch: Watch) -> list[Summary]:
    """The summaries of a fact's records, made or opened, the smallest first; none for a small fact."""
    count = facts.record_count(grain)
    if count < SUMMARIZED_FROM:
        return []
    added = _added(facts, grain)
    found = []
    pairs = [*_pairs(facts, grain, min(ROOM, int(count / RECORDS_A_GROUP)))] if added else []
    watch.expect(len(pairs))
    for pair in pairs:
        watch.begin(f"{grain.table} by {' and '.join(each.caption for each in pair)}")
        key = ("summary", grain, tuple(each.name for each in pair))
        found.append(_opened(pair, added, facts.kept.keep(key, partial(_added_up, facts, grain, pair, added)), count))
        watch.note_done()
    return sorted(found, key=len)


def summary_groups(facts: CodedFacts, request: Request, condition: Conditions) -> Groups | None:
    """The groups of a request from the smallest summary that has all of it; None where none has.

    Args: `condition` is the request's own with the reader's rights.
    """
    asked = {each.dimension for each in request.levels} | {name for each in condition for name in dimensions_of(each)}
    ready = facts.ready_summaries(request.grain)
    summary = next((each for each in ready if each.answers(asked, request.aggregates)), None)
    if summary is None:
        return None
    members = [facts.members(each.dimension, each.hierarchy) for each in request.levels]
    sizes = [len(own.levels[own.depth_of(each.level)]) for own, each in zip(members, request.levels, strict=True)]
    if any(each.spread is not None for each in members) or prod(sizes) > max(_DENSE_FLOOR, 8 * len(summary)):
        return None
    rows = FactRows(len(summary), summary.rows.__getitem__, {})
    holds = np.ones(len(summary), np.bool_)
    for each in condition:
        holds &= row_mask(each, facts, rows)
    chosen = slice(None) if holds.all() else np.flatnonzero(holds)
    levels = [
        Level(
            taken(
                own.code_by_row[own.depth_of(level.level)].astype(smallest_type(size)),
                summary.rows[level.dimension][chosen],
            ),
            size,
        )
        for own, level, size in zip(members, request.levels, sizes, strict=True)
    ]
    return _groups(summary, request.aggregates, chosen, levels)


def _groups(
    summary: Summary, aggregates: tuple[BaseAggregate, ...], chosen: slice | np.ndarray, levels: list[Level]
) -> Groups:
    """The groups of the chosen rows of a summary."""
    summands: list[Summand] = []

    def place(summand: Summand) -> int:
        summands.append(replace(summand, data=summand.data[chosen]))
        return len(summands) - 1

    records, places = place(summary.counts), []
    for each in aggregates:
        kept = summary.of(each) if each.kind != "count" else None
        present = place(kept.present) if kept is not None and kept.present is not None else records
        places.append((place(kept.sums) if kept is not None and each.kind == "sum" else present, present, kept))
    totals = Scan(len(summands[0].data), []).add_up(levels, summands)
    values = [
        summed(aggregate, totals.sums[at], kept.scale, totals.sums[present])
        if kept is not None and aggregate.kind == "sum"
        else counted(totals.sums[at])
        for aggregate, (at, present, kept) in zip(aggregates, places, strict=True)
    ]
    return Groups(totals.codes, tuple(values))


_Added = dict[BaseAggregate, tuple[Summand, int | None]]
"""What the records have of each aggregate, and its scale."""


def _added_up(facts: CodedFacts, grain: Grain, pair: Pair, added: _Added) -> tuple[np.ndarray, ...]:
    """The arrays of a summary: rows by dimension, counts, and for each aggregate its sums and counts of values."""
    levels = [Level(facts.codes(grain, each, None), facts.row_count(each.name) + 2) for each in pair]
    totals = Scan(facts.record_count(grain), []).add_up(levels, [each for each, _ in added.values()])
    rows = [own.astype(smallest_type(level.size)) for own, level in zip(totals.codes, levels, strict=True)]
    sums = []
    for (each, _), own, present in zip(added.values(), totals.sums, totals.present, strict=True):
        sums += [smallest_whole(own) if each.is_whole else own]
        sums += [smallest_whole(present) if each.present is not None else np.empty(0, np.int8)]
    return (*rows, smallest_whole(totals.counts), *sums)


def _opened(pair: Pair, added: _Added, arrays: tuple[np.ndarray, ...], records: int) -> Summary:
    """A summary from its arrays. No count is above that of the records, and no sum farther from zero than theirs."""
    rows, (counts, *sums) = arrays[: len(pair)], arrays[len(pair) :]
    kept = {
        aggregate: SummedUp(
            Summand(own, None, known.most), scale, Summand(present, None, records) if len(present) else None
        )
        for (aggregate, (known, scale)), own, present in zip(added.items(), sums[::2], sums[1::2], strict=True)
    }
    by_name = {each.name: own for each, own in zip(pair, rows, strict=True)}
    return Summary(by_name, Summand(counts, None, records), kept)


def _added(facts: CodedFacts, grain: Grain) -> _Added:
    """What measures of the grain add up."""
    measures = [each for each in facts.model.measures if not each.is_of_others and grain_of(each) == grain]
    wanted = added_up(base for each in measures for base in base_aggregates(each))
    found = {each: facts.summand(grain.table, each) for each in wanted}
    return {each: own for each, own in found.items() if own is not None}


def _pairs(facts: CodedFacts, grain: Grain, room: int) -> Iterator[Pair]:
    """The pairs of dimensions that are summarized, a calendar before the others so that its rows stand in order."""
    reached = [each for each in facts.model.dimensions if reaches(facts.model, grain, each)]
    reached.sort(key=lambda each: not is_calendar(facts.model, each))
    for one, other in combinations(reached, 2):
        if (facts.row_count(one.name) + 2) * (facts.row_count(other.name) + 2) <= room:
            yield one, other
