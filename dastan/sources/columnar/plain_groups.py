"""The plain way to answer a grouped request: one pass over whole arrays for each thing to do, whatever is asked.

What block scans can answer, they answer faster (`fast_groups.py`); that both agree is tested.
"""

from __future__ import annotations

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.aggregates import dated_values, percentile_values, reduce_values, variance_values
from dastan.core.engine.grouping import RowGroups, group_rows
from dastan.core.engine.stopping import slices
from dastan.core.engine.waist import Conditions, Groups, LevelRef, Request, dimensions_of, has_groups
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.reach import Grain
from dastan.core.values import Values
from dastan.sources.columnar.balances import LoadedRows, balance_values
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.conditions import refuse_mixed
from dastan.sources.columnar.scope import Scope

IN_ORDER = ("distinct", "percentile")
"""Aggregates taken over the records in order of their argument."""


def plain_groups(facts: CodedFacts, request: Request, condition: Conditions) -> Groups:
    """Groups a fact's records: once in their own order, and once more in order of each argument of a distinct count or
    percentile, so that one pass over the groups is exact.

    Args: `condition` is the request's own with the reader's rights.
    """
    answers: dict[BaseAggregate, Values] = {}
    codes: tuple[np.ndarray, ...] = ()
    plain = tuple(each for each in request.aggregates if each.kind not in IN_ORDER)
    orders = dict.fromkeys(each.argument for each in request.aggregates if each.kind in IN_ORDER)
    for argument in [*([None] if plain else []), *orders]:
        scope = facts.scope(request.grain, condition, request.levels, argument)
        levels = [level_of(facts, request.grain, each, scope, argument) for each in request.levels]
        grouped = group_rows(levels, scope.count)
        codes = grouped.codes
        for each in request.aggregates:
            if (each.argument if each.kind in IN_ORDER else None) == argument:
                answers[each] = _aggregate(facts, request, each, grouped, scope)
    return Groups(codes, tuple(answers[each] for each in request.aggregates))


def level_of(
    facts: CodedFacts, grain: Grain, level: LevelRef, scope: Scope, argument: str | None
) -> tuple[np.ndarray, np.ndarray, int]:
    members = facts.members(level.dimension, level.hierarchy)
    depth = members.depth_of(level.level)
    size = len(members.levels[depth])
    if level in scope.lists:
        return scope.lists[level], np.arange(size, dtype=np.int32), size
    return (
        scope.of(facts.codes(grain, facts.model.dimension(level.dimension), argument)),
        members.code_by_row[depth],
        size,
    )


def _aggregate(
    facts: CodedFacts, request: Request, aggregate: BaseAggregate, grouped: RowGroups, scope: Scope
) -> Values:
    group, count, table = grouped.group, grouped.count, request.grain.table
    name = f"“{aggregate.argument}”"
    if aggregate.kind == "count":
        counts = np.zeros(count, np.int64)
        for rows in slices(len(group)):
            kernels.count_rows(group[rows], counts)
        return Values(counts, 0, np.ones(count, np.bool_))
    if aggregate.kind == "distinct":
        codes = facts.in_order(table, aggregate.argument)[0]
        last, counts = np.full(count, -1, np.int64), np.zeros(count, np.int64)
        own = scope.of(codes)
        for rows in slices(len(group)):
            kernels.count_distinct(group[rows], own[rows], last, counts)
        return Values(counts, 0, np.ones(count, np.bool_))
    values = facts.argument_values(table, aggregate)
    if aggregate.kind == "percentile":
        values = facts.kept.keep(
            ("values in order", table, aggregate.argument),
            lambda: facts.argument_values(table, aggregate).take(facts.in_order(table, aggregate.argument)[1]),
        )
        values = scope.take(values)
        has = np.flatnonzero(values.present)
        return percentile_values(aggregate.fraction, values.take(has), group[has], count)
    if aggregate.kind == "balance":
        return _balance(facts, request, aggregate, grouped, scope)
    values = scope.take(values)
    if aggregate.kind == "dated":
        return dated_values(
            aggregate.over_time, values, scope.of(facts.day_by_row(request.grain, aggregate.time)), grouped, name
        )
    if aggregate.kind == "variance":
        return variance_values(values, group, count, name)
    return reduce_values(aggregate.kind, values, group, count, name)


def _balance(facts: CodedFacts, request: Request, aggregate: BaseAggregate, grouped: RowGroups, scope: Scope) -> Values:
    """A balance of each group; its periods are those that the calendar's levels and filters make, alone."""
    grain, time = request.grain, facts.model.dimension(aggregate.time)
    day_by_row = facts.day_by_row(grain, time.name)
    for each in request.condition:
        if has_groups(each) and time.name in dimensions_of(each):
            refuse_mixed(each, time, f"The balance of “{aggregate.argument}”")
    in_time = tuple(each for each in request.condition if dimensions_of(each) == {time.name})
    calendar = tuple(each for each in request.levels if each.dimension == time.name)
    loaded = facts.scope(grain, in_time, calendar, None)
    if loaded.lists:
        raise InputError(
            "A balance cannot be shown by a list of days.",
            "Use a level of the calendar, or keep the days in a filter.",
        )
    levels = [level_of(facts, grain, each, loaded, None) for each in calendar]
    return balance_values(
        aggregate.over_time,
        facts.argument_values(grain.table, aggregate),
        day_by_row,
        LoadedRows(loaded.numbers(), group_rows(levels, loaded.count)),
        grouped,
        scope.numbers(),
        f"“{aggregate.argument}”",
    )
