"""Lists of an analysis beside those of its model, and the measures that they stand on."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.model.conditions import MeasureFilter, leaves_of
from dastan.core.model.document import MemberList, SemanticModel


def has_lists(model: SemanticModel, lists: tuple[MemberList, ...]) -> bool:
    """Whether a model has some lists already, just as they are."""
    return all(each in model.lists for each in lists)


def with_lists(model: SemanticModel, lists: tuple[MemberList, ...]) -> SemanticModel:
    """The model with some lists beside its own, which go first."""
    known = {each.name for each in model.lists}
    return replace(model, lists=(*model.lists, *(each for each in lists if each.name not in known)))


def measures_of_list(made: MemberList) -> list[str]:
    """The measures that a list's rule compares or ranks by."""
    found = [leaf.measure for each in made.where for leaf in leaves_of(each) if isinstance(leaf, MeasureFilter)]
    return found + ([made.ranked.measure] if made.ranked is not None else [])
