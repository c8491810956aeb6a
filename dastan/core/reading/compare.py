"""What changed in the numbers between two answers: cells of the same members and measure, wherever they stand."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.reading.window import Number, as_number, member_header
from dastan.core.values import Values

MOST_CELLS = 100_000
"""Larger answers are not compared cell by cell."""
LISTED = 50

CellKey = tuple[frozenset[tuple[object, ...]], str]


@dataclass(frozen=True, slots=True)
class ChangedCell:
    """A cell that both answers have, with different values."""

    caption: str
    measure: str
    before: Number
    after: Number
    difference: float


@dataclass(frozen=True, slots=True)
class ComparedNumbers:
    """How many cells are the same in both answers, changed, or in one only; the largest changes, in order."""

    same: int
    changed: int
    only_before: int
    only_after: int
    largest: tuple[ChangedCell, ...]


def compare_answers(before: Answer, after: Answer) -> ComparedNumbers | None:
    """Compares two answers; None where one has too many cells or headers."""
    if max(_size(each) for each in (before, after)) > MOST_CELLS:
        return None
    one, other = _cells(before), _cells(after)
    both = [key for key in one if key in other]
    found = []
    for key in both:
        cell, earlier = other[key], one[key]
        if cell.number != earlier.number:
            difference = cell.as_float - earlier.as_float
            found.append(ChangedCell(cell.caption, cell.measure, earlier.number, cell.number, difference))
    found.sort(key=lambda each: -abs(each.difference))
    return ComparedNumbers(
        len(both) - len(found), len(found), len(one) - len(both), len(other) - len(both), tuple(found[:LISTED])
    )


@dataclass(frozen=True, slots=True)
class _Cell:
    """A value with the captions of what it stands under."""

    caption: str
    measure: str
    values: Values
    place: int

    @property
    def number(self) -> Number:
        return as_number(self.values, self.place)

    @property
    def as_float(self) -> float:
        exact = self.values.at(self.place)
        return float(exact) if exact is not None else 0.0


def _size(answer: Answer) -> int:
    return max(len(answer.cell_rows) * max(len(answer.measures), 1), len(answer.rows), len(answer.columns))


def _cells(answer: Answer) -> dict[CellKey, _Cell]:
    """Each cell that has a value, by its members and the measure's name."""
    rows, columns = _headers(answer.rows), _headers(answer.columns)
    found = {}
    for cell in range(len(answer.cell_rows)):
        row, column = rows[int(answer.cell_rows[cell])], columns[int(answer.cell_columns[cell])]
        for measure, values in zip(answer.measures, answer.values, strict=True):
            if values.present[cell]:
                caption = ", ".join(each for each in (row[1], column[1]) if each) or answer.rows.all_caption
                found[row[0] | column[0], measure.name] = _Cell(caption, measure.caption, values, cell)
    return found


def _headers(axis: Axis) -> list[tuple[frozenset[tuple[object, ...]], str]]:
    headers: list[tuple[frozenset[tuple[object, ...]], str]] = []
    for entry in range(len(axis)):
        members = [member_header(axis, each) for each in axis.chain(entry)]
        deepest = {(each.dimension, each.hierarchy): each for each in members}
        keys: frozenset[tuple[object, ...]] = frozenset(
            (*own, each.path, each.is_others) for own, each in deepest.items()
        )
        headers.append((keys, " › ".join(each.caption for each in members)))
    return headers
