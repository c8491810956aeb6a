"""Joint members that an analysis makes: to everything that names members they are members like others."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from dastan.core.analysis.captions import Members, free_name, hierarchy_caption
from dastan.core.analysis.document import Analysis, Joint
from dastan.core.analysis.member_paths import with_member_paths
from dastan.core.analysis.names import parts_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import SemanticModel
from dastan.core.model.joints import Joining, joint_named
from dastan.core.model.members import fold
from dastan.core.model.parts import MemberPath, Part

MOST_JOINTS = 100
_TWO = 2


def joinings_of(document: Analysis) -> dict[tuple[str, str], tuple[Joining, ...]]:
    """The joint members of a document, by dimension and hierarchy."""
    found: dict[tuple[str, str], tuple[Joining, ...]] = {}
    for each in document.joints:
        own = (each.dimension, each.hierarchy)
        found[own] = (*found.get(own, ()), joining_of(each))
    return found


def joining_of(joint: Joint) -> Joining:
    """A joint member as the members of its hierarchy know it."""
    return Joining(joint.name, joint.caption, joint.members, joint.how)


def check_name(joint: Joint, members: Members) -> None:
    """Raises InputError where a member of the hierarchy is called as a joint member is, at its own level."""
    known = members(joint.dimension, joint.hierarchy)
    depth = joining_of(joint).deep if joint.members else len(known.levels)
    if depth < len(known.levels) and known.named(depth, joint.caption):
        caption = joint.caption.strip()
        raise InputError(
            f"{known.levels[depth].caption} has a member “{caption}” already.", "Give this one another name."
        )


def find_joint(document: Analysis, name: str) -> Joint:
    """The joint member of that name. Raises NotFoundError."""
    for each in document.joints:
        if each.name == name:
            return each
    raise NotFoundError(f"No joint member “{name}” was made here.", "Look at the catalogue for those there are.")


def named_joint(joint: Joint, document: Analysis, model: SemanticModel) -> Joint:
    """With a name of its own, made of its caption where it has none; and of the model's own members alone: those of a
    joint member in its place, each once, and none below another. Raises InputError for a name that is taken."""
    members: list[MemberPath] = []
    for path in joint.members:
        name = joint_named(path)
        members += find_joint(document, name).members if name is not None else (path,)
    apart = members
    if joint.how == "together":
        apart = [path for path in members if not any(path[:at] in members for at in range(1, len(path)))]
    joint = replace(joint, members=tuple(dict.fromkeys(apart)))
    known = {each.name for each in document.joints}
    if joint.name:
        if joint.name in known:
            raise InputError(f"There is a joint member “{joint.name}” already.", "Give this one another name.")
        return joint
    known |= {each.name for each in model.joints}
    return replace(joint, name=free_name(joint.caption, known, "", "joint"))


def check_joints(document: Analysis, model: SemanticModel) -> None:
    """Raises InputError for the first joint member that cannot stand in its hierarchy."""
    if len(document.joints) > MOST_JOINTS:
        raise InputError(f"An analysis makes at most {MOST_JOINTS} joint members.", "Forget some that are not used.")
    if len({each.name for each in document.joints}) < len(document.joints):
        raise InputError("Two joint members have the same name.", "Give one another name.")
    captions: set[tuple[str, str, str]] = set()
    for each in document.joints:
        dimension = find_dimension(model, each.dimension)
        hierarchy = find_hierarchy(dimension, each.hierarchy)
        if not each.name or not each.caption.strip():
            raise InputError("A joint member has no name.", "Give it one.")
        if not each.members:
            raise InputError(f"“{each.caption}” joins no members.", "Choose one or several.")
        if each.how != "together" and len(each.members) != _TWO:
            raise InputError(f"“{each.caption}” is a {each.how}, which is of two members.", "Choose two.")
        if any(joint_named(path) is not None for path in each.members):
            raise InputError(f"“{each.caption}” joins a joint member.", "Name the members that this one joins.")
        if hierarchy.is_list:
            caption = hierarchy_caption(dimension, hierarchy)
            raise InputError(
                f"{caption} is a list, whose members may hold the same records already.",
                "Join members of another hierarchy.",
            )
        own = (each.dimension, each.hierarchy, fold(each.caption))
        if own in captions:
            raise InputError(f"Two joint members are called “{each.caption.strip()}”.", "Give one another name.")
        captions.add(own)


def joints_named(part: Part) -> set[str]:
    """The joint members that a part of a document names."""
    found = set()
    for each in parts_in(part):
        members = getattr(each, "members", ())
        paths = [path for path in (getattr(each, "path", ()), *members) if isinstance(path, tuple)]
        found |= {name for path in paths if (name := joint_named(path)) is not None}
    return found


def left_out_by(condition: Condition, joint: Joint) -> tuple[MemberPath, ...]:
    """The members of a joint member's hierarchy that a plain filter leaves out."""
    if not isinstance(condition, MemberFilter) or condition.action != "leave_out" or condition.level is not None:
        return ()
    return condition.members if (condition.dimension, condition.hierarchy) == (joint.dimension, joint.hierarchy) else ()


def in_place_of(document: Analysis, condition: Condition) -> list[Joint]:
    """The joint members in whose favour a filter leaves out members: just those that they join."""
    if not isinstance(condition, MemberFilter) or condition.action != "leave_out" or condition.level is not None:
        return []
    left_out, own = set(condition.members), (condition.dimension, condition.hierarchy)
    alike = [each for each in document.joints if (each.dimension, each.hierarchy) == own]
    found = [each for each in alike if set(each.members) <= left_out]
    told = {path for each in found for path in each.members}
    return found if told == left_out and not any(joint_named(path) for path in left_out) else []


def joint_used_by(document: Analysis, name: str, model: SemanticModel) -> Iterator[str]:
    """What in a document names a joint member, in words; what waits until it applies does not count."""
    for each in document.made:
        if _names_it(Analysis(model=document.model, made=(each,)), name, model):
            yield f"“{each.caption}”"
    if _names_it(replace(document, made=()), name, model):
        yield "a filter or a view"


def _names_it(document: Analysis, name: str, model: SemanticModel) -> bool:
    found: list[MemberPath] = []

    def note(_: str, __: str, path: MemberPath) -> MemberPath:
        found.append(path)
        return path

    question = document.question
    bare = replace(question, rows=(), columns=(), waiting=())
    with_member_paths(replace(document, question=bare, openings=(), joints=()), model, note)
    return any(joint_named(path) == name for path in found)
