"""What changed in the numbers between two answers: cells of the same members and measure, wherever they stand."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.window import Number, as_number, member_header
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
    difference: float | None
    """None where one of them is empty."""


@dataclass(frozen=True, slots=True)
class ComparedNumbers:
    """How many cells are the same in both answers, changed, or in one only; the largest changes, in order."""

    same: int
    changed: int
    only_before: int
    only_after: int
    largest: tuple[ChangedCell, ...]


def compare_answers(before: Answer, after: Answer) -> ComparedNumbers | None:
    """Compares two answers; None where one has too many cells."""
    if max(len(each.cell_rows) * max(len(each.measures), 1) for each in (before, after)) > MOST_CELLS:
        return None
    one, other = _cells(before), _cells(after)
    both = [key for key in one if key in other]
    changed = [key for key in both if _number(*one[key][1:]) != _number(*other[key][1:])]
    found = [
        ChangedCell(
            other[key][0], key[1], _number(*one[key][1:]), _number(*other[key][1:]), _difference(one[key], other[key])
        )
        for key in changed
    ]
    found.sort(key=lambda each: -abs(each.difference) if each.difference is not None else 0)
    return ComparedNumbers(
        len(both) - len(changed), len(changed), len(one) - len(both), len(other) - len(both), tuple(found[:LISTED])
    )


def _cells(answer: Answer) -> dict[CellKey, tuple[str, Values, int]]:
    """Each cell that has a value by its members and measure: its caption, and where the value is."""
    rows, columns = _headers(answer.rows), _headers(answer.columns)
    found = {}
    for cell in range(len(answer.cell_rows)):
        row, column = rows[int(answer.cell_rows[cell])], columns[int(answer.cell_columns[cell])]
        for measure, values in zip(answer.measures, answer.values, strict=True):
            if values.present[cell]:
                caption = ", ".join(each for each in (row[1], column[1]) if each) or answer.rows.all_caption
                found[row[0] | column[0], measure.caption] = (caption, values, cell)
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


def _number(values: Values, cell: int) -> Number:
    return as_number(values, cell)


def _difference(one: tuple[str, Values, int], other: tuple[str, Values, int]) -> float | None:
    return float(other[1].as_float()[other[2]] - one[1].as_float()[one[2]])
