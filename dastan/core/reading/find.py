"""Finds a header of an answer by what it is called."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.layout import Lines
from dastan.core.reading.window import member_header


@dataclass(frozen=True, slots=True)
class FoundLine:
    """The line of an axis at which a header stands; None where nothing is called that."""

    axis: AxisName
    line: int | None
    caption: str


def find_line(answer: Answer, words: str, start: int) -> FoundLine:
    """The next row from `start` on, or from the top again, whose own member begins with the words; else one that
    holds them; else a column."""
    wanted = words.casefold().strip()
    axes: tuple[tuple[AxisName, Lines, int], ...] = (
        ("rows", answer.row_lines, start), ("columns", answer.column_lines, 0),
    )  # fmt: skip
    for axis, lines, first in axes:
        for begins in (True, False):
            places = np.flatnonzero(_called(lines.axis, wanted, begins)[lines.entry]) if wanted else np.empty(0)
            if len(places):
                later = places[places >= first]
                line = int(later[0] if len(later) else places[0])
                chain = lines.axis.chain(int(lines.entry[line]))
                caption = " › ".join(member_header(lines.axis, each).caption for each in chain)
                return FoundLine(axis, line, caption)
    return FoundLine("rows", None, "")


def _called(axis: Axis, wanted: str, begins: bool) -> np.ndarray:
    """`(n,) bool`: the headers whose own member's caption begins with, or holds, the words."""
    found = np.zeros(len(axis), np.bool_)
    for number, grain in enumerate(axis.grains):
        entries = np.flatnonzero(axis.grain == number)
        last = len(grain.depths) - 1
        if not len(entries) or last < 0 or last in grain.others:
            continue
        captions = axis.placements[last].members.levels[grain.depths[last]].captions
        is_called = np.array([_fits(each.casefold(), wanted, begins) for each in captions], np.bool_)
        found[entries] = is_called[axis.codes[entries, last]]
    return found


def _fits(caption: str, wanted: str, begins: bool) -> bool:
    return caption.startswith(wanted) if begins else wanted in caption
