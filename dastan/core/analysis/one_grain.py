"""An analysis with its members opened evenly, as deep everywhere as anywhere: all of its rows are of one kind."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Opening, PlacedDimension
from dastan.core.model.document import SemanticModel


def opened_evenly(document: Analysis, model: SemanticModel) -> Analysis:
    """The document with every hierarchy open as far as any of its members is, under every header alike.

    Args: `model` is the one that knows what was made in the document.
    """
    question = document.question
    rows, columns = (
        tuple(replace(each, only_under=None) for each in axis) for axis in (question.rows, question.columns)
    )
    openings = tuple(_evenly(each, document.openings, model) for each in (*rows, *columns))
    return replace(document, question=replace(question, rows=tuple(rows), columns=tuple(columns)), openings=openings)


def _evenly(placed: PlacedDimension, openings: tuple[Opening, ...], model: SemanticModel) -> Opening:
    levels = model.dimension(placed.dimension).hierarchy(placed.hierarchy).levels
    own = [each for each in openings if (each.dimension, each.hierarchy) == (placed.dimension, placed.hierarchy)]
    opened = [levels.index(level) for each in own for level in each.levels if level in levels]
    opened += [len(path) - 1 for each in own for path in each.open]
    deepest = min(max(opened, default=-1), len(levels) - 2)
    return Opening(
        dimension=placed.dimension, hierarchy=placed.hierarchy, levels=levels[levels.index(placed.level) : deepest + 1]
    )
