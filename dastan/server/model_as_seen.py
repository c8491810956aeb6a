"""A model as people who do not see all of its records may know it: of its joint members only what they join of what is
seen. The same model each time, by which what is worked out of it is kept."""

from __future__ import annotations

from dataclasses import replace
from threading import Lock
from weakref import WeakKeyDictionary

from dastan.core.analysis.captions import Members
from dastan.core.engine.waist import Rights
from dastan.core.model.document import ModelJoint, SemanticModel
from dastan.server.asked_model import AskedModel

_MOST_KEPT = 64
"""Of one model, so many are kept."""
_LOCK = Lock()
_KEPT: WeakKeyDictionary[AskedModel, dict[Rights, SemanticModel]] = WeakKeyDictionary()
"""By the model and the rights. Changed under the lock."""


def model_as_seen(asked: AskedModel, rights: Rights, members: Members) -> SemanticModel:
    """Args: `members` are those that may be seen with these rights."""
    with _LOCK:
        kept = _KEPT.setdefault(asked, {})
        found = kept.get(rights.alone)
    if found is not None:
        return found
    joints = tuple(own for each in asked.model.joints if (own := _seen(each, members)) is not None)
    model = replace(asked.model, joints=joints)
    with _LOCK:
        if len(kept) >= _MOST_KEPT:
            kept.clear()
        return kept.setdefault(rights.alone, model)


def _seen(joint: ModelJoint, members: Members) -> ModelJoint | None:
    """A joint member of those that are seen; none where that would be another thing, or nothing."""
    known = members(joint.dimension, joint.hierarchy)
    seen = tuple(path for path in joint.members if known.find(path) is not None)
    if not seen or (joint.how != "together" and seen != joint.members):
        return None
    return replace(joint, members=seen)
