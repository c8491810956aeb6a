"""Going down and across: opening all, one level alone, into a member, breaking down by another dimension."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.analysis.captions import Members, member_caption
from dastan.core.analysis.document import Analysis, PlacedDimension
from dastan.core.analysis.placing import (
    hierarchy_of,
)
from dastan.core.analysis.resolve import find_dimension
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import Hierarchy, SemanticModel
from dastan.core.model.parts import MemberPath


def way_back(document: Analysis, placed: PlacedDimension, hierarchy: Hierarchy) -> MemberPath:
    """The member that a placed hierarchy was gone into: the only one kept, when the level below it is shown first."""
    kept = [each for each in document.question.filters if is_gone_into(each, placed.dimension, placed.hierarchy)]
    if len(kept) != 1:
        return ()
    path: MemberPath = kept[0].members[0]  # type: ignore[union-attr]
    return path if hierarchy.levels.index(placed.level) >= len(path) else ()


@dataclass(frozen=True, slots=True)
class WayBack:
    """The path of members that a placed hierarchy was gone into, from all of it down, each with its caption."""

    dimension: str
    hierarchy: str
    captions: tuple[str, ...]
    path: MemberPath


def ways_back(document: Analysis, model: SemanticModel, members: Members) -> tuple[WayBack, ...]:
    """One for each placed hierarchy that was gone into."""
    found = []
    for placed in (*document.question.rows, *document.question.columns):
        dimension = find_dimension(model, placed.dimension)
        hierarchy = hierarchy_of(model, placed.dimension, placed.hierarchy)
        path = way_back(document, placed, hierarchy)
        if path:
            known = members(placed.dimension, placed.hierarchy)
            captions = [member_caption(path[: depth + 1], known) for depth in range(len(path))]
            above = (dimension.all_caption, *captions)
            found.append(WayBack(placed.dimension, placed.hierarchy, above, path))
    return tuple(found)


def is_gone_into(each: Condition, dimension: str, hierarchy: str) -> bool:
    """Whether a filter is what going into a member puts in: it keeps one member, and nothing else is said of it."""
    if not isinstance(each, MemberFilter) or each.action != "keep" or each.level is not None:
        return False
    return (each.dimension, each.hierarchy) == (dimension, hierarchy) and len(each.members) == 1
