"""Answers what block scans can: counts, sums, distinct counts, extremes, variances and percentiles of not too many
possible groups."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import prod

import numpy as np

from dastan.core.engine.aggregates import between, ranks_of, too_large
from dastan.core.engine.grouping import unpacked_rows
from dastan.core.engine.rolling import finer_level
from dastan.core.engine.waist import Conditions, Groups, LevelRef, Request, has_groups
from dastan.core.formula.bases import BaseAggregate
from dastan.core.values import Values
from dastan.sources.columnar.added import ADDED, added_up, counted, summed
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.distinct import count_distinct
from dastan.sources.columnar.folds import FOLDED, Folded, folded
from dastan.sources.columnar.moments import Moments
from dastan.sources.columnar.ranked import Ranked
from dastan.sources.columnar.scan import DENSE_LIMIT, Scan, Summand

_Levels = tuple[LevelRef, ...]


def fast_groups(facts: CodedFacts, request: Request, condition: Conditions) -> Groups | None:
    """The groups of a request for one family of aggregates; None where it needs the plain way.

    Args: `condition` is the request's own with the reader's rights.
    """
    count = facts.record_count(request.grain)
    room = _room(facts, request)
    is_dense = room <= min(DENSE_LIMIT, max(1 << 16, 4 * count))
    # Which groups a record is in is asked of as few of them as can be.
    if not is_dense or any(has_groups(each) for each in condition):
        return None
    kinds = {each.kind for each in request.aggregates}
    if kinds == {"distinct"}:
        return _distinct(facts, request, condition)
    if kinds == {"percentile"}:
        return _percentiles(facts, request, condition)
    if kinds <= set(FOLDED):
        return _folded(facts, request, facts.scan(request.grain, condition))
    if not kinds <= set(ADDED):
        return None
    return _added(facts, request, facts.scan(request.grain, condition))


def _room(facts: CodedFacts, request: Request) -> int:
    room = 1
    for each in request.levels:
        members = facts.members(each.dimension, each.hierarchy)
        if members.spread is not None:
            return DENSE_LIMIT + 1  # a record stands in several sets of a list
        room *= len(members.levels[members.depth_of(each.level)])
    return room


def _added(facts: CodedFacts, request: Request, scan: Scan) -> Groups | None:
    summands: dict[BaseAggregate, Summand] = {}
    scales: dict[BaseAggregate, int | None] = {}
    for each in added_up(request.aggregates):
        found = facts.summand(request.grain.table, each)
        if found is None:
            return None
        summands[each], scales[each] = found
    levels = [facts.level_codes(request.grain, each, None) for each in request.levels]
    totals = scan.add_up(levels, list(summands.values()))
    place = {each: at for at, each in enumerate(summands)}
    values = []
    for each in request.aggregates:
        own = place.get(each, place.get(each._replace(kind="sum")))
        if each.kind == "count" or own is None:
            values.append(counted(totals.counts))
        elif each.kind == "count_values":
            values.append(counted(totals.present[own]))
        else:
            values.append(summed(each, totals.sums[own], scales[each], totals.present[own]))
    return Groups(totals.codes, tuple(values))


def _folded(facts: CodedFacts, request: Request, scan: Scan) -> Groups | None:
    found = [facts.summand(request.grain.table, each._replace(kind="sum")) for each in request.aggregates]
    known = [each for each in found if each is not None]
    if len(known) < len(found):
        return None
    levels = [facts.level_codes(request.grain, each, None) for each in request.levels]
    own = folded(scan, levels, request.aggregates, known)
    along = {each: _coarser(facts, request, own, each) for each in _folded_along(facts, request, own)}
    return Groups(own.codes, _told(request, own.found), along)


def _folded_along(facts: CodedFacts, request: Request, own: Folded) -> list[_Levels]:
    """What can be worked out of the same pass: variances of groups that those of the request lie in."""
    if not all(isinstance(each, Moments) for each in own.found):
        return []
    return [each for each in request.along if _lie_in(facts, request.levels, each)]


def _coarser(facts: CodedFacts, request: Request, own: Folded, levels: _Levels) -> Groups:
    grain, room = _grain(facts, request.levels, levels)
    wide = grain[own.places]
    exists = np.flatnonzero(np.bincount(wide, minlength=room))
    group = np.searchsorted(exists, wide)
    found = [each.coarser(group, len(exists)) for each in own.found if isinstance(each, Moments)]
    return Groups(unpacked_rows(exists, [_size(facts, each) for each in levels]), _told(request, found))


def _told(request: Request, found: Sequence[Values | Moments]) -> tuple[Values, ...]:
    """The values of each aggregate. Raises LimitError where a variance leaves all bounds."""
    told = tuple(each.variance() if isinstance(each, Moments) else each for each in found)
    for aggregate, values in zip(request.aggregates, told, strict=True):
        if aggregate.kind == "variance" and not np.isfinite(values.data).all():
            raise too_large(f"“{aggregate.argument}”")
    return told


def _percentiles(facts: CodedFacts, request: Request, condition: Conditions) -> Groups:
    """Percentiles of one argument, which `families` has put together."""
    argument, table = request.aggregates[0].argument, request.grain.table
    known = facts.argument_values(table, request.aggregates[0])
    codes, rows = facts.in_order(table, argument)
    levels = [facts.level_codes(request.grain, each, argument) for each in request.levels]
    tests = facts.tests(request.grain, condition, argument)
    ranked = Ranked(len(codes), int(np.searchsorted(codes, np.int32(0))), levels, tests)
    exists = ranked.exists
    present = ranked.sizes[exists] > 0
    values = []
    for each in request.aggregates:
        low, high, share = ranks_of(each.fraction, ranked.sizes)
        at_low, at_high = (rows[place[exists]] for place in ranked.find((low, high)))
        values.append(between(known.take(at_low).as_float(), known.take(at_high).as_float(), share[exists], present))
    return Groups(unpacked_rows(exists, [each.size for each in levels]), tuple(values))


def _distinct(facts: CodedFacts, request: Request, condition: Conditions) -> Groups:
    argument = request.aggregates[0].argument
    levels = [facts.level_codes(request.grain, each, argument) for each in request.levels]
    tests = facts.tests(request.grain, condition, argument)
    # Choosing records is what one pass saves; where there is nothing to choose, passes by themselves are as fast.
    along = _counted_along(facts, request, prod(each.size for each in levels)) if tests else []
    wanted = [request.levels, *along]
    grains = [_grain(facts, request.levels, each) for each in wanted]
    counted = count_distinct(facts.in_order(request.grain.table, argument)[0], levels, tests, grains)
    found = []
    for own, (has_records, distinct) in zip(wanted, counted, strict=True):
        exists = np.flatnonzero(has_records)
        values = Values(distinct[exists], 0, np.ones(len(exists), np.bool_))
        codes = unpacked_rows(exists, [_size(facts, each) for each in own])
        found.append(Groups(codes, tuple(values for _ in request.aggregates)))
    return replace(found[0], along=dict(zip(wanted[1:], found[1:], strict=True)))


_MARKED_LIMIT = 1 << 18
"""So many places of groups, at all grains, are looked up without leaving a processor's cache."""


def _counted_along(facts: CodedFacts, request: Request, room: int) -> list[_Levels]:
    """What can be counted in the same pass: groups that those of the request lie in."""
    found: list[_Levels] = []
    for levels in request.along:
        if _lie_in(facts, request.levels, levels) and (len(found) + 2) * room <= _MARKED_LIMIT:
            found.append(levels)
    return found


def _lie_in(facts: CodedFacts, levels: _Levels, wanted: _Levels) -> bool:
    """Whether groups by some levels lie each in one of coarser groups."""
    return all(finer_level(each, levels, facts.members) is not None for each in wanted)


def _grain(facts: CodedFacts, levels: _Levels, wanted: _Levels) -> tuple[np.ndarray, int]:
    """For each possible group by some levels the coarser group that it lies in, and how many of these there may be."""
    sizes = [_size(facts, each) for each in levels]
    codes = unpacked_rows(np.arange(prod(sizes)), sizes)
    key, room = np.zeros(prod(sizes), np.int32), 1
    for each in wanted:
        finer = finer_level(each, levels, facts.members)
        assert finer is not None
        members = facts.members(each.dimension, each.hierarchy)
        above = members.above(members.depth_of(finer.level), members.depth_of(each.level))
        key = key * _size(facts, each) + above[codes[levels.index(finer)]]
        room *= _size(facts, each)
    return key.astype(np.int32), room


def _size(facts: CodedFacts, level: LevelRef) -> int:
    members = facts.members(level.dimension, level.hierarchy)
    return max(len(members.levels[members.depth_of(level.level)]), 1)


def families(aggregates: tuple[BaseAggregate, ...]) -> list[tuple[BaseAggregate, ...]]:
    """What is answered together: what is counted and added up, extremes and variances, each distinct count, the
    percentiles of each argument, and all the rest."""
    found: dict[str, list[BaseAggregate]] = {}
    for each in aggregates:
        family = "added" if each.kind in ADDED else "folded" if each.kind in FOLDED else "rest"
        if each.kind in ("distinct", "percentile"):
            family = f"{each.kind} {each.argument}"
        found.setdefault(family, []).append(each)
    return [tuple(each) for each in found.values()]
