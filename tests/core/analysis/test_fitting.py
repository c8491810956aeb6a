"""A dimension that is put in by a click goes where a table is read best."""

from __future__ import annotations

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import PutDimension, apply_gesture
from dastan.core.analysis.gestures.measures import PutMeasure
from tests.core.star import star

MODEL = star().model


def clicked(*dimensions: str) -> tuple[list[str], list[str]]:
    """The rows and columns after some dimensions were clicked, each by its first hierarchy."""
    document = apply_gesture(Analysis(model=MODEL.name), PutMeasure(measure="boardings"), MODEL)
    for each in dimensions:
        document = apply_gesture(document, PutDimension(dimension=each, hierarchy=each), MODEL)
    question = document.question
    return [each.dimension for each in question.rows], [each.dimension for each in question.columns]


def test_rows_come_first_time_and_the_next_go_across_and_all_others_down() -> None:
    assert clicked("line") == (["line"], [])
    assert clicked("calendar") == ([], ["calendar"])
    assert clicked("line", "calendar") == (["line"], ["calendar"])
    assert clicked("calendar", "line") == (["line"], ["calendar"])
    assert clicked("line", "fare") == (["line"], ["fare"])
    assert clicked("line", "fare", "calendar") == (["line", "calendar"], ["fare"])


def test_what_stands_somewhere_stays_there() -> None:
    assert clicked("line", "calendar", "line") == (["line"], ["calendar"])
    document = apply_gesture(Analysis(model=MODEL.name), PutMeasure(measure="boardings"), MODEL)
    for axis in ("columns", None):
        gesture = PutDimension(dimension="line", hierarchy="line", level="team" if axis is None else None, axis=axis)
        document = apply_gesture(document, gesture, MODEL)
    assert [(each.dimension, each.level) for each in document.question.columns] == [("line", "team")]
