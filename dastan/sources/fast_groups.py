"""Answers what block scans can: counts, sums and distinct counts of not too many possible groups."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.waist import Conditions, Groups, Request
from dastan.core.errors import LimitError
from dastan.core.values import Values
from dastan.sources.conditions import has_own_mask
from dastan.sources.distinct import count_distinct
from dastan.sources.scan import DENSE_LIMIT, Scan, Summand, split

if TYPE_CHECKING:
    from dastan.sources.column_source import ColumnSource

ADDED = ("count", "count_values", "sum")


def fast_groups(source: ColumnSource, request: Request, condition: Conditions) -> Groups | None:
    """The groups of a request for one family of aggregates; None where it needs the plain way.

    Args: `condition` is the request's own with the reader's rights.
    """
    count = source.record_count(request.grain)
    room = _room(source, request)
    is_dense = room <= min(DENSE_LIMIT, max(1 << 16, 4 * count))
    if not is_dense or not all(has_own_mask(each) for each in condition):
        return None
    kinds = {each.kind for each in request.aggregates}
    if kinds == {"distinct"}:
        return _distinct(source, request, condition)
    if not kinds <= set(ADDED):
        return None
    return _added(source, request, source.scan(request.grain, condition))


def _room(source: ColumnSource, request: Request) -> int:
    room = 1
    for each in request.levels:
        members = source.members(each.dimension, each.hierarchy)
        if members.spread is not None:
            return DENSE_LIMIT + 1  # a record stands in several sets of a list
        room *= len(members.levels[members.depth_of(each.level)])
    return room


def _added(source: ColumnSource, request: Request, scan: Scan) -> Groups | None:
    summands: dict[BaseAggregate, Summand] = {}
    scales: dict[BaseAggregate, int | None] = {}
    for each in request.aggregates:
        if each.kind == "count" or (each.kind == "count_values" and replace(each, kind="sum") in request.aggregates):
            continue  # counted along with the sum
        found = source.summand(request.grain.table, each)
        if found is None:
            return None
        summands[each], scales[each] = found
    levels = [source.level_codes(request.grain, each, None) for each in request.levels]
    totals = scan.add_up(levels, list(summands.values()))
    place = {each: at for at, each in enumerate(summands)}
    values = []
    for each in request.aggregates:
        own = place.get(each, place.get(replace(each, kind="sum")))
        if each.kind == "count" or own is None:
            values.append(counted(totals.counts))
        elif each.kind == "count_values":
            values.append(counted(totals.present[own]))
        else:
            values.append(summed(each, totals.sums[own], scales[each], totals.present[own]))
    return Groups(totals.codes, tuple(values))


def counted(counts: np.ndarray) -> Values:
    """How many there are in each group that has records."""
    return Values(counts, 0, np.ones(len(counts), np.bool_))


def summed(aggregate: BaseAggregate, sums: np.ndarray, scale: int | None, present: np.ndarray) -> Values:
    """Sums, empty where `present`, the count of values, is 0. Raises LimitError where a float left all bounds."""
    if scale is None and not np.all(np.isfinite(sums)):
        raise LimitError(
            f'A sum of "{aggregate.argument}" is too large for a number.', "Divide the column, or narrow the question."
        )
    return Values(sums, scale, present > 0)


def _distinct(source: ColumnSource, request: Request, condition: Conditions) -> Groups:
    argument = request.aggregates[0].argument
    levels = [source.level_codes(request.grain, each, argument) for each in request.levels]
    tests = source.tests(request.grain, condition, argument)
    has_records, distinct = count_distinct(source.in_order(request.grain.table, argument)[0], levels, tests)
    exists = np.flatnonzero(has_records)
    found = Values(distinct[exists], 0, np.ones(len(exists), np.bool_))
    return Groups(split(exists, levels), tuple(found for _ in request.aggregates))


def families(aggregates: tuple[BaseAggregate, ...]) -> list[tuple[BaseAggregate, ...]]:
    """What one pass answers together: what is counted and added up, each distinct count, and all the rest."""
    found: dict[str, list[BaseAggregate]] = {}
    for each in aggregates:
        family = "added" if each.kind in ADDED else "rest"
        if each.kind == "distinct":
            family = f"distinct {each.argument}"
        found.setdefault(family, []).append(each)
    return [tuple(each) for each in found.values()]
