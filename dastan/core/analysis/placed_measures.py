"""Every measure that a document names by the view that is shown: in the table, its orders and its dress.

A limit ranks by a measure itself, whatever view of it is shown.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from dastan.core.analysis.document import Analysis, PlacedDimension, PlacedMeasure
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.views import turned


def with_measures(document: Analysis, change: Callable[[PlacedMeasure], PlacedMeasure]) -> Analysis:
    """The document with another placed measure wherever one is named."""

    def placed(each: PlacedDimension) -> PlacedDimension:
        by = each.order.measure
        return each if by is None else replace(each, order=replace(each.order, measure=change(by)))

    question = document.question
    after = with_question(
        document,
        measures=tuple(change(each) for each in question.measures),
        rows=tuple(placed(each) for each in question.rows),
        columns=tuple(placed(each) for each in question.columns),
        waiting=tuple(placed(each) for each in question.waiting),
    )
    numbers = tuple(
        replace(
            each,
            measure=change(each.measure),
            thresholds=tuple(
                replace(one, times=None if one.times is None else change(one.times)) for one in each.thresholds
            ),
        )
        for each in document.dress.numbers
    )
    return replace(after, dress=replace(after.dress, numbers=numbers))


def turned_views(document: Analysis) -> Analysis:
    """The document with views of the rows as views of the columns, and the other way round."""
    return with_measures(document, lambda each: replace(each, view=turned(each.view)))
