"""Where a dimension fits best that is put into a table by a click."""

from __future__ import annotations

from dastan.core.analysis.document import Analysis, AxisName
from dastan.core.analysis.placing import axis_of, placed_in
from dastan.core.analysis.resolve import find_dimension
from dastan.core.model.document import SemanticModel
from dastan.core.model.reach import is_calendar


def fitting_axis(document: Analysis, dimension: str, hierarchy: str, model: SemanticModel) -> AxisName:
    """The axis for a hierarchy: where it stands already; else rows first, time and then the next one across.

    A table grows down more easily than across: once one dimension stands in its columns, all others go to its rows.
    """
    question = document.question
    placed = placed_in(question, dimension, hierarchy)
    standing = axis_of(question, placed) if placed is not None else None
    if standing is not None:
        return standing
    if question.columns:
        return "rows"
    return "columns" if question.rows or is_calendar(model, find_dimension(model, dimension)) else "rows"
