"""The parts of a wide crosstab, one for each outermost header of its columns, to be paged through."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.grains import ancestors
from dastan.core.engine.layout import ALL
from dastan.core.reading.window import member_header


@dataclass(frozen=True, slots=True)
class Section:
    """Columns `start` to `start + count`, which stand under one outermost header."""

    caption: str
    start: int
    count: int


def column_sections(answer: Answer) -> tuple[Section, ...]:
    """The sections in order; the grand total's columns are one of their own."""
    lines, axis = answer.column_lines, answer.columns
    keys = lines.measure.astype(np.int64) if lines.outside == 0 else _outermost(answer)[lines.entry]
    if not len(keys):
        return ()
    starts = np.flatnonzero(np.append(True, keys[1:] != keys[:-1]))
    ends = np.append(starts[1:], len(keys))
    found = []
    for start, end in zip(starts.tolist(), ends.tolist(), strict=True):
        measure = int(lines.measure[start])
        chain = axis.chain(int(lines.entry[start]))
        caption = member_header(axis, chain[0]).caption if chain else axis.all_caption
        if lines.outside == 0 and measure != ALL:
            caption = answer.measures[measure].caption
        found.append(Section(caption, start, end - start))
    return tuple(found)


def _outermost(answer: Answer) -> np.ndarray:
    """`(n,) int64` per entry of the columns: the code of its outermost member; -1 for the grand total."""
    axis = answer.columns
    keys = np.full(len(axis), -1, np.int64)
    for number, grain in enumerate(axis.grains):
        entries = np.flatnonzero(axis.grain == number)
        if not len(entries) or not grain.depths:
            continue
        placement = axis.placements[0]
        top = placement.shown_depths[0]
        is_top_others = 0 in grain.others and grain.depths[0] == top
        codes = axis.codes[entries, 0]
        keys[entries] = codes if is_top_others else ancestors(placement, grain, 0, codes, top)
    return keys
