"""A file that was fetched, held against the database: as many records, and the same sums."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from pathlib import Path

import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq
from adbc_driver_manager.dbapi import Cursor
from sqlglot import exp

from dastan.core.engine.watch import Watch
from dastan.sources.postgres.fetched_column import DIALECT, FetchedColumn
from dastan.sources.postgres.patience import patiently

_ROUNDING = 1e-9
"""Of floating point: what the order in which it is added up may change, of all that is added."""


@dataclass(frozen=True, slots=True)
class Arrived:
    """What has arrived in a file: its records, and how many there are by the database; how many columns add up to what
    it says they do, and which do not. A view may give others each time that it is asked."""

    records: int
    records_there: int
    sums: int
    differing: tuple[str, ...] = ()


def held_against(
    cursor: Cursor, base: exp.Query, columns: Sequence[FetchedColumn], file: Path, watch: Watch
) -> Arrived:
    """Asks the database how many records there are and what each column adds up to, and reads the file for the same.

    Args: `base` is what was fetched into the file, in the same transaction. Raises CancelledError.
    """
    added = [each for each in columns if each.is_added_up]
    count: exp.Expr = exp.cast(exp.Count(this=exp.Star()), "text", dialect=DIALECT)
    asked = exp.select(count, *(each.added_up() for each in added)).from_(base.subquery("wanted"))
    with patiently(cursor, watch) as done:
        done(lambda: cursor.execute(asked.sql(DIALECT)))
        count_there, *sums_there = done(cursor.fetchone) or ()
    with pq.ParquetFile(file) as opened:
        records = opened.metadata.num_rows
        own = [_added_up(opened, each.field.name, watch) for each in added]
    pairs = zip(added, sums_there, own, strict=True)
    differing = tuple(each.field.name for each, there, here in pairs if not here.is_same(there))
    return Arrived(records, int(count_there), len(added) - len(differing), differing)


@dataclass(frozen=True, slots=True)
class _Sum:
    """What a column adds up to, None where all is blank; and what it would regardless of signs, of floating point."""

    total: Decimal | float | None = None
    weight: float = 0.0

    def with_more(self, values: pa.Array) -> _Sum:
        if pa.types.is_integer(values.type):
            values = values.cast(pa.decimal128(38, 0))
        part = pc.sum(values).as_py()
        if part is None:
            return self
        weight = pc.sum(pc.abs(values)).as_py() if pa.types.is_floating(values.type) else 0.0
        return _Sum(part if self.total is None else self.total + part, self.weight + weight)

    def is_same(self, there: str | None) -> bool:
        if there is None or self.total is None:
            return there is None and self.total is None
        if isinstance(self.total, Decimal):
            return Decimal(there) == self.total
        other = float(there)
        if not math.isfinite(other):
            return other == self.total or (math.isnan(other) and math.isnan(self.total))
        return abs(other - self.total) <= _ROUNDING * self.weight


def _added_up(opened: pq.ParquetFile, name: str, watch: Watch) -> _Sum:
    found = _Sum()
    for batch in opened.iter_batches(columns=[name]):
        watch.check()
        found = found.with_more(batch.column(0))
    return found
