"""Dimensions whose members are alternatives, such as actual and plan: one stands for another, so that nothing is added
up over them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.checks import grains_of_question
from dastan.core.analysis.document import AXES, Analysis, PlacedDimension
from dastan.core.analysis.placing import with_question
from dastan.core.model.conditions import AttributeFilter, Condition, MeasureFilter, MemberFilter, leaves_of
from dastan.core.model.document import Dimension, Measure, SemanticModel
from dastan.core.model.meaning import parts_of
from dastan.core.model.reach import grain_of, reaches


def without_totals_over_alternatives(document: Analysis, model: SemanticModel) -> Analysis:
    """The document with no total that adds alternatives up: neither one over an axis on which they stand, nor one of
    what they stand under."""
    question = document.question
    for axis in AXES:
        placed = question.axis(axis)
        places = [at for at, each in enumerate(placed) if model.dimension(each.dimension).alternatives]
        if places:
            bare = tuple(replace(each, totals="none") if at < places[-1] else each for at, each in enumerate(placed))
            question = question.with_axis(axis, bare)
            question = replace(question, row_total="none") if axis == "rows" else replace(question, column_total="none")
    return replace(document, question=question)


def stand_apart(document: Analysis, dimension: Dimension) -> bool:
    """Whether the members of a dimension are alternatives that stand side by side in the table."""
    return dimension.alternatives and dimension.name in {each.dimension for each in _placed(document)}


def with_fitting_defaults(after: Analysis, before: Analysis, model: SemanticModel) -> Analysis:
    """The document without a default that keeps one alternative, where these have just come to stand beside each other;
    and with it again where they no longer do, and nothing else says which is meant."""
    stood, stands = ({each.dimension for each in _placed(one)} for one in (before, after))
    filters = after.question.filters
    for dimension in model.dimensions:
        if not dimension.alternatives or not dimension.default:
            continue
        default = MemberFilter(
            dimension=dimension.name, hierarchy=dimension.hierarchies[0].name, action="keep", members=dimension.default
        )
        if dimension.name in stands - stood:
            filters = tuple(each for each in filters if each != default)
        elif dimension.name in stood - stands and not any(_is_about(each, dimension.name) for each in filters):
            filters = (*filters, default) if _is_reached(after, dimension, model) else filters
    return after if filters == after.question.filters else with_question(after, filters=filters)


def added_up(document: Analysis, model: SemanticModel) -> Iterator[tuple[Dimension, Measure]]:
    """The alternatives that a measure of the table adds up, because they do not stand in it and no one of them is kept,
    each with the first such measure."""
    for dimension in model.dimensions:
        if not dimension.alternatives or stand_apart(document, dimension):
            continue
        if any(_keeps_one(each, dimension.name) for each in document.question.filters):
            continue
        for placed in document.question.measures:
            measure = model.measure(placed.measure)
            parts = [each for each in parts_of(measure, model) if reaches(model, grain_of(each), dimension)]
            if any(not any(_keeps_one(one, dimension.name) for one in each.where) for each in parts):
                yield dimension, measure
                break


def ranked_over(document: Analysis, model: SemanticModel) -> Iterator[tuple[Dimension, Measure]]:
    """The alternatives that stand side by side and are added up all the same: by what limits, orders or compares
    members elsewhere, each with the first such measure."""
    for dimension in model.dimensions:
        is_one = any(_keeps_one(each, dimension.name) for each in document.question.filters)
        if stand_apart(document, dimension) and not is_one:
            for name in _measures_that_rank(document, dimension.name):
                measure = model.measure(name)
                if any(reaches(model, grain_of(each), dimension) for each in parts_of(measure, model)):
                    yield dimension, measure
                    break


def _measures_that_rank(document: Analysis, alternatives: str) -> Iterator[str]:
    """The measures that rank or compare members otherwise than for one alternative by itself."""
    for axis in AXES:
        placed = document.question.axis(axis)
        at = next((at for at, each in enumerate(placed) if each.dimension == alternatives), len(placed))
        for place, each in enumerate(placed):
            yield from (limit.by.measure for limit in each.limits if place < at or limit.per == "whole")
            if place < at and each.order.measure is not None and not each.order.column.members:
                yield each.order.measure.measure
    for condition in document.question.filters:
        for leaf in leaves_of(condition):
            if isinstance(leaf, MeasureFilter) and all(each.dimension != alternatives for each in leaf.at):
                yield leaf.measure


def _placed(document: Analysis) -> tuple[PlacedDimension, ...]:
    return (*document.question.rows, *document.question.columns)


def _is_reached(document: Analysis, dimension: Dimension, model: SemanticModel) -> bool:
    known = {each.name for each in model.measures}
    is_whole = all(each.measure in known for each in document.question.measures)
    return is_whole and any(reaches(model, each, dimension) for each in grains_of_question(document, model))


def _is_about(condition: Condition, dimension: str) -> bool:
    return any(getattr(leaf, "dimension", None) == dimension for leaf in leaves_of(condition))


def _keeps_one(condition: Condition, dimension: str) -> bool:
    """Whether a condition keeps one member of a dimension, or asks for it on opening."""
    leaves = list(leaves_of(condition))
    if condition.action != "keep" or len(leaves) != 1:
        return False
    match leaves[0]:
        case MemberFilter(members=members, prompt=prompt, level=None, list=None):
            return leaves[0].dimension == dimension and (len(members) == 1 or prompt is not None)
        case AttributeFilter(operator="equal", values=values):
            return leaves[0].dimension == dimension and len(values) == 1
        case _:
            return False
