"""What is to be noticed of the days of a model's facts: gaps, and days with far fewer or far more records than such."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from dastan.core.odd_days import OddDays, odd_days
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.open_records import NEVER, day_numbers

_SHOWN = 3
"""So many days are named."""


def day_notes(source: ColumnSource) -> Iterator[str]:
    """A line for each way in which days of a fact are odd, with what may be behind it."""
    model = source.model
    facts = {each.table for each in model.measures}
    for each in model.relationships:
        if each.from_table in facts and model.tables[each.to_table].calendar is not None:
            days = day_numbers(source.tables[each.from_table], each.from_column)
            yield from _told(f"{each.from_table}, by {each.from_column}", odd_days(days[days != NEVER]))


def _told(what: str, odd: OddDays) -> Iterator[str]:
    if len(odd.without):
        usual = _about(odd, odd.without)
        yield f"{what}: no records on {_days(odd.without)}, where such days have {usual}; is a file missing?"
    if len(odd.few):
        told = f"{_days(odd.few)} ({_counts(odd, odd.few)}, not {_about(odd, odd.few)})"
        yield f"{what}: far fewer records than such days have on {told}; is all of it there?"
    if len(odd.many):
        usual = _about(odd, odd.many)
        words = (
            f"{what}: far more records than such days have on {_days(odd.many)} ({_counts(odd, odd.many)}, not {usual})"
        )
        yield f"{words}; were some delivered twice?"


def _days(days: np.ndarray) -> str:
    """ "2025-03-04", "2025-03-04 to 2025-03-08", "2025-03-04, 2025-05-01 and 4 more days"; what is together as one."""
    runs = np.split(days, np.flatnonzero(np.diff(days) != 1) + 1)
    named = [_day(run[0]) if len(run) == 1 else f"{_day(run[0])} to {_day(run[-1])}" for run in runs[:_SHOWN]]
    more = sum(len(run) for run in runs[_SHOWN:])
    if more:
        return f"{', '.join(named)} and {more} more {'day' if more == 1 else 'days'}"
    return named[0] if len(named) == 1 else f"{', '.join(named[:-1])} and {named[-1]}"


def _day(day: np.int64) -> str:
    return str(np.datetime64(int(day), "D"))


def _about(odd: OddDays, days: np.ndarray) -> str:
    return f"about {np.median([odd.usual[int(each)] for each in days]):,.0f}"


def _counts(odd: OddDays, days: np.ndarray) -> str:
    counts = [odd.counts[int(each)] for each in days]
    return f"{counts[0]:,}" if len(counts) == 1 else f"{min(counts):,} to {max(counts):,}"
