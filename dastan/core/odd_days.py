"""Days of a table that have no records, far fewer or far more than such days: a file that is missing, or came twice.

A day is held against the same weekday of the four weeks before and after it, so that what rests on Sundays, or grows
over the years, is no wonder.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

_WEEK = 7
_WEEKS_BESIDE = 4
_FEWEST_BESIDE = 4
"""So many of the days beside it there are at least, or a day is not judged."""
_FEWEST_RECORDS = 20
"""Where such days have fewer, chance alone makes odd ones."""
_FEW, _MANY = 0.2, 5.0
"""Of what is usual: below, and above which a day is odd."""
_LONG_GAP = 14
"""So many days in a row without any are a gap, whatever lies beside each, in a table that has records on most days."""
_MOST_ODD, _FEWEST_ODD = 0.01, 6
"""Where odd days come more often than on this share of all, however many come together, the table goes by no week."""
_LONGEST_DAYS = 200 * 366


class OddDays(NamedTuple):
    """Days since 1970, `(n,) int64` each, in order; and what is usual on each of them, `(n,) float64`."""

    without: np.ndarray
    few: np.ndarray
    many: np.ndarray
    usual: dict[int, float]
    counts: dict[int, int]


def odd_days(days: np.ndarray) -> OddDays:
    """The odd days between the first and the last. Args: `days`, `(n_records,) int64`, days since 1970, no blanks."""
    none = np.empty(0, np.int64)
    nothing = OddDays(none, none, none, {}, {})
    if not len(days):
        return nothing
    first, length = int(days.min()), int(days.max() - days.min()) + 1
    if length < _WEEK * 2 * _WEEKS_BESIDE or length > _LONGEST_DAYS:
        return nothing
    counts = np.bincount(days - first, minlength=length)
    padded = np.pad(counts.astype(np.float64), _WEEK * _WEEKS_BESIDE, constant_values=np.nan)
    steps = [_WEEK * (_WEEKS_BESIDE + week) for week in range(-_WEEKS_BESIDE, _WEEKS_BESIDE + 1) if week]
    beside = np.stack([padded[at : at + length] for at in steps])
    usual = np.nanmedian(beside, axis=0)
    judged = (np.count_nonzero(~np.isnan(beside), axis=0) >= _FEWEST_BESIDE) & (usual >= _FEWEST_RECORDS)
    gaps = _gaps(counts == 0) if np.count_nonzero(counts) > length / 2 else np.zeros(length, np.bool_)
    usual = np.where(gaps, np.median(counts[counts > 0]), usual)
    without = (judged & (counts == 0)) | (gaps & (usual >= _FEWEST_RECORDS))
    few = judged & (counts > 0) & (counts < _FEW * usual)
    many = judged & (counts > _MANY * usual)
    odd = np.flatnonzero(without | few | many)
    if np.count_nonzero(np.diff(odd, prepend=-2) != 1) > max(_FEWEST_ODD, _MOST_ODD * length):
        return nothing
    return OddDays(
        np.flatnonzero(without) + first,
        np.flatnonzero(few) + first,
        np.flatnonzero(many) + first,
        {int(at) + first: float(usual[at]) for at in odd},
        {int(at) + first: int(counts[at]) for at in odd},
    )


def _gaps(empty: np.ndarray) -> np.ndarray:
    """The days, `(n,) bool`, that stand in a long run of empty ones."""
    ends = np.flatnonzero(np.diff(empty.astype(np.int8), prepend=0, append=0))
    found = np.zeros(len(empty), np.bool_)
    for start, end in ends.reshape(-1, 2):
        found[start:end] = end - start >= _LONG_GAP
    return found
