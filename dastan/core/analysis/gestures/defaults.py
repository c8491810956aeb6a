"""A model's default members: they come with the first records that they reach, and go with the last."""

from __future__ import annotations

from dastan.core.analysis.alternatives import stand_apart
from dastan.core.analysis.checks import grains_of_question
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.placing import with_question
from dastan.core.model.conditions import Condition, MemberFilter, leaves_of
from dastan.core.model.document import Dimension, SemanticModel
from dastan.core.model.reach import reaches


def with_defaults(after: Analysis, before: Analysis, model: SemanticModel, is_written: bool = False) -> Analysis:
    """New records bring the model's default members in, as visible filters; such as reach nothing are lifted. Of
    alternatives that stand in the table side by side none is kept alone.

    A default that reached the records `before` is there, or was lifted on purpose.

    Args: `is_written`: whether another question was written altogether. Where the one `before` said something else of
    the dimension, the default is not what was lifted.
    """
    grains, grains_before = grains_of_question(after, model), grains_of_question(before, model)
    filters = list(after.question.filters)
    for dimension in model.dimensions:
        if not dimension.default:
            continue
        own = MemberFilter(
            dimension=dimension.name, hierarchy=dimension.hierarchies[0].name, action="keep", members=dimension.default
        )
        reached, was_reached = (any(reaches(model, each, dimension) for each in own) for own in (grains, grains_before))
        if is_written and _tells(before, own, dimension):
            was_reached = False
        if not reached:
            filters = [each for each in filters if each != own]
        elif (
            not was_reached
            and not stand_apart(after, dimension)
            and not any(_is_about(each, dimension.name) for each in filters)
        ):
            filters.append(own)
    return with_question(after, filters=tuple(filters))


def _tells(document: Analysis, default: MemberFilter, dimension: Dimension) -> bool:
    """Whether a document keeps other members of a dimension than the default ones, or has them side by side."""
    about = [each for each in document.question.filters if _is_about(each, dimension.name)]
    return stand_apart(document, dimension) or bool(about and default not in about)


def _is_about(condition: Condition, dimension: str) -> bool:
    """Whether a condition says something of a dimension's members."""
    return any(isinstance(leaf, MemberFilter) and leaf.dimension == dimension for leaf in leaves_of(condition))
