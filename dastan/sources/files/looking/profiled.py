"""What a table's columns hold, over all records, and how columns fit each other: the counts behind a proposal."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.model.document import Assumption
from dastan.core.model.proposing.profile import ColumnProfile, Kind, Nesting, Pointer, TableProfile
from dastan.sources.files.columns import codes_of
from dastan.sources.files.tables import TableData, plain_keys

_FIRST_ROWS = 20_000
"""So many records are looked at first: most columns that do not lie in each other show it there."""
_MOST_LEVELS = 40


def profile_of(table: TableData, assumed: Iterable[Assumption] = ()) -> TableProfile:
    """Looks at all columns of a table. Raises SourceError for a file that cannot be read."""
    # Arrow counts on one processor at a time.
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        columns = tuple(threads.map(lambda name: column_profile(name, table.column(name)), table.names))
    return TableProfile(table.name, table.declared, table.row_count, columns, tuple(assumed))


def column_profile(name: str, values: pa.ChunkedArray) -> ColumnProfile:
    """Looks at one column."""
    if pa.types.is_dictionary(values.type):
        values = values.cast(values.type.value_type)
    kind = _kind(values.type)
    records, blanks = len(values), values.null_count
    if kind is None or blanks == records:
        return ColumnProfile(name, "nothing" if blanks == records else "text", records, blanks, 0)
    # How many amounts are different is of no use: that some are is.
    different = _distinct(values[:_FIRST_ROWS] if kind in ("decimal", "float") else values)
    found = ColumnProfile(name, kind, records, blanks, different)
    if kind == "decimal":
        return replace(found, scale=values.type.scale)
    if kind == "text":
        lengths = pc.min_max(pc.utf8_length(values)).as_py()
        return replace(found, shortest=lengths["min"], longest=lengths["max"])
    if kind in ("whole", "day", "moment"):
        ends = pc.min_max(values).as_py()
        if kind == "whole":
            low, high = ends["min"], ends["max"]
            shortest = len(str(low)) if low > 0 else 1
            return replace(found, least=low, greatest=high, shortest=shortest, longest=len(str(high)))
        return replace(found, least=str(ends["min"])[:10], greatest=str(ends["max"])[:10])
    return found


def _kind(kind: pa.DataType) -> Kind | None:
    """What a column's values are; None for what no level or measure is made of, such as a list."""
    if pa.types.is_string(kind):
        return "text"
    if pa.types.is_integer(kind):
        return "whole"
    if pa.types.is_decimal(kind):
        return "decimal"
    if pa.types.is_floating(kind):
        return "float"
    if pa.types.is_date(kind):
        return "day"
    if pa.types.is_timestamp(kind):
        return "moment"
    return "boolean" if pa.types.is_boolean(kind) else None


def _distinct(values: pa.ChunkedArray) -> int:
    return int(pc.count_distinct(values, mode="only_valid").as_py())


def measured(pointer: Pointer, tables: dict[str, TableData]) -> Pointer:
    """A pointer with its counts."""
    column = plain_keys(tables[pointer.table].column(pointer.column))
    keys = plain_keys(tables[pointer.to_table].column(pointer.to_column))
    if column.type != keys.type:
        return pointer
    counted = pc.value_counts(column)
    values, counts = counted.field("values"), counted.field("counts")
    held = values.is_valid()
    is_found = pc.and_(held, pc.is_in(values, value_set=keys))
    unknown = pc.and_(held, pc.invert(is_found))
    return replace(
        pointer, distinct=_count(held), found=_count(is_found), blank=column.null_count,
        unknown=int(pc.sum(counts.filter(unknown)).as_py() or 0),
    )  # fmt: skip


def _count(mask: pa.Array) -> int:
    return int(pc.sum(mask).as_py() or 0)


def nestings_of(table: TableData, columns: Sequence[ColumnProfile]) -> list[Nesting]:
    """Which of some columns lie in which: of records where both have a value, each inner one goes with one outer."""
    looked_at = sorted(columns, key=lambda each: each.distinct)[:_MOST_LEVELS]
    codes = {each.name: codes_of(table.column(each.name)) for each in looked_at}
    found = []
    for inner in looked_at:
        for outer in looked_at:
            if inner is outer or outer.distinct > inner.distinct:
                continue
            one, other = codes[inner.name], codes[outer.name]
            if _lies_in(one[:_FIRST_ROWS], other[:_FIRST_ROWS]) and _lies_in(one, other):
                found.append(Nesting(table.name, inner.name, outer.name))
    return found


def _lies_in(inner: np.ndarray, outer: np.ndarray) -> bool:
    """Whether each code of `inner` goes with one of `outer` alone; records without one of them say nothing."""
    both = (inner >= 0) & (outer >= 0)
    inner, outer = inner[both], outer[both]
    if not len(inner):
        return False
    goes_with = np.full(int(inner.max()) + 1, -1, np.int64)
    goes_with[inner] = outer  # the last of each
    return bool(np.array_equal(goes_with[inner], outer))
