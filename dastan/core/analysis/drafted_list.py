"""A list to begin with: of members that were picked, or by a rule as the table suggests it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.captions import Members, listed, member_caption
from dastan.core.analysis.condition_words import list_words
from dastan.core.analysis.document import Analysis, PlacedDimension
from dastan.core.analysis.placing import placed_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.model.conditions import (
    AttributeFilter,
    Condition,
    KeyFilter,
    MemberFilter,
    PeriodFilter,
    PromptRef,
    leaves_of,
)
from dastan.core.model.document import MemberList, Ranking, SemanticModel
from dastan.core.model.parts import MemberPath

_NAMED = 2
_FIRST = 10


def drafted_list(
    document: Analysis,
    dimension: str,
    hierarchy: str,
    paths: tuple[MemberPath, ...],
    model: SemanticModel,
    members: Members,
) -> MemberList:
    """These members; without any, those that the hierarchy's limit shows, over the records that the table counts."""
    if paths:
        made = MemberList(caption="", dimension=dimension, hierarchy=hierarchy, members=paths)
        return replace(made, caption=suggested_name(made, model, members))
    levels = find_hierarchy(find_dimension(model, dimension), hierarchy).levels
    placed = placed_in(document.question, dimension, hierarchy)
    level, ranked = _rule_of(document, placed, levels)
    over = tuple(_narrowing(document, dimension))
    made = MemberList(caption="", dimension=dimension, hierarchy=hierarchy, level=level, ranked=ranked, over=over)
    return replace(made, caption=suggested_name(made, model, members))


def suggested_name(made: MemberList, model: SemanticModel, members: Members) -> str:
    """What a list may be called: as its rule says, without the records that it is over; or by its first members."""
    if made.is_rule:
        words = list_words(replace(made, over=()), model, members).removeprefix("the ")
        return words[:1].upper() + words[1:]
    found = members(made.dimension, made.hierarchy)
    named = [member_caption(path, found) for path in made.members[:_NAMED]]
    return listed(named, len(made.members) - len(named)) if named else ""


def _rule_of(document: Analysis, placed: PlacedDimension | None, levels: tuple[str, ...]) -> tuple[str, Ranking | None]:
    limits = placed.limits_in_force(levels) if placed is not None else []
    if limits:
        own = limits[-1]
        ranked = Ranking(measure=own.by.measure, count=own.count, amount=own.amount, side=own.side)
        return own.level, ranked
    measures = document.question.measures
    return levels[-1], Ranking(measure=measures[0].measure, amount=_FIRST) if measures else None


def _narrowing(document: Analysis, dimension: str) -> Iterator[Condition]:
    """The filters in force, of other dimensions, that are of records and ask nothing."""
    for each in document.question.filters:
        leaves = list(leaves_of(each))
        is_plain = all(isinstance(leaf, MemberFilter | AttributeFilter | PeriodFilter | KeyFilter) for leaf in leaves)
        if not is_plain or any(getattr(leaf, "dimension", dimension) == dimension for leaf in leaves):
            continue
        asks = any(getattr(leaf, "prompt", None) or getattr(leaf, "list", None) for leaf in leaves)
        if not asks and not any(
            isinstance(value, PromptRef) for leaf in leaves for value in getattr(leaf, "values", ())
        ):
            yield each
