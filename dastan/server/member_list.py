"""Lists of members for the picker: a branch at a time, or those that a search finds."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.errors import InputError
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath

PAGE_LENGTH = 200


@dataclass(frozen=True, slots=True)
class ListedMember:
    """A member, with the captions above it and its level."""

    path: MemberPath
    caption: str
    above: tuple[str, ...]
    level: str
    can_open: bool
    is_nowhere: bool


@dataclass(frozen=True, slots=True)
class MemberPage:
    """Some of `count` members in natural order."""

    members: tuple[ListedMember, ...]
    count: int


def children_of(members: HierarchyMembers, path: MemberPath, start: int) -> MemberPage:
    """The members one level below `path`, from number `start` on. Raises InputError for an unknown path."""
    if path and members.find(path) is None:
        raise InputError("There is no such member.", "Reload the list of members.")
    codes = members.children(path)
    shown = [_listed(members, len(path), int(code)) for code in codes[start : start + PAGE_LENGTH]]
    return MemberPage(tuple(shown), len(codes))


def search_members(members: HierarchyMembers, words: str) -> MemberPage:
    """The members of any level whose caption or key holds the words, whatever their case; coarser levels first."""
    wanted = words.casefold().strip()
    found = [
        (depth, code)
        for depth, level in enumerate(members.levels)
        for code, caption in enumerate(level.captions)
        if members.is_visible(depth, code)
        and (wanted in caption.casefold() or wanted in str(level.keys[code]).casefold())
    ]
    return MemberPage(tuple(_listed(members, *each) for each in found[:PAGE_LENGTH]), len(found))


def _listed(members: HierarchyMembers, depth: int, code: int) -> ListedMember:
    level = members.levels[depth]
    captions = members.captions_of(depth, code)
    return ListedMember(
        path=members.path_of(depth, code),
        caption=captions[-1],
        above=captions[:-1],
        level=level.caption,
        can_open=bool(level.can_open[code]),
        is_nowhere=level.keys[code] is None,
    )
