"""Counts what is open at the end of a period: begun by its last day, and not ended by then."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from dastan.core.engine.grouping import RowGroups
from dastan.core.errors import LimitError, SourceError
from dastan.sources.files.tables import TableData

CELLS_LIMIT = 100_000_000
NEVER = np.iinfo(np.int64).max


@dataclass(frozen=True, slots=True, eq=False)
class OpenCounts:
    """The periods and groups in which something is open, `(n,) int64` each, and how much."""

    periods: np.ndarray
    groups: np.ndarray
    counts: np.ndarray


def count_open(
    started: np.ndarray, ended: np.ndarray, grouped: RowGroups, last_day_of_period: np.ndarray
) -> OpenCounts:
    """Counts, for every period and group, the records open on the period's last day.

    Args:
        started, ended: `(n_rows,) int64` days; a record that never ends has the largest number, and so has
            one whose start is blank, which never counts.
        last_day_of_period: `(n_periods,) int64`.
    Raises: LimitError when periods times groups would not fit.
    """
    days, place = np.unique(last_day_of_period, return_inverse=True)
    if grouped.count * (len(days) + 1) > CELLS_LIMIT:
        raise LimitError(
            f"Counting what is open in {grouped.count:,} groups on {len(days):,} days is too much at once.",
            "Show a coarser level of the calendar, or keep fewer members.",
        )
    change = np.zeros((grouped.count, len(days) + 1), np.int64)
    np.add.at(change, (grouped.group, np.searchsorted(days, started)), 1)
    np.add.at(change, (grouped.group, np.searchsorted(days, np.maximum(started, ended))), -1)
    is_open = np.cumsum(change, axis=1)[:, place]
    groups, periods = np.nonzero(is_open)
    return OpenCounts(periods, groups, is_open[groups, periods])


def day_numbers(table: TableData, column: str) -> np.ndarray:
    """A date column as days since 1970, `(n_rows,) int64`; blanks as the largest number.

    Raises: SourceError for a column that holds no dates.
    """
    values = table.column(column)
    if pa.types.is_string(values.type):
        # Text that is no date is refused just below, by its type.
        with suppress(pa.ArrowInvalid):
            values = values.cast(pa.date32())
    if not (pa.types.is_temporal(values.type) or pa.types.is_null(values.type)):
        raise SourceError(
            f"Column “{column}” of table “{table.name}” does not hold dates.",
            "Let the measure use another column, or declare how the dates are written.",
        )
    days = values.cast(pa.date32()).cast(pa.int32())
    present = np.asarray(days.is_valid().to_numpy(), np.bool_)
    return np.where(present, np.nan_to_num(days.to_numpy(zero_copy_only=False)).astype(np.int64), NEVER)
