"""The joint members of an analysis, as they are listed."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.analysis.captions import level_caption, member_caption
from dastan.core.analysis.document import Analysis, Joint
from dastan.core.analysis.joints import joining_of, joint_used_by
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.model.joints import told_joined
from dastan.core.model.parts import MemberPath
from dastan.server.readers import Reader


@dataclass(frozen=True, slots=True)
class ShownJoint:
    """A joint member: where it stands and at which level, what it is in words, the captions of those that it is of, how
    many of these the data still knows, and what names it."""

    joint: Joint
    path: MemberPath
    level: str
    says: str
    joins: tuple[str, ...]
    there: int
    used_by: tuple[str, ...]


def joints_in(document: Analysis, reader: Reader) -> tuple[ShownJoint, ...]:
    """The joint members that a document makes."""
    found = []
    for each in document.joints:
        known = reader.members(each.dimension, each.hierarchy)
        dimension, path = find_dimension(reader.shelved.model, each.dimension), joining_of(each).path
        captions = tuple(member_caption(one, known) for one in each.members)
        level = find_hierarchy(dimension, each.hierarchy).levels[len(path) - 1]
        found.append(
            ShownJoint(
                each, path, level_caption(dimension, level), told_joined(captions, each.how), captions,
                sum(known.find(one) is not None for one in each.members),
                tuple(joint_used_by(document, each.name, reader.shelved.model)),
            )
        )  # fmt: skip
    return tuple(found)
