"""What measures in a table are called beside one another: of a view beside its own measure, only the view."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import PlacedMeasure, Question
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.view_words import heading_words, plain_names, view_words
from dastan.core.model.document import SemanticModel


def heading_of(at: int, question: Question, model: SemanticModel, members: Members) -> str:
    """What heads the numbers of a placed measure: of a view beside its own measure, only the view."""
    own = question.measures[at]
    if own.view is not None and at and is_same_measure(question.measures[at - 1], own):
        return heading_words(own.view, plain_names(model, members))
    return caption_after(None, own, model, members)


def caption_after(before: PlacedMeasure | None, placed: PlacedMeasure, model: SemanticModel, members: Members) -> str:
    """A placed measure's caption where another was named before it: of a view of that one "its share of the row", of
    one that stands alone "Share of the row of Boardings"."""
    if placed.view is None:
        return shown_measure(placed, model, members).caption
    words = view_words(placed.view, plain_names(model, members))
    if before is not None and is_same_measure(before, placed):
        return f"its {words}"
    return f"{words[:1].upper()}{words[1:]} of {shown_measure(replace(placed, view=None), model, members).caption}"


def is_same_measure(one: PlacedMeasure, other: PlacedMeasure) -> bool:
    """Whether two placements show the same measure, whatever the view."""
    return replace(one, view=None) == replace(other, view=None)
