"""A cell by its members and measure, so that what is said of it stays with it when the table turns."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import PlacedMeasure, PlacedMember, Question
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.grains import AxisGrain
from dastan.core.engine.layout import Lines
from dastan.core.errors import InputError
from dastan.core.reading.backing import place_of


@dataclass(frozen=True, slots=True)
class CellName:
    """The members that a cell stands in, the deepest of each hierarchy, and the measure that it shows."""

    members: tuple[PlacedMember, ...]
    measure: PlacedMeasure


def name_of_cell(answer: Answer, question: Question, row: int, column: int) -> CellName:
    """What a cell at a line of rows and one of columns is called. Raises InputError where there is none, and for the
    rest that a limit leaves, which is another one with every change."""
    place = place_of(answer, row, column)
    members = (*_members(answer.rows, place.row), *_members(answer.columns, place.column))
    return CellName(members, question.measures[place.measure])


def lines_of_cell(answer: Answer, question: Question, name: CellName) -> tuple[int, int] | None:
    """The line of rows and the line of columns at which a cell stands; None where the table does not show it."""
    if name.measure not in question.measures:
        return None
    measure = question.measures.index(name.measure)
    left = {(each.dimension, each.hierarchy): each for each in name.members}
    found = []
    for lines in (answer.row_lines, answer.column_lines):
        entry = _entry(lines.axis, left)
        line = _line(lines, entry, measure) if entry is not None else None
        if line is None:
            return None
        found.append(line)
    return None if left else (found[0], found[1])


def _members(axis: Axis, entry: int) -> list[PlacedMember]:
    grain = axis.grains[int(axis.grain[entry])]
    if grain.others:
        raise InputError("Nothing can be said of the rest of a list: it is another one with every change.")
    return [
        PlacedMember(
            dimension=placement.placed.dimension,
            hierarchy=placement.placed.hierarchy,
            path=placement.members.path_of(depth, int(code)),
        )
        for placement, depth, code in zip(axis.placements, grain.depths, axis.codes[entry], strict=False)
    ]


def _entry(axis: Axis, left: dict[tuple[str, str], PlacedMember]) -> int | None:
    """The entry of the members that stand on an axis, which are taken from what is `left`."""
    depths: list[int] = []
    codes: list[int] = []
    for placement in axis.placements:
        member = left.pop((placement.placed.dimension, placement.placed.hierarchy), None)
        if member is None:
            break
        code = placement.members.find(member.path)
        if code is None:
            return None
        depths.append(len(member.path) - 1)
        codes.append(code)
    entry = int(axis.entries_of(AxisGrain(tuple(depths)), np.array([codes], np.int32).reshape(1, len(codes)))[0])
    return entry if entry >= 0 else None


def _line(lines: Lines, entry: int, measure: int) -> int | None:
    """The line of an entry that shows a measure; of one that only heads what it holds, its heading."""
    shows = (lines.entry == entry) & ((lines.measure < 0) | (lines.measure == measure))
    for found in (np.flatnonzero(shows & lines.has_figures), np.flatnonzero(shows)):
        if len(found):
            return int(found[0])
    return None
