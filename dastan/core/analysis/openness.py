"""Which members of a hierarchy are open: reading and changing an `Opening`."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.document import Analysis, Opening, PlacedDimension
from dastan.core.model.document import Hierarchy
from dastan.core.model.parts import MemberPath


def is_member_open(opening: Opening, hierarchy: Hierarchy, path: MemberPath) -> bool:
    """Whether a member is open, seen or not."""
    return path in opening.open or (hierarchy.levels[len(path) - 1] in opening.levels and path not in opening.closed)


def open_member(opening: Opening, hierarchy: Hierarchy, path: MemberPath) -> Opening:
    """The opening with one member open."""
    level = hierarchy.levels[len(path) - 1]
    closed = tuple(each for each in opening.closed if each != path)
    if level in opening.levels:
        return replace(opening, closed=closed)
    return replace(opening, closed=closed, open=(*(each for each in opening.open if each != path), path))


def close_member(opening: Opening, hierarchy: Hierarchy, path: MemberPath) -> Opening:
    """The opening with one member closed. What was open below it waits, and is there when it opens again."""
    level = hierarchy.levels[len(path) - 1]
    kept = tuple(each for each in opening.open if each != path)
    if level in opening.levels:
        return replace(opening, open=kept, closed=(*(each for each in opening.closed if each != path), path))
    return replace(opening, open=kept)


def open_level(opening: Opening, hierarchy: Hierarchy, level: str) -> Opening:
    """The opening with every member of a level open, and of those above it, so that they are all seen."""
    upper = hierarchy.levels[: hierarchy.levels.index(level) + 1]
    return replace(
        opening,
        levels=tuple(each for each in hierarchy.levels if each in opening.levels or each in upper),
        open=tuple(each for each in opening.open if len(each) > len(upper)),
        closed=tuple(each for each in opening.closed if len(each) > len(upper)),
    )


def close_level(opening: Opening, hierarchy: Hierarchy, level: str) -> Opening:
    """The opening with every member of a level closed; those above it stay as they are."""
    depth = hierarchy.levels.index(level)
    return replace(
        opening,
        levels=tuple(each for each in opening.levels if each != level),
        open=tuple(each for each in opening.open if len(each) != depth + 1),
        closed=tuple(each for each in opening.closed if len(each) != depth + 1),
    )


def with_opening(document: Analysis, opening: Opening) -> Analysis:
    """The document with one hierarchy's opening set anew."""
    others = tuple(
        each for each in document.openings if (each.dimension, each.hierarchy) != (opening.dimension, opening.hierarchy)
    )
    return replace(document, openings=(*others, opening))


def shown_levels(document: Analysis, placed: PlacedDimension, hierarchy: Hierarchy) -> list[str]:
    """The levels that are seen of a placed hierarchy, from its start as far as anything is open."""
    opening = document.opening(placed.dimension, placed.hierarchy)
    start = hierarchy.levels.index(placed.level)
    shown = [placed.level]
    for depth in range(start, len(hierarchy.levels) - 1):
        level = hierarchy.levels[depth]
        is_open = level in opening.levels or any(len(path) == depth + 1 for path in opening.open)
        if not is_open and level not in placed.skipped:
            break
        shown.append(hierarchy.levels[depth + 1])
    return [each for each in shown if each not in placed.skipped]


def edge_levels(document: Analysis, placed: PlacedDimension, hierarchy: Hierarchy) -> list[str]:
    """Of the levels that are seen of a placed hierarchy, those at which some member may be closed, so that the next
    dimension stands under it."""
    opening, shown = document.opening(placed.dimension, placed.hierarchy), shown_levels(document, placed, hierarchy)
    closed = {hierarchy.levels[len(path) - 1] for path in opening.closed}
    return [each for each in shown if each == shown[-1] or each not in opening.levels or each in closed]
