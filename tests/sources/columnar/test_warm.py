"""What the first questions would wait for is made ready beforehand, for measures of every kind."""

from __future__ import annotations

from tests.core.asked import ask, by, question
from tests.core.star import star


def test_no_question_of_one_measure_by_one_dimension_finds_anything_left_to_make() -> None:
    source = star()
    source.warm()
    measures = [each.name for each in source.model.measures]
    assert any(each.aggregate == "ratio" for each in source.model.measures)
    for each in measures:
        ask(question(each), source)
    ready = {key for key in source.kept.known() if key[0] in ("values", "in order", "ordered", "own", "pointers")}
    for each in measures:
        ask(question(each, rows=(by("line", "mode"),)), source)
    found = {key for key in source.kept.known() if key[0] in ("values", "in order", "ordered", "own", "pointers")}
    assert found == ready
