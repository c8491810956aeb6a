"""Answers what block scans can: counts, sums and distinct counts of not too many possible groups."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.waist import Conditions, Groups, Request
from dastan.core.errors import LimitError
from dastan.core.values import Values
from dastan.sources.blocks import Level, Test
from dastan.sources.conditions import has_own_mask
from dastan.sources.distinct import count_distinct
from dastan.sources.scan import DENSE_LIMIT, Scan, Summand

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
    return _added(source, request, source.tests(request.grain, condition, None), count)


def _room(source: ColumnSource, request: Request) -> int:
    room = 1
    for each in request.levels:
        members = source.members(each.dimension, each.hierarchy)
        if members.spread is not None:
            return DENSE_LIMIT + 1  # a record stands in several sets of a list
        room *= len(members.levels[members.depth_of(each.level)])
    return room


def _added(source: ColumnSource, request: Request, tests: list[Test], count: int) -> Groups | None:
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
    totals = Scan(count, tests).add_up(levels, list(summands.values()))
    exists = np.flatnonzero(totals.counts)
    place = {each: at for at, each in enumerate(summands)}
    values = []
    for each in request.aggregates:
        if each.kind == "count":
            values.append(Values(totals.counts[exists], 0, np.ones(len(exists), np.bool_)))
            continue
        own = place[each] if each in place else place[replace(each, kind="sum")]
        present = totals.present[own][exists]
        if each.kind == "count_values":
            values.append(Values(present.copy(), 0, np.ones(len(exists), np.bool_)))
            continue
        sums = totals.sums[own][exists]
        if scales[each] is None and not np.all(np.isfinite(sums)):
            raise LimitError(
                f'A sum of "{each.argument}" is too large for a number.', "Divide the column, or narrow the question."
            )
        values.append(Values(sums, scales[each], present > 0))
    return Groups(_split(exists, levels), tuple(values))


def _distinct(source: ColumnSource, request: Request, condition: Conditions) -> Groups:
    argument = request.aggregates[0].argument
    levels = [source.level_codes(request.grain, each, argument) for each in request.levels]
    tests = source.tests(request.grain, condition, argument)
    has_records, distinct = count_distinct(source.in_order(request.grain.table, argument)[0], levels, tests)
    exists = np.flatnonzero(has_records)
    found = Values(distinct[exists], 0, np.ones(len(exists), np.bool_))
    return Groups(_split(exists, levels), tuple(found for _ in request.aggregates))


def _split(exists: np.ndarray, levels: list[Level]) -> tuple[np.ndarray, ...]:
    """The member codes of groups, by their places."""
    codes: list[np.ndarray] = []
    rest = exists
    for level in reversed(levels):
        rest, code = np.divmod(rest, level.size)
        codes.append(code.astype(np.int32))
    return tuple(reversed(codes))


def families(aggregates: tuple[BaseAggregate, ...]) -> list[tuple[BaseAggregate, ...]]:
    """What one pass answers together: what is counted and added up, each distinct count, and all the rest."""
    found: dict[str, list[BaseAggregate]] = {}
    for each in aggregates:
        family = "added" if each.kind in ADDED else "rest"
        if each.kind == "distinct":
            family = f"distinct {each.argument}"
        found.setdefault(family, []).append(each)
    return [tuple(each) for each in found.values()]
