"""Every member that a document names, wherever it stands: to be looked at, or put in other words."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from dastan.core.analysis.document import (
    Analysis,
    HeaderPath,
    MadeLayout,
    Opening,
    PlacedDimension,
    PlacedMeasure,
    Under,
)
from dastan.core.analysis.placed_measures import with_measures
from dastan.core.analysis.views import Change as ChangeOn
from dastan.core.model.conditions import Condition, FilterGroup, MemberFilter, Prompt, PromptAnswer
from dastan.core.model.document import MemberList, SemanticModel
from dastan.core.model.expression import with_conditions
from dastan.core.model.parts import MemberPath

Change = Callable[[str, str, MemberPath], MemberPath]
"""From a dimension, a hierarchy and the path of a member there to the path that stands in its place."""


def with_member_paths(document: Analysis, model: SemanticModel, change: Change) -> Analysis:
    """The document with every member's path changed, and nothing else."""
    document = with_measures(document, lambda each: _measure(each, change))
    question = document.question
    prompts = (*question.prompts, *model.prompts)
    return replace(
        document,
        question=replace(
            question,
            filters=tuple(_condition(each, change) for each in question.filters),
            rows=tuple(_placed(each, question.columns, change) for each in question.rows),
            columns=tuple(_placed(each, question.rows, change) for each in question.columns),
            waiting=tuple(_placed(each, question.columns, change) for each in question.waiting),
            prompts=tuple(_prompt(each, change) for each in question.prompts),
            answers=tuple(_answer(each, prompts, change) for each in question.answers),
        ),
        openings=tuple(_opening(each, change) for each in document.openings),
        made=tuple(
            replace(each, formula=with_conditions(each.formula, lambda condition: _condition(condition, change)))
            for each in document.made
        ),
        joints=tuple(
            replace(each, members=_paths(each.members, each.dimension, each.hierarchy, change))
            for each in document.joints
        ),
        layouts=tuple(_layout(each, change) for each in document.layouts),
        lists=tuple(_list(each, change) for each in document.lists),
    )


def _layout(made: MadeLayout, change: Change) -> MadeLayout:
    own = made.dimension, made.layout.hierarchy
    rows = tuple(replace(each, members=_paths(each.members, *own, change)) for each in made.layout.rows)
    return replace(made, layout=replace(made.layout, rows=rows))


def _list(made: MemberList, change: Change) -> MemberList:
    return replace(
        made,
        members=_paths(made.members, made.dimension, made.hierarchy, change),
        where=tuple(_condition(each, change) for each in made.where),
        over=tuple(_condition(each, change) for each in made.over),
    )


def _paths(paths: tuple[MemberPath, ...], dimension: str, hierarchy: str, change: Change) -> tuple[MemberPath, ...]:
    return tuple(change(dimension, hierarchy, each) for each in paths)


def _measure(placed: PlacedMeasure, change: Change) -> PlacedMeasure:
    """A placed measure, whose view may be a change on a member."""
    view = placed.view
    if not isinstance(view, ChangeOn) or view.hierarchy is None:
        return placed
    return replace(placed, view=replace(view, path=change(view.dimension, view.hierarchy, view.path)))


def _condition(condition: Condition, change: Change) -> Condition:
    if isinstance(condition, FilterGroup):
        return replace(condition, parts=tuple(_condition(each, change) for each in condition.parts))
    if isinstance(condition, MemberFilter):
        own = condition.dimension, condition.hierarchy
        return replace(condition, members=_paths(condition.members, *own, change))
    return condition


def _placed(placed: PlacedDimension, other: tuple[PlacedDimension, ...], change: Change) -> PlacedDimension:
    """A placed hierarchy. Args: `other` are the hierarchies of the other axis, by whose headers it may be in order."""
    under = placed.only_under
    if under is not None:
        under = tuple(_under(each, change) for each in under)
    column = placed.order.column.members
    # A header's path names one member of each hierarchy, the outermost first.
    own = tuple(change(at.dimension, at.hierarchy, path) for at, path in zip(other, column, strict=False))
    order = replace(placed.order, column=HeaderPath(members=(*own, *column[len(own) :])))
    return replace(placed, only_under=under, order=order)


def _under(under: Under, change: Change) -> Under:
    return Under(
        members=tuple(replace(each, path=change(each.dimension, each.hierarchy, each.path)) for each in under.members)
    )


def _prompt(prompt: Prompt, change: Change) -> Prompt:
    if prompt.dimension is None or prompt.hierarchy is None:
        return prompt
    return replace(prompt, members=_paths(prompt.members, prompt.dimension, prompt.hierarchy, change))


def _answer(answer: PromptAnswer, prompts: tuple[Prompt, ...], change: Change) -> PromptAnswer:
    asked = next((each for each in prompts if each.name == answer.prompt), None)
    if asked is None or asked.dimension is None or asked.hierarchy is None:
        return answer
    return replace(answer, members=_paths(answer.members, asked.dimension, asked.hierarchy, change))


def _opening(opening: Opening, change: Change) -> Opening:
    own = opening.dimension, opening.hierarchy
    return replace(opening, open=_paths(opening.open, *own, change), closed=_paths(opening.closed, *own, change))
