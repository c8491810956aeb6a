"""Coded facts: what the ways of answering share."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import partial
from threading import Lock
from typing import TypeVar

import numpy as np
import pyarrow as pa

from dastan.core.engine.waist import (
    Condition,
    Conditions,
    LevelRef,
    RecordsRequest,
    Rights,
    dimensions_of,
    has_groups,
)
from dastan.core.errors import SourceError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.rows import ColumnRef, WorkedOut, evaluate_rows, parse_rows
from dastan.core.model.complete import complete_model
from dastan.core.model.document import Attribute, Dimension, Relationship, SemanticModel
from dastan.core.model.financial_layouts import laid_out
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import Key
from dastan.core.model.reach import Grain, Way, path_to_table, reaches, way_to
from dastan.core.values import Values
from dastan.sources.columnar.balances import day_ranks
from dastan.sources.columnar.blocks import Level, Test, zones_of
from dastan.sources.columnar.codes import ascending_codes, in_order, smallest_type, taken
from dastan.sources.columnar.conditions import (
    FactRows,
    dimension_mask,
    has_own_mask,
    row_mask,
)
from dastan.sources.columnar.cut_short import CUT_SHORT
from dastan.sources.columnar.dimension_rows import Pointers, deepest_branch, list_of, match_keys, members_of, own_rows
from dastan.sources.columnar.kept import ROOM, Kept
from dastan.sources.columnar.open_records import day_numbers
from dastan.sources.columnar.postings import Postings
from dastan.sources.columnar.prepared import Prepared
from dastan.sources.columnar.scan import Scan, Summand, summand_of, values_of
from dastan.sources.columnar.scope import Scope, select_rows
from dastan.sources.columnar.summary import Summary
from dastan.sources.files.columns import codes_of, keys_of, numbers
from dastan.sources.files.tables import TableData

_T = TypeVar("_T")

_MASKS_KEPT = 256


class CodedFacts:
    """A model's tables in memory, as the ways of answering look at them: each record's row in every dimension, what is
    added up, the records that conditions leave. What is needed is coded when first asked for, then kept.

    Safe for threads. What is made is in `kept`; `_masks` and `_cut_short` are changed under `_lock` alone. `summaries`
    and `postings` map a grain to a list that is replaced whole. Arrays are never changed once they are there.

    With `prepared`, what takes long to make outlives the process, as far as `room` allows. `declared` is the model as
    its author wrote it, `model` the one with every level that can be shown.
    """

    def __init__(
        self,
        model: SemanticModel,
        tables: dict[str, TableData],
        prepared: Prepared | None = None,
        room: float = ROOM,
    ) -> None:
        self.declared = model
        self.tables = tables
        self.prepared = prepared
        depths = {
            (each.name, hierarchy.name): deepest_branch(tables[each.table], each, hierarchy.parent_child)
            for each in model.dimensions
            for hierarchy in each.hierarchies
            if hierarchy.parent_child is not None and each.table in tables
        }
        self.model = complete_model(model, depths)
        self.kept = Kept(prepared, room)
        self._lock = Lock()
        self._cut_short = CUT_SHORT.count()
        """How many times mapped files had been cut short when this one last looked."""
        self._masks: OrderedDict[Condition, np.ndarray] = OrderedDict()
        self.summaries: dict[Grain, list[Summary]] = {}
        """Those that are there by now, the smallest first: no question waits for one."""
        self.postings: dict[Grain, list[Postings]] = {}
        """Those that are there by now."""
        self.takes_shortcuts = True
        """Whether summaries and postings are used; off, records are scanned."""

    def forget(self) -> None:
        """Forgets all that was read and made: it is read anew when it is needed."""
        for table in self.tables.values():
            table.forget()
        self.kept.clear()
        self.summaries.clear()
        self.postings.clear()

    def map_anew(self) -> None:
        """Lets go of what is kept beside the folder, which is mapped into memory again when it is needed: what was only
        touched to make something else takes no memory after that."""
        for table in self.tables.values():
            table.forget()
        self.kept.map_anew()
        pa.default_memory_pool().release_unused()

    def whole(self, read: Callable[[], _T]) -> _T:
        """What is read, unless a mapped file was cut short on the way: then what was read is not to be trusted."""
        with self._lock:
            is_stale = self._cut_short != CUT_SHORT.count()
            self._cut_short = CUT_SHORT.count()
        if is_stale:
            self.forget()
        before = CUT_SHORT.count()
        found = read()
        if CUT_SHORT.count() != before:
            raise SourceError(
                "A file that is kept beside the model was cut short while it was read, so nothing was counted.",
                "Ask again: what it held is made anew.",
                code="source-changed",
            )
        return found

    def ready_summaries(self, grain: Grain) -> list[Summary]:
        """The summaries that may answer a question just now, the smallest first."""
        return self.summaries.get(grain, []) if self.takes_shortcuts else []

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """All members of a hierarchy with levels."""

        def build() -> HierarchyMembers:
            found = self.model.dimension(dimension)
            own = self._own_rows(found)[1] if found.key is None else None
            named = found.hierarchy(hierarchy)
            if named.sets:
                masks = [self.members(dimension, each.hierarchy).row_mask(each.members) for each in named.sets]
                return list_of(found, named, masks, self.row_count(dimension))
            if named.layout is not None:
                return laid_out(self.members(dimension, named.layout.hierarchy), named)
            column = partial(self._attribute_column, found, own)
            return members_of(found, named, self.row_count(dimension), column)

        return self.kept.keep(("members", dimension, hierarchy), build)

    def record_count(self, grain: Grain) -> int:
        """How many records a fact has."""
        return self.tables[grain.table].row_count

    def allowed_rows(self, dimension: str, condition: Conditions) -> np.ndarray:
        """`(n_rows + 2,) bool`: the rows of a dimension for which conditions that look at it alone hold."""
        allowed = np.ones(self.row_count(dimension) + 2, np.bool_)
        for each in condition:
            if not has_groups(each) and dimensions_of(each) <= {dimension}:
                allowed &= dimension_mask(each, dimension, self)
        return allowed

    def record_rows(self, request: RecordsRequest) -> np.ndarray:
        """The numbers, `(n,) int64` ascending, of the records that fulfil a request's condition."""
        rights = self.rights(request.rights, request.grain)
        rows = self.scope(request.grain, request.condition + rights, (), None).numbers()
        if request.open_at is None:
            return rows
        started, ended = self.dates(request.grain, request.open_at.started, request.open_at.ended)
        day = np.datetime64(request.open_at.day).astype("datetime64[D]").astype(np.int64)
        return np.asarray(rows[(started[rows] <= day) & (ended[rows] > day)])

    def row_captions(self, dimension: Dimension) -> np.ndarray:
        """`(n_rows + 2,)` text: what each row of a dimension is called by its key, the two that stand for nowhere
        included; "" where no attribute says so."""

        def read() -> np.ndarray:
            count = self.row_count(dimension.name)
            named = [each for each in dimension.attributes if each.key == dimension.key and each.table is None]
            own = self.attribute_keys(dimension.name, named[0].name, "caption") if named else [""] * count
            return np.array([*map(str, own), "", ""], object)

        return self.kept.keep(("row captions", dimension.name), read)

    def member_rows(self, grain: Grain, dimension: Dimension) -> np.ndarray:
        """Each record's row in a dimension; beyond its rows the blank and the unknown one."""
        return self.codes(grain, dimension, None)

    def row_count(self, dimension: str) -> int:
        """How many rows a dimension has; one for each combination where it is made of a fact's own columns."""
        found = self.model.dimension(dimension)
        return self.tables[found.table].row_count if found.key is not None else len(self._own_rows(found)[1])

    def days(self, dimension: str) -> np.ndarray:
        """Each day of a calendar since 1970, `(n_rows,) int64`."""
        found = self.model.dimension(dimension)
        return self.kept.keep(("days", dimension), lambda: day_numbers(self.tables[found.table], found.key or ""))

    def attribute_keys(self, dimension: str, attribute: str, on: str) -> list[Key]:
        """An attribute's keys, or its captions, one for each of a dimension's rows."""

        def read() -> list[Key]:
            found = self.model.dimension(dimension)
            own = self._own_rows(found)[1] if found.key is None else None
            named = found.attribute(attribute)
            column = (named.caption_column or named.key) if on == "caption" else named.key
            return keys_of(self._attribute_column(found, own, named, column))

        return self.kept.keep(("attribute", dimension, attribute, on), read)

    def pointers(self, table: str, column: str, to_table: str, to_column: str) -> Pointers:
        """How the records of a table point at the rows of another."""
        return self.kept.keep(
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
            rows = self._pointers(each).rows
            # A blank or unknown pointer leads to no value.
            values = values.take(pa.array(rows, mask=rows >= len(values)))
        return values if own is None else values.take(pa.array(own))

    def scope(self, grain: Grain, condition: Conditions, levels: tuple[LevelRef, ...], argument: str | None) -> Scope:
        """The records for which every condition holds; in order of `argument` where one is given."""

        def scan(plain: Conditions) -> Scan:
            return self.scan(grain, plain) if argument is None else Scan(count, self.tests(grain, plain, argument))

        count = self.record_count(grain)
        return select_rows(self._rows_of(grain, argument), condition, levels, self, scan)

    def tests(self, grain: Grain, condition: Conditions, argument: str | None) -> list[Test]:
        """What conditions ask of a record: one test for each dimension that some look at alone, and one for each of the
        others."""
        allowed: dict[str, np.ndarray] = {}
        for each in filter(has_own_mask, condition):
            (name,) = dimensions_of(each)
            mask = self._mask(each)
            allowed[name] = mask if name not in allowed else allowed[name] & mask
        found = []
        for name, mask in allowed.items():
            codes = self.codes(grain, self.model.dimension(name), argument)
            # In another order than the records' own, every block holds about everything.
            zones = self.kept.keep(("zones", grain, name, None), partial(zones_of, codes)) if argument is None else None
            found.append(Test(codes, np.ascontiguousarray(mask), zones, name))
        rows = self._rows_of(grain, argument)
        for each in condition:
            if not has_own_mask(each):
                holds = row_mask(each, self, rows).view(np.uint8)
                found.append(Test(holds, np.array([False, True]), zones_of(holds)))
        return found

    def scan(self, grain: Grain, condition: Conditions) -> Scan:
        """A pass over the records, in their own order, that conditions on one dimension each leave."""
        postings = self.postings.get(grain, []) if self.takes_shortcuts else []
        return Scan(self.record_count(grain), self.tests(grain, condition, None), postings)

    def level_codes(self, grain: Grain, level: LevelRef, argument: str | None) -> Level:
        """Each record's member at a level, in the smallest type; in order of `argument` where one is given."""
        members = self.members(level.dimension, level.hierarchy)
        depth = members.depth_of(level.level)
        size = len(members.levels[depth])

        def make() -> np.ndarray:
            by_row = members.code_by_row[depth].astype(smallest_type(size))
            return taken(by_row, self.codes(grain, self.model.dimension(level.dimension), argument))

        # By an argument there are many, and each is one look at the codes that are kept in that order.
        codes = self.kept.keep(("level", grain, level, argument), make, is_brief=argument is not None)
        return Level(codes, max(size, 1))

    def summand(self, table: str, aggregate: BaseAggregate) -> tuple[Summand, int | None] | None:
        """What an aggregate adds up, with its scale; None where a sum might not be exact."""
        key = ("summand", table, aggregate.argument, aggregate.part, aggregate.given, aggregate.kind == "sum")

        def make() -> tuple[Summand, int | None] | None:
            # Where the sums are kept beside the folder, the numbers themselves need not stay in memory.
            read = self._values if self.prepared is None else self._evaluated
            values = self.argument_values(table, aggregate, read)
            if aggregate.kind == "count_values":
                # Only counted: there is nothing to add.
                values = Values(np.zeros(len(values), np.int64), 0, values.present)
            found = summand_of(values, len(values))
            return None if found is None else (found, values.scale)

        return self.kept.keep(key, make)

    def rights(self, rights: Rights, grain: Grain) -> Conditions:
        """What holds for every record of a fact that a reader may see."""
        return rights.conditions(lambda name: reaches(self.model, grain, self.model.dimension(name)))

    def _mask(self, condition: Condition) -> np.ndarray:
        """A condition's mask over its dimension's rows. The latest are kept: a question asks each many times."""
        with self._lock:
            found = self._masks.get(condition)
        if found is None:
            (own,) = dimensions_of(condition)
            found = dimension_mask(condition, own, self)
            with self._lock:
                self._masks[condition] = found
                if len(self._masks) > _MASKS_KEPT:
                    self._masks.popitem(last=False)
        return found

    def codes(self, grain: Grain, dimension: Dimension, argument: str | None) -> np.ndarray:
        """Each record's row in the dimension; in order of `argument`'s values where one is given."""
        if argument is not None:
            return self.kept.keep(
                ("ordered", grain, dimension.name, argument),
                lambda: taken(self.codes(grain, dimension, None), self.in_order(grain.table, argument)[1]),
            )
        if dimension.key is None:
            return self._own_rows(dimension)[0]
        way = way_to(self.model, grain.table, dimension, dict(grain.roles))
        if way is None:
            raise SourceError(f"Dimension “{dimension.caption}” does not reach table “{grain.table}”.")
        if len(way) == 1:
            return self._pointers(way[0]).rows
        steps = (f"{each.from_table}.{each.from_column}" for each in way)
        return self.kept.keep(("way", grain.table, *steps, dimension.table), lambda: self._followed(grain.table, way))

    def _rows_of(self, grain: Grain, argument: str | None) -> FactRows:
        """All records of a fact, in order of `argument` where one is given."""
        codes = {each.name: partial(self.codes, grain, each, argument) for each in self.model.dimensions}
        return FactRows(self.record_count(grain), lambda name: codes[name](), {})

    def _followed(self, table: str, way: Way) -> np.ndarray:
        """Each record's row where a way ends: its own without a step, and over several by way of those between. What
        points nowhere on the way is unknown at its end, or left blank, as it was there."""
        size = self.tables[table].row_count
        rows = np.arange(size, dtype=smallest_type(size + 2))
        for each in way:
            own, size = self._pointers(each).rows, self.tables[each.to_table].row_count
            rows = taken(np.append(own, np.array([size, size + 1], own.dtype)), rows)
        return rows

    def _pointers(self, by: Relationship) -> Pointers:
        return self.pointers(by.from_table, by.from_column, by.to_table, by.to_column)

    def _own_rows(self, dimension: Dimension) -> tuple[np.ndarray, np.ndarray]:
        return self.kept.keep(("own", dimension.name), lambda: own_rows(self.tables[dimension.table], dimension))

    def day_by_row(self, grain: Grain, dimension: str) -> np.ndarray:
        """Each record's place among the days of a calendar, -1 where it has none."""
        time = self.model.dimension(dimension)
        ranks = self.kept.keep(
            ("day ranks", time.name), lambda: day_ranks(self.tables[time.table].column(time.key or ""))
        )
        return np.asarray(ranks[self.codes(grain, time, None)])

    def dates(self, grain: Grain, *columns: str) -> tuple[np.ndarray, ...]:
        """Date columns of a fact as days since 1970, blanks as the largest number."""
        table = self.tables[grain.table]
        return tuple(self.kept.keep(("dates", table.name, each), partial(day_numbers, table, each)) for each in columns)

    def in_order(self, table: str, argument: str) -> tuple[np.ndarray, np.ndarray]:
        """What is counted or ranked, coded in ascending order of value, and the records in that order."""

        def order() -> tuple[np.ndarray, np.ndarray]:
            formula = parse_rows(argument)
            if isinstance(formula, ColumnRef) and not _is_numeric(self.tables[table].column(formula.name).type):
                codes = codes_of(self.tables[table].column(formula.name))
            else:
                codes = ascending_codes(self._evaluated(table, argument))
            return in_order(codes)

        return self.kept.keep(("in order", table, argument), order)

    def argument_values(
        self, table: str, aggregate: BaseAggregate, read: Callable[[str, str], Values] | None = None
    ) -> Values:
        """What an aggregate is computed from. Raises SourceError for a column without numbers.

        Counting non-empty values needs no numbers: any column has emptiness.
        """
        formula = parse_rows(aggregate.argument)
        if aggregate.kind == "count_values" and isinstance(formula, ColumnRef):
            column = self.tables[table].column(formula.name)
            if not _is_numeric(column.type):
                present = np.array(column.is_valid().to_numpy(), np.bool_)
                return Values(np.zeros(len(column), np.int64), 0, present)
        read = read or self._values
        values = read(table, aggregate.argument)
        if aggregate.part:
            sign = 1 if aggregate.part == "debit" else -1
            return Values(np.maximum(values.data * sign, 0), values.scale, values.present)
        if aggregate.given:
            return Values(values.data, values.scale, values.present & read(table, aggregate.given).present)
        return values

    def _values(self, table: str, argument: str) -> Values:
        make = partial(self._read_or_evaluated, table, argument)
        return self.kept.keep(("values", table, argument), make, is_brief=True)

    def _read_or_evaluated(self, table: str, argument: str) -> Values:
        """A row formula's value for each record: as its sums have it, where they are kept beside the folder."""
        added = self.summand(table, BaseAggregate("sum", argument)) if self.prepared is not None else None
        return self._evaluated(table, argument) if added is None else values_of(*added)

    def _evaluated(self, table: str, argument: str) -> Values:
        """A row formula's value for each record."""
        data, formula = self.tables[table], parse_rows(argument)
        if isinstance(formula, WorkedOut):
            return numbers(data.worked_out(argument), data.place(argument))
        return evaluate_rows(formula, lambda name: numbers(data.column(name), data.place(name)), data.row_count)


def _is_numeric(kind: pa.DataType) -> bool:
    return bool(pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind))
