"""Balances: added along everything but time, and over time taken at one loaded day, or averaged over all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import pyarrow as pa

from dastan.core.engine.aggregates import reduce_values
from dastan.core.engine.grouping import RowGroups
from dastan.core.values import Values
from dastan.sources.files.columns import keys_of


@dataclass(frozen=True, slots=True, eq=False)
class LoadedRows:
    """The records that the calendar alone leaves, `(n,) int64`, and the period that each belongs to."""

    rows: np.ndarray
    periods: RowGroups


def balance_values(
    over_time: Literal["last", "first", "average"],
    values: Values,
    day_by_row: np.ndarray,
    loaded: LoadedRows,
    grouped: RowGroups,
    taken: np.ndarray,
    name: str,
) -> Values:
    """One balance per group.

    Which days are loaded is a matter of the period alone, whatever the other filters and rights: a depot with
    no record on that day counts nothing that day. A record without a date counts only where its period has no
    dated one.

    Args:
        values, day_by_row: of all records; days as ranks, -1 for none.
        grouped, taken: the groups asked for, of the records in scope.
        name: what is a balance, for messages.
    """
    period_by_row = np.zeros(len(day_by_row), np.int64)
    period_by_row[loaded.rows] = loaded.periods.group
    days = Values(day_by_row[loaded.rows], 0, day_by_row[loaded.rows] >= 0)
    chosen = reduce_values(
        "min" if over_time == "first" else "max", days, loaded.periods.group, loaded.periods.count, name
    )
    day_of_period = np.where(chosen.present, chosen.data, -1)
    day, wanted = day_by_row[taken], day_of_period[period_by_row[taken]]
    counted = np.flatnonzero((day >= 0) | (wanted < 0) if over_time == "average" else day == wanted)
    total = reduce_values("sum", values.take(taken[counted]), grouped.group[counted], grouped.count, name)
    if over_time != "average":
        return total
    pairs = np.unique(np.stack([loaded.periods.group[days.present], days.data[days.present]]), axis=1)
    day_counts = np.maximum(np.bincount(pairs[0], minlength=loaded.periods.count), 1)
    period_of_group = np.zeros(grouped.count, np.int64)
    period_of_group[grouped.group] = period_by_row[taken]
    return Values(total.as_float() / day_counts[period_of_group], None, total.present)


def day_ranks(days: pa.ChunkedArray) -> np.ndarray:
    """For each row of a calendar its place in order of date, and -1 for the blank and the unknown one, as int64."""
    order = np.argsort(np.array([str(each) for each in keys_of(days)]), kind="stable")
    ranks = np.full(len(days) + 2, -1, np.int64)
    ranks[order] = np.arange(len(days))
    return ranks
