"""Marks are worked out where the numbers are, whatever stands where."""

from __future__ import annotations

from dastan.core.analysis.document import Analysis, NumberDress, Opening, PlacedMeasure, Threshold
from dastan.core.analysis.gestures import PlaceMeasures, apply_gesture
from dastan.core.reading.marks import Mark, marks_of
from dastan.core.reading.window import window_of
from tests.core.asked import STAR, ask, by, question

BOARDINGS, TAPS = PlacedMeasure(measure="boardings"), PlacedMeasure(measure="taps")
OPEN = (Opening(dimension="line", hierarchy="line", levels=("mode",)),)


def marked(document: Analysis, *dresses: NumberDress) -> list[tuple[object, ...]]:
    """Each row's caption, its first number, and the mark beside that."""
    found = ask(document)
    window = window_of(found, 0, 99, 0, 99)
    marks = marks_of(found, document.question.measures, dresses, range(len(window.rows)), range(len(window.columns)))
    assert marks is not None
    return [
        (row.caption, values[0], line[0])
        for row, values, line in zip(window.rows, window.values, marks.cells, strict=True)
    ]


def test_without_any_dress_there_is_nothing_to_work_out() -> None:
    document = question("boardings", rows=(by("line", "mode"),))
    assert marks_of(ask(document), document.question.measures, (), range(3), range(1)) is None


def test_the_first_threshold_that_holds_marks_the_number_and_totals_too() -> None:
    dress = NumberDress(
        measure=BOARDINGS,
        thresholds=(
            Threshold(side="at_least", amount=4, meaning="favourable"),
            Threshold(side="at_least", amount=3, meaning="noted"),
        ),
    )
    found = marked(question("boardings", rows=(by("line", "mode"),)), dress)
    assert found == [
        ("bus", 4, Mark("favourable", None)), ("tram", 3, Mark("noted", None)), ("without a line", 1, None),
        ("All of Line", 8, Mark("favourable", None)),
    ]  # fmt: skip


def test_a_bar_is_a_share_of_the_number_farthest_from_zero_and_totals_have_none() -> None:
    document = question("boardings", rows=(by("line", "mode"),), openings=OPEN)
    found = marked(document, NumberDress(measure=BOARDINGS, in_cell="bar"))
    assert [(caption, each and each.ground) for caption, _, each in found] == [  # type: ignore[attr-defined]
        ("bus", None), ("1", 1), ("tram", None), ("1", 0.5), ("2", 0.25), ("without a line", 0.25), ("All of Line", None),
    ]  # fmt: skip


def test_another_measure_is_looked_up_in_the_same_cell_wherever_the_measures_stand() -> None:
    dress = NumberDress(
        measure=BOARDINGS, thresholds=(Threshold(side="at_least", amount=3, times=TAPS, meaning="noted"),)
    )
    document = question("boardings", "taps", rows=(by("line", "mode"),), columns=(by("fare", "family"),))
    expected = None
    for axis, at in (("columns", 1), ("columns", 0), ("rows", 0), ("rows", 1)):
        placed = apply_gesture(document, PlaceMeasures(axis=axis, at=at), STAR.model)  # type: ignore[arg-type]
        answer = ask(placed)
        rows, columns = answer.row_lines, answer.column_lines
        marks = marks_of(answer, placed.question.measures, (dress,), range(len(rows)), range(len(columns)))
        assert marks is not None
        where = set()
        for row, line in enumerate(marks.cells):
            for column, each in enumerate(line):
                if each is not None:
                    own = max(int(rows.measure[row]), int(columns.measure[column]))
                    assert own == 0
                    entries = int(rows.entry[row]), int(columns.entry[column])
                    where.add((_path(answer.rows, entries[0]), _path(answer.columns, entries[1])))
        expected = where if expected is None else expected
        assert where == expected
    assert expected


def _path(axis: object, entry: int) -> tuple[tuple[int, int], ...]:
    return tuple((each.depth, each.code) for each in axis.chain(entry))  # type: ignore[attr-defined]


def test_the_grand_totals_rows_have_their_marks_whatever_is_in_sight() -> None:
    dress = NumberDress(measure=BOARDINGS, thresholds=(Threshold(side="at_least", amount=8, meaning="favourable"),))
    document = question("boardings", rows=(by("line", "mode"),))
    found = marks_of(ask(document), document.question.measures, (dress,), range(1), range(1))
    assert found is not None
    assert found.cells == ((None,),)
    assert found.totals == ((Mark("favourable", None),),)
