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
    """What has arrived in a file: its records, and how many columns add up to what the database says they do."""

    records: int
    sums: int
    differing: tuple[str, ...] = ()
    """What does not: columns by name, or "records". A view may give others each time that it is asked."""


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
        told = done(cursor.fetchone) or ()
    records, own = _added_up(file, [each.field.name for each in added])
    pairs = zip(added, told[1:], own, strict=True)
    differing = [each.field.name for each, there, here in pairs if not _are_same(there, here)]
    if told[:1] != (str(records),):
        differing.insert(0, "records")
    return Arrived(records, len(added) - sum(each != "records" for each in differing), tuple(differing))


def _added_up(file: Path, names: list[str]) -> tuple[int, list[Decimal | float | None]]:
    """The records of a file, and what some of its columns add up to: None where all are blank."""
    sums: list[Decimal | float | None] = [None] * len(names)
    count = 0
    with pq.ParquetFile(file) as opened:
        for batch in opened.iter_batches(columns=names):
            count += batch.num_rows
            for at, values in enumerate(batch.columns):
                part = _sum(values)
                if part is not None:
                    known = sums[at]
                    sums[at] = part if known is None else known + part  # type: ignore[operator]
        return opened.metadata.num_rows if not names else count, sums


def _sum(values: pa.Array) -> Decimal | float | None:
    if pa.types.is_integer(values.type):
        values = values.cast(pa.decimal128(38, 0))
    found: Decimal | float | None = pc.sum(values).as_py()
    return found


def _are_same(there: str | None, here: Decimal | float | None) -> bool:
    if there is None or here is None:
        return there is None and here is None
    if isinstance(here, Decimal):
        return Decimal(there) == here
    other = float(there)
    return other == here or (math.isnan(other) and math.isnan(here)) or math.isclose(other, here, rel_tol=_ROUNDING)
