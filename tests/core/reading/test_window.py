"""What a window shows is what the answer holds, whatever part of it is in sight."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from dastan.core.analysis.document import Analysis, Opening
from dastan.core.engine.answer import Answer
from dastan.core.engine.layout import ALL
from dastan.core.reading.window import as_number, as_numbers, window_of
from dastan.core.values import Values
from tests.core.asked import ask, by, question

MODES, FARES = by("line", "mode"), by("fare", "family")
OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)
CASES = {
    "plain": question("boardings", "taps", rows=(MODES,), columns=(FARES,)),
    "opened": replace(question("boardings", rows=(MODES, FARES)), openings=OPEN),
    "measures on rows": question("boardings", "taps", rows=(MODES,), columns=(FARES,), measures_on="rows"),
    "measures outside": question("boardings", "taps", rows=(MODES,), columns=(FARES,), measures_at=0),
    "nothing": question("boardings"),
}


def cells(answer: Answer) -> list[list[object]]:
    """Every cell in sight, looked for one by one."""
    known = {
        (row, column): cell
        for cell, (row, column) in enumerate(
            zip(answer.cell_rows.tolist(), answer.cell_columns.tolist(), strict=True)
        )
    }  # fmt: skip
    rows, columns, found = answer.row_lines, answer.column_lines, []
    for row in range(len(rows)):
        line: list[object] = []
        for column in range(len(columns)):
            cell = known.get((int(rows.entry[row]), int(columns.entry[column])))
            own = int(rows.measure[row])
            values = answer.values[own if own != ALL else max(int(columns.measure[column]), 0)]
            is_there = cell is not None and bool(rows.has_figures[row]) and bool(values.present[cell])
            line.append(as_number(values, cell) if is_there and cell is not None else None)
        found.append(line)
    return found


@pytest.mark.parametrize("document", CASES.values(), ids=CASES.keys())
def test_every_window_is_a_part_of_the_whole(document: Analysis) -> None:
    answer = ask(document)
    whole = window_of(answer, 0, 99, 0, 99)
    assert [list(each) for each in whole.values] == cells(answer)
    assert any(each is not None for line in whole.values for each in line)
    for top in range(len(whole.rows)):
        for left in range(len(whole.columns)):
            part = window_of(answer, top, 2, left, 2)
            assert part.rows == whole.rows[top : top + 2]
            assert part.columns == whole.columns[left : left + 2]
            assert part.values == tuple(each[left : left + 2] for each in whole.values[top : top + 2])


def test_numbers_lose_no_digit_one_by_one_or_together() -> None:
    present = np.ones(3, np.bool_)
    for data, scale, told in (
        (np.array([1, -250, 7]), 2, [0.01, -2.5, 0.07]),
        (np.array([1, -250, 7]), 0, [1, -250, 7]),
        (np.array([2**53 + 1, 5, -(2**62)]), 2, ["90071992547409.93", 0.05, "-46116860184273879.04"]),
        (np.array([0.5, 1e300, -0.0]), None, [0.5, 1e300, -0.0]),
    ):
        values = Values(data, scale, present)
        assert as_numbers(values, np.arange(3)) == told
        assert [as_number(values, place) for place in range(3)] == told
        assert [type(each) for each in as_numbers(values, np.arange(3))] == [type(each) for each in told]
    assert as_numbers(Values(np.array([1]), 0, np.ones(1, np.bool_)), np.array([], np.int64)) == []
