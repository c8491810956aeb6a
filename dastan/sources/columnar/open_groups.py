"""Answers a grouped request for what is open at a date."""

from __future__ import annotations

import numpy as np

from dastan.core.engine.aggregates import reduce_values
from dastan.core.engine.grouping import group_rows
from dastan.core.engine.waist import Groups, Request, dimensions_of
from dastan.core.values import Values
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.conditions import FactRows, refuse_mixed, row_mask
from dastan.sources.columnar.open_records import count_open
from dastan.sources.columnar.plain_groups import level_of


def open_groups(facts: CodedFacts, request: Request) -> Groups:
    """What is open at the end of each period that the calendar's levels and filters make.

    The calendar chooses the periods, never the records: those are chosen by all the other conditions.
    """
    grain, (aggregate,) = request.grain, request.aggregates
    time = facts.model.dimension(aggregate.time)
    days = facts.days(time.name)
    shown = np.ones(len(days), np.bool_)
    for each in request.condition:
        if time.name in dimensions_of(each):
            refuse_mixed(each, time, "What is open at a date")
            numbered = np.arange(len(days))
            shown &= row_mask(each, facts, FactRows(len(days), lambda _, rows=numbered: rows, {}))  # type: ignore[misc]
    rows_of_days = np.flatnonzero(shown).astype(np.int32)
    levels = []
    for level in request.levels:
        if level.dimension == time.name:
            members = facts.members(level.dimension, level.hierarchy)
            depth = members.depth_of(level.level)
            levels.append((rows_of_days, members.code_by_row[depth], len(members.levels[depth])))
    periods = group_rows(levels, len(rows_of_days))
    numbers_ = Values(days[rows_of_days], 0, np.ones(len(rows_of_days), np.bool_))
    last_day = reduce_values("max", numbers_, periods.group, periods.count, aggregate.time).data
    others = tuple(each for each in request.condition if time.name not in dimensions_of(each)) + facts.rights(
        request.rights, grain
    )
    own_levels = tuple(each for each in request.levels if each.dimension != time.name)
    scope = facts.scope(grain, others, own_levels, None)
    started, ended = facts.dates(grain, aggregate.argument, aggregate.ended)
    grouped = group_rows([level_of(facts, grain, each, scope, None) for each in own_levels], scope.count)
    found = count_open(scope.of(started), scope.of(ended), grouped, last_day)
    own, period = iter(grouped.codes), iter(periods.codes)
    codes = [
        next(period)[found.periods] if each.dimension == time.name else next(own)[found.groups]
        for each in request.levels
    ]
    order = np.lexsort(codes[::-1]) if codes else np.arange(len(found.counts))
    counts = Values(found.counts[order], 0, np.ones(len(order), np.bool_))
    return Groups(tuple(each[order] for each in codes), (counts,))
