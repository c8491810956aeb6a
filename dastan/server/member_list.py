"""Lists of members for the picker: a branch at a time, those that a search finds, or those that a pasted list names."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from dastan.core.errors import InputError
from dastan.core.model.members import HierarchyMembers, fold
from dastan.core.model.parts import MemberPath
from dastan.core.reading.beside import Beside
from dastan.core.reading.window import Number, as_number

PAGE_LENGTH = 200
MOST_BELOW = 20_000
"""So many members of a level can be picked at once."""

BesideLevel = Callable[[str], Beside | None]
"""What stands beside the members of a level; None where nothing does."""


@dataclass(frozen=True, slots=True)
class ListedMember:
    """A member, with the captions above it and its level; its value and whether it has records, where asked for."""

    path: MemberPath
    caption: str
    above: tuple[str, ...]
    level: str
    can_open: bool
    is_nowhere: bool
    value: Number = None
    has_records: bool = True


@dataclass(frozen=True, slots=True)
class MemberPage:
    """Some of `count` members in natural order; the last `without_records` of them have none under the filters."""

    members: tuple[ListedMember, ...]
    count: int
    without_records: int = 0


@dataclass(frozen=True, slots=True)
class MatchedList:
    """What a pasted list names: members, and the lines that name none."""

    members: tuple[ListedMember, ...]
    unmatched: tuple[str, ...]


def children_of(members: HierarchyMembers, path: MemberPath, start: int, beside: BesideLevel) -> MemberPage:
    """The members one level below `path`, from number `start` on, those without records last. Raises InputError for
    an unknown path."""
    if path and members.find(path) is None:
        raise InputError("There is no such member.", "Reload the list of members.")
    depth = len(path)
    codes = members.children(path)
    value = beside(members.levels[depth].name) if depth < len(members.levels) else None
    without = 0
    if value is not None:
        has = value.has_records[codes]
        codes, without = np.concatenate([codes[has], codes[~has]]), int(np.count_nonzero(~has))
    page = codes[start : start + PAGE_LENGTH].tolist()
    shown = [_listed(members, *members.stands_at(depth, code), value, code) for code in page]
    return MemberPage(tuple(shown), len(codes), without)


def members_below(members: HierarchyMembers, path: MemberPath, level: str) -> MemberPage:
    """All members of a level below a path. Raises InputError for an unknown path or too many."""
    depth = members.depth_of(level)
    codes = np.arange(len(members.levels[depth]))
    if path:
        code = members.find(path)
        if code is None or len(path) > depth + 1:
            raise InputError("There is no such member.", "Reload the list of members.")
        codes = codes[members.at_depth(codes, depth, len(path) - 1) == code]
    if members.visible:
        codes = codes[members.visible[depth][codes]]
    if len(codes) > MOST_BELOW:
        raise InputError(
            f"{len(codes):,} members are too many to pick one by one.", "Pick what they stand under, or a condition."
        )
    places = [members.stands_at(depth, code) for code in codes.tolist()]
    return MemberPage(tuple(_listed(members, *each, None) for each in places), len(codes))


def search_members(members: HierarchyMembers, words: str, beside: BesideLevel) -> MemberPage:
    """The members of any level whose caption or key holds the words, whatever their case; coarser levels first."""
    wanted = words.casefold().strip()
    found = [
        (depth, code)
        for depth, level in enumerate(members.levels)
        for code, caption in enumerate(level.captions)
        if members.is_visible(depth, code)
        and members.stands_at(depth, code) == (depth, code)
        and (wanted in caption.casefold() or wanted in str(level.keys[code]).casefold())
    ]
    values = {depth: beside(members.levels[depth].name) for depth in {depth for depth, _ in found[:PAGE_LENGTH]}}
    return MemberPage(
        tuple(_listed(members, depth, code, values[depth]) for depth, code in found[:PAGE_LENGTH]), len(found)
    )


def match_members(members: HierarchyMembers, lines: Sequence[str]) -> MatchedList:
    """The members that lines name by caption or key, at any level, the coarsest first; each line names one, or all
    of that name."""
    by_key: list[dict[str, list[int]]] = []
    for level in members.levels:
        by_key.append({})
        for code, key in enumerate(level.keys):
            by_key[-1].setdefault(fold(str(key)), []).append(code)
    found: dict[tuple[int, int], None] = {}
    unmatched: dict[str, None] = {}
    for line in lines:
        for depth, keys in enumerate(by_key):
            codes = {*members.named(depth, line), *keys.get(fold(line), [])}
            seen = sorted(code for code in codes if members.is_visible(depth, code))
            if seen:
                found |= dict.fromkeys((depth, code) for code in seen)
                break
        else:
            if line.strip():
                unmatched[line.strip()] = None
    return MatchedList(tuple(_listed(members, *each, None) for each in found), tuple(unmatched))


def _listed(
    members: HierarchyMembers, depth: int, code: int, beside: Beside | None, at: int | None = None
) -> ListedMember:
    """Args: `at` is its place among what stands beside; its code without."""
    at = code if at is None else at
    level = members.levels[depth]
    captions = members.captions_of(depth, code)
    ancestors = [int(members.at_depth(np.array([code]), depth, at)[0]) for at in range(depth)]
    return ListedMember(
        path=members.path_of(depth, code),
        caption=captions[-1],
        above=tuple(captions[at] for at, each in enumerate(ancestors) if members.stands_at(at, each) == (at, each)),
        level=level.caption,
        can_open=bool(level.can_open[code]),
        is_nowhere=level.keys[code] is None,
        value=as_number(beside.values, at) if beside is not None and beside.values.present[at] else None,
        has_records=bool(beside.has_records[at]) if beside is not None else True,
    )
