"""The built-in column engine: answers grouped requests from dictionary-coded columns in memory."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from threading import Lock, RLock
from typing import TypeVar

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine import kernels
from dastan.core.engine.aggregates import (
    BaseAggregate,
    percentile_values,
    reduce_values,
    variance_values,
)
from dastan.core.engine.grouping import RowGroups, group_rows
from dastan.core.engine.measures import base_aggregates
from dastan.core.engine.waist import Condition, Groups, LevelRef, Request
from dastan.core.errors import SourceError
from dastan.core.formula.rows import ColumnRef, evaluate_rows, parse_rows
from dastan.core.model.document import Attribute, Dimension, SemanticModel
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain, grain_of, path_to_table, reaches, relationship_for
from dastan.core.values import Values
from dastan.sources.balances import LoadedRows, balance_values, day_ranks
from dastan.sources.columns import codes_of, numbers
from dastan.sources.dimension_rows import Pointers, match_keys, members_of, own_rows
from dastan.sources.open_records import count_open, day_numbers
from dastan.sources.tables import TableData

_T = TypeVar("_T")

_IN_ORDER = ("distinct", "percentile")
"""Aggregates taken over the records in order of their argument."""


class ColumnSource:
    """A source over tables in memory. What a request needs is coded when first asked for, then kept."""

    def __init__(self, model: SemanticModel, tables: dict[str, TableData]) -> None:
        self.model = model
        self.tables = tables
        self._kept: dict[tuple[object, ...], object] = {}
        self._locks: dict[tuple[object, ...], RLock] = {}
        self._lock = Lock()

    def warm(self) -> None:
        """Makes ready what the first questions would otherwise wait for: codes, numbers, distinct projections."""
        for measure in self.model.measures:
            grain = grain_of(measure)
            arguments: list[str | None] = [None]
            for each in base_aggregates(measure, self.model):
                if each.kind == "open":
                    continue
                if each.kind in _IN_ORDER:
                    arguments.append(each.argument)
                elif each.kind != "count":
                    self.argument_values(measure.table, each)
            for dimension in self.model.dimensions:
                if reaches(self.model, grain, dimension):
                    for argument in arguments:
                        self._codes(grain, dimension, argument)

    def group(self, request: Request) -> Groups:
        """Groups a fact's records: once in their own order, and once more in order of each argument of a distinct
        count or percentile, so that one pass over the groups is exact.
        """
        if any(each.kind == "open" for each in request.aggregates):
            return self._group_open(request)
        answers: dict[BaseAggregate, Values] = {}
        codes: tuple[np.ndarray, ...] = ()
        plain = tuple(each for each in request.aggregates if each.kind not in _IN_ORDER)
        orders = dict.fromkeys(each.argument for each in request.aggregates if each.kind in _IN_ORDER)
        for argument in [*([None] if plain else []), *orders]:
            rows = self._rows_in_scope(request.grain, request.condition + request.rights.rows, argument)
            row_count = self.tables[request.grain.table].row_count if rows is None else len(rows)
            levels = [self._level(request.grain, each, rows, argument) for each in request.levels]
            grouped = group_rows(levels, row_count)
            codes = grouped.codes
            for each in request.aggregates:
                if (each.argument if each.kind in _IN_ORDER else None) == argument:
                    answers[each] = self._aggregate(request, each, grouped, rows)
        return Groups(codes, tuple(answers[each] for each in request.aggregates))

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """All members of a hierarchy with levels."""

        def build() -> HierarchyMembers:
            found = self.model.dimension(dimension)
            own = self._own_rows(found)[1] if found.key is None else None
            row_count = self.tables[found.table].row_count if own is None else len(own)
            return members_of(found, found.hierarchy(hierarchy), row_count, partial(self._attribute_column, found, own))

        return self._keep(("members", dimension, hierarchy), build)

    def newest(self, grain: Grain) -> str | None:
        """The latest date by which a calendar reaches the records."""

        def find() -> str | None:
            for relationship in self.model.relationships:
                if relationship.from_table == grain.table and self.model.tables[relationship.to_table].calendar:
                    latest = pc.max(self.tables[grain.table].column(relationship.from_column)).as_py()
                    return str(latest)[:10] if latest is not None else None
            return None

        return self._keep(("newest", grain), find)

    def pointers(self, table: str, column: str, to_table: str, to_column: str) -> Pointers:
        """How the records of a table point at the rows of another."""
        return self._keep(
            ("pointers", table, column, to_table, to_column),
            lambda: match_keys(self.tables[table].column(column), self.tables[to_table].column(to_column)),
        )

    def _attribute_column(
        self, dimension: Dimension, own: np.ndarray | None, attribute: Attribute, column: str
    ) -> pa.ChunkedArray:
        """A column of an attribute, one value for each of the dimension's rows, followed to its table."""
        values = self.tables[attribute.table or dimension.table].column(column)
        way = path_to_table(self.model, dimension.table, attribute.table or dimension.table) or ()
        for each in reversed(way):
            rows = self.pointers(each.from_table, each.from_column, each.to_table, each.to_column).rows
            # A blank or unknown pointer leads to no value.
            values = values.take(pa.array(rows, mask=rows >= len(values)))
        return values if own is None else values.take(pa.array(own))

    def _rows_in_scope(self, grain: Grain, condition: Condition, argument: str | None) -> np.ndarray | None:
        """The records that fulfil every member set, ascending; None for all of them."""
        if not condition:
            return None
        kept = np.ones(self.tables[grain.table].row_count, np.bool_)
        for each in condition:
            allowed = self.members(each.dimension, each.hierarchy).row_mask(each.members)
            codes = self._codes(grain, self.model.dimension(each.dimension), argument)
            kernels.keep_allowed(kept, codes, allowed if each.is_kept else ~allowed)
        return np.flatnonzero(kept)

    def _level(
        self, grain: Grain, level: LevelRef, rows: np.ndarray | None, argument: str | None
    ) -> tuple[np.ndarray, np.ndarray, int]:
        members = self.members(level.dimension, level.hierarchy)
        codes = self._codes(grain, self.model.dimension(level.dimension), argument)
        depth = members.depth_of(level.level)
        return codes if rows is None else codes[rows], members.code_by_row[depth], len(members.levels[depth])

    def _codes(self, grain: Grain, dimension: Dimension, argument: str | None) -> np.ndarray:
        """Each record's row in the dimension; in order of `argument`'s values where one is given."""
        if argument is not None:
            return self._keep(
                ("ordered", grain, dimension.name, argument),
                lambda: self._codes(grain, dimension, None)[self._in_order(grain.table, argument)[1]],
            )
        if dimension.key is None:
            return self._own_rows(dimension)[0]
        found = relationship_for(self.model, grain.table, dimension, dict(grain.roles))
        if found is None:
            raise SourceError(f'Dimension "{dimension.caption}" does not reach table "{grain.table}".')
        return self.pointers(found.from_table, found.from_column, found.to_table, found.to_column).rows

    def _own_rows(self, dimension: Dimension) -> tuple[np.ndarray, np.ndarray]:
        return self._keep(("own", dimension.name), lambda: own_rows(self.tables[dimension.table], dimension))

    def _aggregate(
        self, request: Request, aggregate: BaseAggregate, grouped: RowGroups, rows: np.ndarray | None
    ) -> Values:
        group, count, table = grouped.group, grouped.count, request.grain.table
        name = f'"{aggregate.argument}"'
        if aggregate.kind == "count":
            counts = np.zeros(count, np.int64)
            kernels.count_rows(group, counts)
            return Values(counts, 0, np.ones(count, np.bool_))
        if aggregate.kind == "distinct":
            codes = self._in_order(table, aggregate.argument)[0]
            last, counts = np.full(count, -1, np.int64), np.zeros(count, np.int64)
            kernels.count_distinct(group, codes if rows is None else codes[rows], last, counts)
            return Values(counts, 0, np.ones(count, np.bool_))
        values = self.argument_values(table, aggregate)
        if aggregate.kind == "percentile":
            values = self._keep(
                ("values in order", table, aggregate.argument),
                lambda: self.argument_values(table, aggregate).take(self._in_order(table, aggregate.argument)[1]),
            )
            values = values if rows is None else values.take(rows)
            has = np.flatnonzero(values.present)
            return percentile_values(aggregate.fraction, values.take(has), group[has], count)
        if aggregate.kind == "balance":
            return self._balance(request, aggregate, grouped, rows)
        values = values if rows is None else values.take(rows)
        if aggregate.kind == "variance":
            return variance_values(values, group, count, name)
        return reduce_values(aggregate.kind, values, group, count, name)

    def _balance(
        self, request: Request, aggregate: BaseAggregate, grouped: RowGroups, rows: np.ndarray | None
    ) -> Values:
        """A balance of each group; its periods are those that the calendar's levels and filters make, alone."""
        grain, time = request.grain, self.model.dimension(aggregate.time)
        ranks = self._keep(("day ranks", time.name), lambda: day_ranks(self.tables[time.table].column(time.key or "")))
        day_by_row = ranks[self._codes(grain, time, None)]
        in_time = tuple(each for each in request.condition if each.dimension == time.name)
        loaded = self._rows_in_scope(grain, in_time, None)
        loaded = np.arange(len(day_by_row)) if loaded is None else loaded
        levels = [self._level(grain, each, loaded, None) for each in request.levels if each.dimension == time.name]
        return balance_values(
            aggregate.over_time,
            self.argument_values(grain.table, aggregate),
            day_by_row,
            LoadedRows(loaded, group_rows(levels, len(loaded))),
            grouped,
            np.arange(len(day_by_row)) if rows is None else rows,
            f'"{aggregate.argument}"',
        )

    def _group_open(self, request: Request) -> Groups:
        """What is open at the end of each period that the calendar's levels and filters make.

        The calendar chooses the periods, never the records: those are chosen by all the other conditions.
        """
        grain, (aggregate,) = request.grain, request.aggregates
        time = self.model.dimension(aggregate.time)
        days = self._keep(("days", time.name), lambda: day_numbers(self.tables[time.table], time.key or ""))
        shown = np.ones(len(days), np.bool_)
        for each in request.condition:
            if each.dimension == time.name:
                allowed = self.members(each.dimension, each.hierarchy).row_mask(each.members)[: len(days)]
                shown &= allowed if each.is_kept else ~allowed
        rows_of_days = np.flatnonzero(shown).astype(np.int32)
        levels = []
        for level in request.levels:
            if level.dimension == time.name:
                members = self.members(level.dimension, level.hierarchy)
                depth = members.depth_of(level.level)
                levels.append((rows_of_days, members.code_by_row[depth], len(members.levels[depth])))
        periods = group_rows(levels, len(rows_of_days))
        numbers_ = Values(days[rows_of_days], 0, np.ones(len(rows_of_days), np.bool_))
        last_day = reduce_values("max", numbers_, periods.group, periods.count, aggregate.time).data
        others = tuple(each for each in request.condition if each.dimension != time.name) + request.rights.rows
        rows = self._rows_in_scope(grain, others, None)
        table = self.tables[grain.table]
        started, ended = (
            self._keep(("dates", grain.table, column), partial(day_numbers, table, column))
            for column in (aggregate.argument, aggregate.ended)
        )
        grouped = group_rows(
            [self._level(grain, each, rows, None) for each in request.levels if each.dimension != time.name],
            table.row_count if rows is None else len(rows),
        )
        taken = slice(None) if rows is None else rows
        found = count_open(started[taken], ended[taken], grouped, last_day)
        own, period = iter(grouped.codes), iter(periods.codes)
        codes = [
            next(period)[found.periods] if each.dimension == time.name else next(own)[found.groups]
            for each in request.levels
        ]
        order = np.lexsort(codes[::-1]) if codes else np.arange(len(found.counts))
        counts = Values(found.counts[order], 0, np.ones(len(order), np.bool_))
        return Groups(tuple(each[order] for each in codes), (counts,))

    def _in_order(self, table: str, argument: str) -> tuple[np.ndarray, np.ndarray]:
        """What is counted or ranked, coded in ascending order of value, and the records in that order."""

        def order() -> tuple[np.ndarray, np.ndarray]:
            formula = parse_rows(argument)
            if isinstance(formula, ColumnRef) and not _is_numeric(self.tables[table].column(formula.name).type):
                codes = codes_of(self.tables[table].column(formula.name))
            else:
                values = self._values(table, argument)
                codes = np.full(len(values), -1, np.int32)
                codes[values.present] = np.unique(values.data[values.present], return_inverse=True)[1]
            rows = np.argsort(codes, kind="stable")
            return codes[rows], rows

        return self._keep(("in order", table, argument), order)

    def argument_values(self, table: str, aggregate: BaseAggregate) -> Values:
        """What an aggregate is computed from. Raises SourceError for a column without numbers.

        Counting non-empty values needs no numbers: any column has emptiness.
        """
        formula = parse_rows(aggregate.argument)
        if aggregate.kind == "count_values" and isinstance(formula, ColumnRef):
            column = self.tables[table].column(formula.name)
            if not _is_numeric(column.type):
                present = np.array(column.is_valid().to_numpy(), np.bool_)
                return Values(np.zeros(len(column), np.int64), 0, present)
        return self._values(table, aggregate.argument)

    def _values(self, table: str, argument: str) -> Values:
        data = self.tables[table]
        return self._keep(
            ("values", table, argument),
            lambda: evaluate_rows(
                parse_rows(argument), lambda name: numbers(data.column(name), data.place(name)), data.row_count
            ),
        )

    def _keep(self, key: tuple[object, ...], make: Callable[[], _T]) -> _T:
        # One lock for each thing made, so that making one never holds up a question that needs another.
        with self._lock:
            lock = self._locks.setdefault(key, RLock())
        with lock:
            if key not in self._kept:
                self._kept[key] = make()
            return self._kept[key]  # type: ignore[return-value]


def _is_numeric(kind: pa.DataType) -> bool:
    return bool(pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind))
