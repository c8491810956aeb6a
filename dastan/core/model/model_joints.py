"""Joint members of a model: what is wrong with one."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.errors import did_you_mean
from dastan.core.model.condition_faults import ConditionFault
from dastan.core.model.document import ModelJoint, SemanticModel
from dastan.core.model.joints import joint_named
from dastan.core.model.members import fold

_TWO = 2


def joint_faults(each: ModelJoint, model: SemanticModel) -> Iterator[ConditionFault]:
    """Every fault of a joint member. Args: `model` has all its levels, and the joint member."""
    dimension = next((one for one in model.dimensions if one.name == each.dimension), None)
    if dimension is None:
        hint = did_you_mean(each.dimension, (one.name for one in model.dimensions))
        yield ConditionFault("dimension", f"Dimension “{each.dimension}” is not in the model.", hint, each.dimension)
        return
    hierarchy = next((one for one in dimension.hierarchies if one.name == each.hierarchy and one.levels), None)
    if hierarchy is None or hierarchy.is_list:
        hint = did_you_mean(each.hierarchy, (one.name for one in dimension.hierarchies if not one.is_list))
        message = f"{dimension.caption} has no hierarchy “{each.hierarchy}” whose members can be joined."
        yield ConditionFault("hierarchy", message, hint, each.hierarchy)
        return
    if not each.caption.strip():
        yield ConditionFault("caption", "A joint member has no name.", "Give it one.")
    if not each.members:
        yield ConditionFault("members", f"“{each.caption}” joins no members.", "Choose one or several.")
    deepest = None if hierarchy.parent_child is not None else len(hierarchy.levels)
    if any(not path or (deepest is not None and len(path) > deepest) for path in each.members):
        hint = "Write one key per level, from the top down: [[bus], [tram, hill]]."
        yield ConditionFault("members", f"A member of {dimension.caption} has too many keys, or none.", hint)
    if any(joint_named(path) is not None for path in each.members):
        yield ConditionFault("members", f"“{each.caption}” joins a joint member.", "Name those that this one joins.")
    if each.how != "together" and len(each.members) != _TWO:
        yield ConditionFault("members", f"“{each.caption}” is a {each.how}, which is of two members.", "Choose two.")
    own = (each.dimension, each.hierarchy, fold(each.caption))
    first = next(one for one in model.joints if (one.dimension, one.hierarchy, fold(one.caption)) == own)
    if first is not each:
        yield ConditionFault("caption", f"Two joint members are called “{each.caption}”.", "Give one another name.")
