"""A gesture in a few words, as it stands on the trail."""

from __future__ import annotations

from typing import assert_never

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import (
    CloseLevel,
    CloseMember,
    DropMissing,
    FilterMembers,
    Gesture,
    OpenLevel,
    OpenMember,
    PutDimension,
    PutMeasure,
    SwapAxes,
    TakeDimension,
    TakeMeasure,
)
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.analysis.sentence import Members, hierarchy_caption, level_caption, listed, member_caption
from dastan.core.model.document import MemberPath, SemanticModel

_MEMBERS_NAMED = 2


def step_words(before: Analysis, gesture: Gesture, model: SemanticModel, members: Members) -> str:
    """What a gesture did to the document `before` it."""
    match gesture:
        case PutMeasure(measure=name):
            moved = any(each.measure == name for each in before.question.measures)
            return f"moved {_measure(model, name)}" if moved else _measure(model, name)
        case TakeMeasure(measure=name):
            return f"took {_measure(model, name)} away"
        case PutDimension():
            joining = "by" if gesture.axis == "rows" else "against"
            if gesture.level is not None:
                return f"{joining} {level_caption(find_dimension(model, gesture.dimension), gesture.level)}"
            return f"{joining} {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
        case TakeDimension():
            return f"took {_hierarchy(model, gesture.dimension, gesture.hierarchy)} away"
        case OpenMember():
            return f"opened {member_caption(gesture.path, members(gesture.dimension, gesture.hierarchy))}"
        case CloseMember():
            return f"closed {member_caption(gesture.path, members(gesture.dimension, gesture.hierarchy))}"
        case OpenLevel() | CloseLevel():
            verb = "opened" if isinstance(gesture, OpenLevel) else "closed"
            return f"{verb} every {level_caption(find_dimension(model, gesture.dimension), gesture.level).lower()}"
        case FilterMembers():
            if not gesture.members:
                return f"lifted the filter on {_hierarchy(model, gesture.dimension, gesture.hierarchy)}"
            verb = "kept" if gesture.action == "keep" else "left out"
            return f"{verb} {_members(gesture.members, members, gesture)}"
        case SwapAxes():
            return "turned"
        case DropMissing():
            return "took away what is missing"
        case _:
            assert_never(gesture)


def _members(paths: tuple[MemberPath, ...], members: Members, gesture: FilterMembers) -> str:
    found = members(gesture.dimension, gesture.hierarchy)
    shown = paths if len(paths) <= _MEMBERS_NAMED + 1 else paths[:_MEMBERS_NAMED]
    return listed([member_caption(path, found) for path in shown], len(paths) - len(shown))


def _measure(model: SemanticModel, name: str) -> str:
    return find_measure(model, name).caption


def _hierarchy(model: SemanticModel, dimension: str, hierarchy: str) -> str:
    found = find_dimension(model, dimension)
    return hierarchy_caption(found, find_hierarchy(found, hierarchy))
