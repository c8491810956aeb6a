"""Joint members of a model: what is wrong with one."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.model.condition_faults import ConditionFault
from dastan.core.model.document import ModelJoint, SemanticModel
from dastan.core.model.joints import joint_named
from dastan.core.model.member_lists import FaultyPlaceError, hierarchy_of_members, path_faults
from dastan.core.model.members import fold

_TWO = 2


def joint_faults(each: ModelJoint, model: SemanticModel) -> Iterator[ConditionFault]:
    """Every fault of a joint member. Args: `model` has all its levels, and the joint member."""
    try:
        hierarchy = hierarchy_of_members(each, model, "joined")
    except FaultyPlaceError as error:
        yield error.fault
        return
    if not each.caption.strip():
        yield ConditionFault("caption", "A joint member has no name.", "Give it one.")
    if not each.members:
        yield ConditionFault("members", f"“{each.caption}” joins no members.", "Choose one or several.")
    yield from path_faults(each, hierarchy, model)
    if any(joint_named(path) is not None for path in each.members):
        yield ConditionFault("members", f"“{each.caption}” joins a joint member.", "Name those that this one joins.")
    if each.how != "together" and len(each.members) != _TWO:
        yield ConditionFault("members", f"“{each.caption}” is a {each.how}, which is of two members.", "Choose two.")
    own = (each.dimension, each.hierarchy, fold(each.caption))
    first = next(one for one in model.joints if (one.dimension, one.hierarchy, fold(one.caption)) == own)
    if first is not each:
        yield ConditionFault("caption", f"Two joint members are called “{each.caption}”.", "Give one another name.")
