"""Going down and across: opening all, one level alone, into a member, breaking down by another dimension."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import assert_never

from dastan.core.analysis.captions import Members, member_caption
from dastan.core.analysis.checks import check_reach
from dastan.core.analysis.document import Analysis, Opening, PlacedDimension
from dastan.core.analysis.gesture import BreakDown, CloseAll, GoInto, OpenAll, ShowLevel, StopBreakingDown
from dastan.core.analysis.openness import close_level, with_opening
from dastan.core.analysis.placing import (
    axis_of,
    find_placed,
    hierarchy_of,
    is_same_hierarchy,
    placed_in,
    replace_placed,
    waiting_in,
    with_question,
    without_dimension,
)
from dastan.core.analysis.resolve import check_level, find_dimension
from dastan.core.analysis.ways import leads_on
from dastan.core.errors import InputError
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import Hierarchy, SemanticModel
from dastan.core.model.parts import MemberPath

Going = OpenAll | CloseAll | ShowLevel | GoInto | BreakDown | StopBreakingDown


def go(document: Analysis, gesture: Going, model: SemanticModel) -> Analysis:
    """The document after such a gesture. Raises NotFoundError, InputError."""
    hierarchy = hierarchy_of(model, gesture.dimension, gesture.hierarchy)
    match gesture:
        case OpenAll():
            opened = Opening(
                dimension=gesture.dimension, hierarchy=gesture.hierarchy, levels=tuple(hierarchy.levels[:-1])
            )
            return with_opening(document, opened)
        case CloseAll():
            return with_opening(document, Opening(dimension=gesture.dimension, hierarchy=gesture.hierarchy))
        case ShowLevel():
            return _show_level(document, gesture, hierarchy, model)
        case GoInto():
            return _go_into(document, gesture, hierarchy, model)
        case BreakDown():
            return _break_down(document, gesture, hierarchy, model)
        case StopBreakingDown():
            placed = find_placed(document.question, gesture.dimension, gesture.hierarchy, model)
            left = tuple(each for each in placed.only_under or () if each != gesture.under)
            if left or placed.only_under is None:
                return replace_placed(document, replace(placed, only_under=left or None))
            if _is_led_to(document, placed):
                return replace_placed(document, replace(placed, only_under=()))
            question = without_dimension(document.question, gesture.dimension, gesture.hierarchy)
            return replace(document, question=question)
        case _:
            assert_never(gesture)


def _is_led_to(document: Analysis, placed: PlacedDimension) -> bool:
    """Whether a hierarchy stands as a further step of a way down, which stays when it is closed."""
    axis = axis_of(document.question, placed)
    on_axis = document.question.axis(axis) if axis else ()
    return any(
        is_same_hierarchy(inner, placed) and leads_on(document, outer, inner) for outer, inner in pairwise(on_axis)
    )


def way_back(document: Analysis, placed: PlacedDimension, hierarchy: Hierarchy) -> MemberPath:
    """The member that a placed hierarchy was gone into: the only one kept, when the level below it is shown first."""
    kept = [each for each in document.question.filters if _is_gone_into(each, placed.dimension, placed.hierarchy)]
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


def _is_gone_into(each: Condition, dimension: str, hierarchy: str) -> bool:
    """Whether a filter is what going into a member puts in: it keeps one member, and nothing else is said of it."""
    if not isinstance(each, MemberFilter) or each.action != "keep" or each.level is not None or each.prompt is not None:
        return False
    return (each.dimension, each.hierarchy) == (dimension, hierarchy) and len(each.members) == 1


def _show_level(document: Analysis, gesture: ShowLevel, hierarchy: Hierarchy, model: SemanticModel) -> Analysis:
    dimension = find_dimension(model, gesture.dimension)
    check_level(dimension, hierarchy, gesture.level)
    replaced = gesture.instead_of or gesture.hierarchy
    placed = find_placed(document.question, gesture.dimension, replaced, model)
    if replaced != gesture.hierarchy:
        if placed_in(document.question, gesture.dimension, gesture.hierarchy) is not None:
            raise InputError("A hierarchy stands twice in the table.", "Show this level where its hierarchy stands.")
        own = PlacedDimension(dimension=gesture.dimension, hierarchy=gesture.hierarchy, level=gesture.level)
        own = waiting_in(document.question, gesture.dimension, gesture.hierarchy) or own
        own = replace(own, level=gesture.level, skipped=(), only_under=placed.only_under)
        question = document.question
        swap = {
            axis: tuple(own if is_same_hierarchy(each, placed) else each for each in question.axis(axis))
            for axis in ("rows", "columns")
        }
        waiting = tuple(each for each in question.waiting if not is_same_hierarchy(each, own))
        document = with_question(document, **swap, waiting=waiting)
    else:
        document = replace_placed(document, replace(placed, level=gesture.level, skipped=()))
    opening = document.opening(gesture.dimension, gesture.hierarchy)
    for level in hierarchy.levels[hierarchy.levels.index(gesture.level) : -1]:
        opening = close_level(opening, hierarchy, level)
    return with_opening(document, opening)


def _go_into(document: Analysis, gesture: GoInto, hierarchy: Hierarchy, model: SemanticModel) -> Analysis:
    placed = find_placed(document.question, gesture.dimension, gesture.hierarchy, model)
    if len(gesture.path) >= len(hierarchy.levels):
        raise InputError("There is nothing below this member.", "Go into a member of a level above the last.")
    own = MemberFilter(dimension=gesture.dimension, hierarchy=gesture.hierarchy, members=(gesture.path,))
    filters = list(document.question.filters)
    places = [at for at, each in enumerate(filters) if _is_gone_into(each, gesture.dimension, gesture.hierarchy)]
    at = places[0] if places else len(filters)
    filters[at : at + 1] = [own] if gesture.path else []
    below = hierarchy.levels[len(gesture.path)]
    skipped = tuple(each for each in placed.skipped if hierarchy.levels.index(each) > len(gesture.path))
    document = replace_placed(document, replace(placed, level=below, skipped=skipped))
    return with_question(document, filters=tuple(filters))


def _break_down(document: Analysis, gesture: BreakDown, hierarchy: Hierarchy, model: SemanticModel) -> Analysis:
    dimension = find_dimension(model, gesture.dimension)
    check_reach(document, dimension, model)
    level = gesture.level or hierarchy.levels[0]
    check_level(dimension, hierarchy, level)
    present = placed_in(document.question, gesture.dimension, gesture.hierarchy)
    if present is not None and (present.only_under is None or present not in document.question.axis(gesture.axis)):
        raise InputError(f"{dimension.caption} stands in the table already.", "Move it instead, or choose another.")
    if present is not None:
        under = None if gesture.under is None else tuple(dict.fromkeys((*(present.only_under or ()), gesture.under)))
        return replace_placed(document, replace(present, only_under=under))
    waiting = waiting_in(document.question, gesture.dimension, gesture.hierarchy)
    own = waiting or PlacedDimension(dimension=gesture.dimension, hierarchy=gesture.hierarchy, level=level)
    own = replace(own, level=level, only_under=None if gesture.under is None else (gesture.under,))
    question = without_dimension(document.question, gesture.dimension, gesture.hierarchy)
    return replace(document, question=question.with_axis(gesture.axis, (*question.axis(gesture.axis), own)))
