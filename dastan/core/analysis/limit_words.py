"""A limit in words: "the 5 largest lines in each mode by Boardings, the rest as others"."""

from __future__ import annotations

from dastan.core.analysis.captions import level_caption, listed, number_words, plural
from dastan.core.analysis.document import Analysis, Limit, PlacedDimension
from dastan.core.analysis.openness import edge_levels
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.model.document import SemanticModel


def limit_words(limit: Limit, placed: PlacedDimension, document: Analysis, model: SemanticModel) -> str:
    """What a limit shows, as it stands in the sentence. Args: `placed` stands on an axis of the document."""
    dimension = find_dimension(model, placed.dimension)
    hierarchy = find_hierarchy(dimension, placed.hierarchy)
    captions = plural(level_caption(dimension, limit.level))
    by = shown_measure(limit.by, model).caption
    amount = number_words(limit.amount)
    if limit.count == "members":
        text = f"the {amount} {limit.side} {captions}" if limit.amount != 1 else f"the {limit.side} of the {captions}"
    elif limit.count == "percent_of_members":
        text = f"the {limit.side} {amount} % of {captions}"
    else:
        text = f"the {limit.side} {captions} that make {amount} % of {by}"
    shown = placed.shown(hierarchy.levels)
    above = shown[: shown.index(limit.level)]
    outer = _outside(placed, document)
    if limit.per == "whole":
        text += " of all" if above or outer else ""
    elif above:
        text += f" in each {level_caption(dimension, above[-1]).lower()}"
    elif outer is not None:
        around = find_dimension(model, outer.dimension)
        edges = edge_levels(document, outer, find_hierarchy(around, outer.hierarchy))
        text += f" in each {listed([level_caption(around, each).lower() for each in edges], last='or')}"
    if limit.count != "percent_of_measure":
        text += f" by {by}"
    return text + (", the rest as others" if limit.others else "")


def _outside(placed: PlacedDimension, document: Analysis) -> PlacedDimension | None:
    """The hierarchy that a placed one breaks down; None for an outermost one."""
    for axis in (document.question.rows, document.question.columns):
        if placed in axis[1:]:
            return axis[axis.index(placed) - 1]
    return None
