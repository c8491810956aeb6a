"""How an answer is laid out: the measures stand as one group on an axis, and every header has a line for each.

Without arithmetic: a line only says which entry of the axis it is, and which measure.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import AxisName, Question
from dastan.core.engine.axes import Axis

ALL = -1
"""The measure of a line on the axis without measures; on the other, that of a heading."""


@dataclass(frozen=True, slots=True, eq=False)
class Lines:
    """The lines of one axis, in reading order.

    `entry` is `(n,) int64`, the entry of the axis; `measure` `(n,) int32`. `has_figures` is `(n,) bool`. Lines
    `total_start` to `total_end` are the grand total's, where these stand together at an end.
    """

    axis: Axis
    entry: np.ndarray
    measure: np.ndarray
    has_figures: np.ndarray
    closes: np.ndarray
    """`(n,) bool`: the total of all that stands under one measure, after it."""
    outside: int | None
    """How many hierarchies stand outside the measures; None where no lines are told apart by measures."""
    total_start: int
    total_end: int

    def __len__(self) -> int:
        return len(self.entry)

    @property
    def size_bytes(self) -> int:
        """How much memory the lines take."""
        return sum(each.nbytes for each in (self.entry, self.measure, self.has_figures, self.closes))


def lay_out(axis: Axis, name: AxisName, question: Question) -> Lines:
    """The lines of an axis. A single measure takes no lines of its own on rows: its name heads the table."""
    count = len(question.measures)
    if question.measures_on != name or not count or (count == 1 and name == "rows"):
        entries = np.arange(len(axis))
        total = (axis.total, axis.total + 1) if axis.total is not None else (0, 0)
        nothing = np.zeros(len(axis), np.bool_)
        return Lines(axis, entries, np.full(len(axis), ALL, np.int32), ~axis.is_heading, nothing, None, *total)
    outside = question.outside_measures
    repeated = _Repeated(axis, count, outside, has_headings=name == "rows")
    return repeated.lines()


@dataclass(frozen=True, slots=True, eq=False)
class _Repeated:
    """Repeats each block of entries, those under one header outside the measures, once for each measure."""

    axis: Axis
    count: int
    outside: int
    has_headings: bool

    def lines(self) -> Lines:
        entries: list[np.ndarray] = []
        measures: list[np.ndarray] = []
        figures: list[np.ndarray] = []
        closing: list[np.ndarray] = []
        if self.outside >= len(self.axis.placements):
            return self._singly()
        starts = self._block_starts()
        ends = np.append(starts, len(self.axis))[1:]
        if not len(self.axis) or (ends - starts).max() == 1:
            return self._singly()
        for start, end in zip(starts.tolist(), ends.tolist(), strict=True):
            inside = np.arange(start, end)
            own = self._own_entry(start, end)
            if self.has_headings and self.outside:
                entries.append(np.array([own if own is not None else start]))
                measures.append(np.array([ALL]))
                figures.append(np.array([False]))
                closing.append(np.array([False]))
            for measure in range(self.count):
                is_headed = own == start or not self.has_headings or len(inside) == 1
                block = inside if is_headed else np.append(start if own is None else own, inside)
                has_figures = ~self.axis.is_heading[block]
                if not is_headed:
                    has_figures[0] = False
                entries.append(block)
                measures.append(np.full(len(block), measure))
                figures.append(has_figures)
                closes = np.zeros(len(block), np.bool_)
                if self.has_headings and own is not None and own == end - 1 and own != start:
                    closes[-1] = True
                closing.append(closes)
        return self._joined(*(np.concatenate(each) for each in (entries, measures, figures, closing)))

    def _singly(self) -> Lines:
        """Every entry by itself, the measures inside all hierarchies."""
        height = self.count + self.has_headings
        entry = np.repeat(np.arange(len(self.axis)), height)
        own = np.arange(self.count) if not self.has_headings else np.append(ALL, np.arange(self.count))
        measure = np.tile(own, len(self.axis))
        is_heading = self.axis.is_heading[entry]
        # A heading has no figures for any measure.
        kept = ~(is_heading & (measure >= 0))
        entry, measure = entry[kept], measure[kept]
        return self._joined(entry, measure, measure >= 0, np.zeros(len(entry), np.bool_))

    def _joined(self, entry: np.ndarray, measure: np.ndarray, has_figures: np.ndarray, closes: np.ndarray) -> Lines:
        start, end = 0, 0
        if self.axis.total is not None:
            of_total = np.flatnonzero(entry == self.axis.total)
            stands_together = len(of_total) and of_total[-1] - of_total[0] + 1 == len(of_total)
            is_at_end = stands_together and (of_total[0] == 0 or of_total[-1] == len(entry) - 1)
            if is_at_end:
                start, end = int(of_total[0]), int(of_total[-1]) + 1
        return Lines(self.axis, entry, measure.astype(np.int32), has_figures, closes, self.outside, start, end)

    def _block_starts(self) -> np.ndarray:
        """Where the entries under another header outside the measures begin."""
        codes, depths = self.axis.codes[:, : self.outside], self._depths()
        count = np.array([len(each.depths) for each in self.axis.grains])[self.axis.grain]
        is_inside = count >= self.outside
        same = is_inside[1:] & is_inside[:-1]
        if self.outside:
            same &= (codes[1:] == codes[:-1]).all(axis=1) & (depths[1:] == depths[:-1]).all(axis=1)
        return np.flatnonzero(np.append(True, ~same)) if len(self.axis) else np.empty(0, np.int64)

    def _depths(self) -> np.ndarray:
        """`(n, outside)`: how deep each entry's header is at the places outside, -1 beyond it."""
        by_grain = np.full((len(self.axis.grains), self.outside), -1)
        for number, grain in enumerate(self.axis.grains):
            own = grain.depths[: self.outside]
            # The rest of a level and a member of it have codes apart.
            by_grain[number, : len(own)] = own
        return np.asarray(by_grain[self.axis.grain])

    def _own_entry(self, start: int, end: int) -> int | None:
        """The block's own header, which stands for all that is under it; the grand total's for the whole axis."""
        grains = self.axis.grains
        for place in (start, end - 1):
            if len(grains[int(self.axis.grain[place])].depths) == min(self.outside, len(self.axis.placements)):
                return place
        return None
