"""What a variance is worked out from: how many values each group has, their sum, and how far they lie apart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.values import Values

_FITS = 2.0**62
"""Whole numbers below are of 64 bits, and what is taken from them too."""


@dataclass(frozen=True, slots=True, eq=False)
class Moments:
    """Of each group, `(n,)`: its values counted and added up, and either the sum of their squares or how far they lie
    from its mean, squared and added up.

    Whole numbers are added up exactly, as units of ten to the minus `scale`; `squares` is None where they, or floating
    point, go by `away` instead.
    """

    counts: np.ndarray
    sums: np.ndarray
    scale: int | None
    squares: np.ndarray | None = None
    away: np.ndarray | None = None

    def variance(self) -> Values:
        """The sample variance; empty for fewer than two."""
        has = self.counts > 1
        data = np.zeros(len(has))
        if self.squares is not None:
            # Two that are near each other are taken from one another: exactly, and beyond 64 bits where that is needed.
            fits = self.counts * self.squares.astype(np.float64) < _FITS
            for some, kind in ((has & fits, np.int64), (has & ~fits, object)):
                count, total, squares = (each[some].astype(kind) for each in (self.counts, self.sums, self.squares))
                apart = (count * squares - total * total).astype(np.float64)
                many = self.counts[some].astype(np.float64)
                data[some] = apart / (many * (many - 1)) / 10.0 ** (2 * (self.scale or 0))
        elif self.away is not None:
            data[has] = self.away[has] / (self.counts[has] - 1)
        return Values(data, None, has)

    def coarser(self, group: np.ndarray, count: int) -> Moments:
        """Of `count` coarser groups. Args: `group` says in which of them each group lies."""
        counts, sums = _added(self.counts, group, count), _added(self.sums, group, count)
        if self.squares is not None:
            return Moments(counts, sums, self.scale, squares=_added(self.squares, group, count))
        assert self.away is not None
        mean, wider = mean_of(self.sums, self.counts, self.scale), mean_of(sums, counts, self.scale)
        between = self.counts * np.square(mean - wider[group])
        return Moments(counts, sums, self.scale, away=_added(self.away + between, group, count))


def mean_of(sums: np.ndarray, counts: np.ndarray, scale: int | None) -> np.ndarray:
    """The mean of each group, float64; 0 where there are no values."""
    found = np.zeros(len(counts))
    np.divide(sums / 10.0 ** (scale or 0), counts, out=found, where=counts > 0)
    return found


def _added(values: np.ndarray, group: np.ndarray, count: int) -> np.ndarray:
    found = np.zeros(count, values.dtype)
    np.add.at(found, group, values)
    return found
