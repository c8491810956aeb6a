"""The members of a model with those that an analysis makes: joint members, and the rows of financial layouts."""

from __future__ import annotations

from functools import cache

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis
from dastan.core.analysis.joints import joinings_of
from dastan.core.analysis.layouts import hierarchy_of
from dastan.core.model.financial_layouts import laid_out
from dastan.core.model.joints import joined_members
from dastan.core.model.members import HierarchyMembers


def with_made_members(members: Members, document: Analysis) -> Members:
    """The members with those that a document makes; as they are where it makes none."""
    joinings = joinings_of(document)
    layouts = {(each.dimension, each.name): each for each in document.layouts}
    if not joinings and not layouts:
        return members

    @cache
    def found(dimension: str, hierarchy: str) -> HierarchyMembers:
        own = (dimension, hierarchy)
        if own in layouts:
            made = hierarchy_of(layouts[own])
            return laid_out(members(dimension, layouts[own].layout.hierarchy), made)
        return joined_members(members(*own), joinings[own]) if own in joinings else members(*own)

    return found
