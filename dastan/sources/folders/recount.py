"""Asks the files themselves, afresh, how many records a fact has and what a column adds up to."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.waist import RecordsRequest, Rights
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.document import Measure
from dastan.core.model.reach import Grain
from dastan.sources.files.tables import TableData, open_table
from dastan.sources.folders.folder import OpenModel


@dataclass(frozen=True, slots=True)
class Recount:
    """A fact as its source has it now, and as it is answered here, without filters and rights.

    `source_sum` and `own_sum` are of the column that a measure adds up; None where it adds up none.
    """

    table: str
    column: str
    source_count: int
    own_count: int
    source_sum: str | None
    own_sum: str | None
    differing: tuple[str, ...]
    """The columns that hold other values than the source has, record by record."""
    agrees: bool


def recount(opened: OpenModel, part: Measure) -> Recount:
    """Reads the fact's files anew. Raises SourceError where they can no longer be read."""
    model, source = opened.model, opened.source
    fresh = open_table(opened.written.folder, part.table, model.tables[part.table])
    own_count = source.record_count(Grain(part.table))
    column = part.expression if part.expression in _of_files(fresh) else None
    source_sum: object = None
    own_sum: object = None
    if column is not None and _is_number(fresh.column(column).type):
        source_sum = pc.sum(fresh.column(column)).as_py()
        request = RecordsRequest(Grain(part.table), (), Rights("source check"))
        values = source.record_values(request, BaseAggregate("sum", column))
        data = values.data[values.present]
        total = int(data.sum(dtype=object)) if values.scale is not None else float(data.sum())
        own_sum = Decimal(int(total)).scaleb(-values.scale) if values.scale else total
    differing = _differing(fresh, source.tables[part.table])
    same_sum = source_sum == own_sum or (isinstance(own_sum, float) and _close(source_sum, own_sum))
    return Recount(
        part.table, column or "", fresh.row_count, own_count, _text(source_sum), _text(own_sum),
        differing, fresh.row_count == own_count and same_sum and not differing,
    )  # fmt: skip


def _differing(fresh: TableData, own: TableData) -> tuple[str, ...]:
    """The columns of a table whose values are not the same, one after the other."""
    if fresh.names != own.names or fresh.row_count != own.row_count:
        return tuple(sorted(set(fresh.names) ^ set(own.names)))
    return tuple(name for name in _of_files(fresh) if not _plain(fresh.column(name)).equals(_plain(own.column(name))))


def _of_files(table: TableData) -> list[str]:
    """The columns that stand in the files: the others are worked out from these."""
    return [each for each in table.names if each not in table.formulas]


def _plain(column: pa.ChunkedArray) -> pa.ChunkedArray:
    return column.cast(column.type.value_type) if pa.types.is_dictionary(column.type) else column


def _is_number(kind: pa.DataType) -> bool:
    return bool(pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind))


def _close(one: object, other: float) -> bool:
    return isinstance(one, float) and abs(one - other) <= 1e-9 * max(abs(one), abs(other), 1.0)


def _text(value: object) -> str | None:
    return None if value is None else str(value)
