"""Members of a model and of an analysis together: joint members stand in a hierarchy beside those that they join.

A joint member is a set of others, whose records it has, each once. It stands under what all of these stand under, next
to the last of them, and opens into what they open into. All of its codes come after the model's own, which keep theirs:
whatever a source tells by code goes on to hold.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np

from dastan.core.model.members import HierarchyMembers, LevelMembers
from dastan.core.model.parts import Key, MemberPath

How = Literal["together", "difference", "ratio"]
_JOINT = "joint:"
_SECOND = ":second"
_KEPT = 16
NONE = -1


class Joining(NamedTuple):
    """A joint member as it was made: its name and caption, and the members whose records it has."""

    name: str
    caption: str
    members: tuple[MemberPath, ...]
    how: How = "together"
    """A difference is the first of two members less the second, number by number, a ratio the first by the second."""

    @property
    def is_of_two(self) -> bool:
        """Whether it is worked out from the numbers of two members, and has no records of its own."""
        return self.how != "together"

    @property
    def above(self) -> MemberPath:
        """The path of what it stands under: the least above all of its members."""
        first, *others = (path[:-1] for path in self.members)
        shared = [at for at in range(len(first) + 1) if all(path[:at] == first[:at] for path in others)]
        return first[: shared[-1]]

    @property
    def deep(self) -> int:
        """The depth at which it stands: that of the highest of its members."""
        return min(len(path) for path in self.members) - 1

    @property
    def path(self) -> MemberPath:
        """Its own path. Between what it stands under and its depth there is nothing but itself."""
        above = self.above
        return (*above, *[joint_key(self.name)] * (self.deep - len(above) + 1))


def joint_key(name: str) -> str:
    """The key by which a joint member is known."""
    return _JOINT + name


def joint_named(path: MemberPath) -> str | None:
    """The name of the joint member that a path leads to or through; None where it is of the model's own members."""
    return next((each[len(_JOINT) :] for each in path if isinstance(each, str) and each.startswith(_JOINT)), None)


@dataclass(frozen=True, slots=True, eq=False)
class Branch:
    """A joint member in its hierarchy, with what is below it; of a difference, one of the two that it is of.

    `rows` is `(n_rows + 2,) bool`, the dimension rows that it holds. Below it, at each deeper level, stand those of the
    model's members that hold any of them, in their order: `below[depth]` are their own codes, and their codes here
    count from `first[depth]` on.
    """

    joining: Joining
    paths: tuple[MemberPath, ...]
    """Of its members those that there are."""
    depth: int
    """The first at which it is told apart: just under what it stands under. Down to `deep`, where it stands, it is
    passed over, as a blank is in an uneven tree."""
    codes: dict[int, int]
    """Its code at each depth down to `deep`."""
    rows: np.ndarray
    below: dict[int, np.ndarray]
    first: dict[int, int]
    above: tuple[int, ...]
    """The codes of what it stands under, from the top."""
    second_of: int | None
    """Of the second of a difference the code of the first, at which the difference stands."""
    opens: dict[int, np.ndarray]
    """Per depth, which of `below` have anything but a blank below them here."""

    @property
    def deep(self) -> int:
        """The depth at which it stands."""
        return self.joining.deep

    @property
    def code(self) -> int:
        """Its code where it stands."""
        return self.codes[self.deep]

    @property
    def key(self) -> str:
        """The key that it is known by."""
        return joint_key(self.joining.name) + ("" if self.second_of is None else _SECOND)

    @property
    def finest(self) -> int:
        """The depth at which each of the model's members lies wholly in it or outside of it."""
        return max(len(path) for path in self.paths) - 1

    def here(self, codes: np.ndarray, depth: int) -> np.ndarray:
        """The codes under it of the model's members `codes` at a depth not above its own, as int32; -1 for none."""
        below = self.below[depth]
        if not len(below):
            return np.full(len(codes), NONE, np.int32)
        place = np.minimum(np.searchsorted(below, codes), len(below) - 1)
        own = self.codes[depth] if depth <= self.deep else self.first[depth] + place
        return np.where(below[place] == codes, own, NONE).astype(np.int32)

    def own(self, codes: np.ndarray, depth: int) -> np.ndarray:
        """The model's own codes of members below it at a depth, `(n,) int32`; -1 for such as are not below it."""
        below, place = self.below[depth], codes - self.first[depth]
        inside = (place >= 0) & (place < len(below))
        return np.where(inside, np.append(below, NONE)[np.where(inside, place, len(below))], NONE).astype(np.int32)


@dataclass(frozen=True, slots=True, eq=False)
class JoinedMembers(HierarchyMembers):
    """A hierarchy's members with joint ones. `code_by_row` tells the model's own; `base` are these alone."""

    base: HierarchyMembers = field(kw_only=True)
    branches: tuple[Branch, ...] = field(kw_only=True)

    def seen_by(self, allowed: np.ndarray) -> HierarchyMembers:
        return _joined(self.base.seen_by(allowed), self.branches)

    def seen_at(self, codes: np.ndarray) -> HierarchyMembers:
        last = len(self.levels) - 1
        return _joined(self.base.seen_at(codes[codes < len(self.base.levels[last])]), self.branches)

    def children(self, path: MemberPath) -> np.ndarray:
        found = HierarchyMembers.children(self, path)
        return found[np.argsort(self.levels[len(path)].first[found], kind="stable")] if len(found) else found

    def stands_at(self, depth: int, code: int) -> tuple[int, int]:
        branch = next((each for each in self.branches if each.codes.get(depth) == code), None)
        return (depth, code) if branch is None else (branch.deep, branch.code)

    def branch_of(self, path: MemberPath) -> Branch | None:
        """The joint member that a path leads to or through."""
        name = joint_named(path)
        return next((each for each in self.branches if each.joining.name == name), None) if name is not None else None

    def overlap(self, depths: np.ndarray, codes: np.ndarray) -> bool:
        """Whether some of these members, each at its depth, have records in common."""
        taken = np.zeros(len(self.code_by_row[0]), np.bool_)
        places = list(dict.fromkeys(zip(depths.tolist(), codes.tolist(), strict=True)))
        differences = {(each.deep, each.code) for each in self.branches if each.joining.is_of_two}
        if differences & set(places):
            return True
        for depth, code in sorted(places, key=lambda each: each[1] >= len(self.base.levels[each[0]])):
            rows = self._rows_at(depth, code)
            if (taken & rows).any():
                return True
            taken |= rows
        return False

    def _rows_at(self, depth: int, code: int) -> np.ndarray:
        """`(n_rows + 2,) bool`: the dimension rows of one member."""
        if code < len(self.base.levels[depth]):
            return np.asarray(self.code_by_row[depth] == code)
        branch = next(
            each for each in self.branches if each.depth <= depth and _is_of(each, np.array([code]), depth)[0]
        )
        if depth <= branch.deep:
            return branch.rows
        return np.asarray(branch.rows & (self.code_by_row[depth] == branch.own(np.array([code]), depth)[0]))

    def joins(self, depth: int, code: int) -> tuple[str, ...]:
        """The captions of those that a joint member joins, of the ones that the reader may see; none for others."""
        branch = next((each for each in self.branches if each.codes.get(depth) == code), None)
        if branch is None:
            return ()
        found = [(len(path) - 1, self.base.find(path)) for path in branch.joining.members]
        return tuple(self.base.levels[at].captions[each] for at, each in found if each is not None)

    def base_paths(self, path: MemberPath) -> tuple[MemberPath, ...]:
        """The paths of the model's own members in place of one: a joint member's members."""
        branch = self.branch_of(path)
        if branch is None:
            return (path,)
        if len(path) - 1 <= branch.deep:
            alike = (each for each in self.branches if each.joining == branch.joining)
            return tuple(own for each in alike for own in each.paths)
        code = self.find(path)
        if code is None:
            return ()
        depth = len(path) - 1
        return (self.base.path_of(depth, int(branch.own(np.array([code]), depth)[0])),)

    def beside(self, depth: int, codes: np.ndarray) -> np.ndarray:
        """`(n,) bool`: which members of a level are joint ones that share records with others of `codes`, so that the
        same records would be counted twice. Of two joint members that overlap the first is none."""
        found = np.zeros(len(codes), np.bool_)
        taken = np.zeros(len(self.code_by_row[depth]), np.bool_)
        own = codes[codes < len(self.base.levels[depth])]
        if len(own):
            taken |= np.isin(self.code_by_row[depth], own)
        for branch in self.branches:
            here = np.flatnonzero(_is_of(branch, codes, depth)) if depth >= branch.depth else np.empty(0, np.int64)
            if not len(here):
                continue
            if branch.joining.is_of_two or (taken & branch.rows).any():
                found[here] = True
            else:
                taken |= branch.rows
        return found


def _is_of(branch: Branch, codes: np.ndarray, depth: int) -> np.ndarray:
    if depth <= branch.deep:
        return np.asarray(codes == branch.codes[depth])
    return np.asarray((codes >= branch.first[depth]) & (codes < branch.first[depth] + len(branch.below[depth])))


def own_members(members: HierarchyMembers) -> HierarchyMembers:
    """The model's own members alone."""
    return members.base if isinstance(members, JoinedMembers) else members


def says_of(members: HierarchyMembers, depth: int, code: int) -> str:
    """What a joint member is, in words: "joins Tram and Metro"; nothing of others."""
    captions = members.joins(depth, code) if isinstance(members, JoinedMembers) else ()
    return told_joined(captions, how_joined(members, depth, code)) if captions else ""


def told_of_two(captions: Sequence[str], how: How) -> str:
    """What is worked out from two: "Tram less Metro", "Tram divided by Metro"."""
    return f" {'less' if how == 'difference' else 'divided by'} ".join(captions)


def told_joined(captions: Sequence[str], how: How) -> str:
    """What joins members of these names: "joins Tram and Metro", "is Tram less Metro", "is Tram divided by Metro"."""
    if how != "together":
        return f"is {told_of_two(captions, how)}"
    return f"joins {', '.join(captions[:-1])}{' and ' if len(captions) > 1 else ''}{captions[-1]}"


def how_joined(members: HierarchyMembers, depth: int, code: int) -> How:
    """How a joint member is made; "together" of any other."""
    branches = members.branches if isinstance(members, JoinedMembers) else ()
    return next((each.joining.how for each in branches if each.deep == depth and each.code == code), "together")


def ratios(members: HierarchyMembers, depth: int) -> list[int]:
    """At a level, the codes of the members that are one by another."""
    return [code for code in differences(members, depth) if how_joined(members, depth, code) == "ratio"]


def differences(members: HierarchyMembers, depth: int) -> dict[int, int]:
    """At a level, the code of each difference or ratio, and that under which its second member is asked for."""
    branches = members.branches if isinstance(members, JoinedMembers) else ()
    return {each.second_of: each.code for each in branches if each.second_of is not None and each.deep == depth}


@lru_cache(_KEPT)
def joined_members(base: HierarchyMembers, joinings: tuple[Joining, ...]) -> HierarchyMembers:
    """A hierarchy's members with joint ones among them. One of which no member is there any more has no place.

    Args: `base` are the model's own, each of which a record belongs to one at most of at a level.
    """
    if isinstance(base, JoinedMembers) or base.spread is not None:
        return base
    taken = [len(each) for each in base.levels]
    branches = []
    for joining in joinings:
        if not joining.is_of_two:
            asked = [_branch(base, joining, joining.members, taken, None)]
        elif all(base.find(path) is not None for path in joining.members):
            first, second = joining.members
            asked = [_branch(base, joining, (first,), taken, None)]
            own = range(len(joining.above), joining.deep + 1)
            further = [count + (depth in own) for depth, count in enumerate(taken)]
            asked.append(_branch(base, joining, (second,), further, taken[joining.deep]))
        else:
            continue
        for found in asked:
            if found is not None:
                branches.append(found)
                for depth in range(found.depth, len(base.levels)):
                    taken[depth] += 1 if depth <= found.deep else len(found.below[depth])
    return _joined(base, tuple(branches)) if branches else base


def _branch(
    base: HierarchyMembers,
    joining: Joining,
    members: tuple[MemberPath, ...],
    taken: Sequence[int],
    second_of: int | None,
) -> Branch | None:
    paths = tuple(path for path in members if base.find(path) is not None)
    if not paths:
        return None
    depth = len(joining.above)
    above = tuple(base.find(paths[0][: at + 1]) or 0 for at in range(depth))
    rows = base.row_mask(paths)
    last = len(base.levels) - 1
    leaves = np.unique(np.concatenate([_leaves(base, path) for path in paths]))
    below = {at: np.unique(base.at_depth(leaves, last, at)).astype(np.int32) for at in range(depth, last + 1)}
    first = {at: taken[at] for at in range(depth, last + 1)}
    if joining.is_of_two:
        # Nothing stands below a difference.
        below |= {at: np.empty(0, np.int32) for at in range(joining.deep + 1, last + 1)}
    opens = {at: np.zeros(len(below[at]), np.bool_) for at in range(depth, last + 1)}
    for at in () if joining.is_of_two else range(last, depth, -1):
        level = base.levels[at]
        has_key = np.array([level.keys[code] is not None for code in below[at].tolist()], np.bool_)
        holding = level.parent[below[at][has_key | opens[at]]]
        opens[at - 1] = np.isin(below[at - 1], holding)
    codes = {at: taken[at] for at in range(depth, joining.deep + 1)}
    return Branch(joining, paths, depth, codes, rows, below, first, above, second_of, opens)


def _leaves(base: HierarchyMembers, path: MemberPath) -> np.ndarray:
    """The codes at the last level of what is below a member."""
    last = len(base.levels) - 1
    return np.flatnonzero(base.above(last, len(path) - 1) == base.find(path))


def _joined(base: HierarchyMembers, branches: tuple[Branch, ...]) -> JoinedMembers:
    last = len(base.levels) - 1
    room = 1 + sum(max(len(each.below[last]), 1) for each in branches)
    starts, before = [0] * len(branches), 1
    # After the last of its members, as they stand at its own depth: deeper ones first, that stand under these.
    for at in sorted(range(len(branches)), key=lambda at: -branches[at].depth):
        each = branches[at]
        alike = [one.below[one.depth] for one in branches if one.joining == each.joining]
        starts[at] = int(base.levels[each.depth].last[np.concatenate(alike)].max()) * room + before
        before += max(len(each.below[last]), 1)
    levels, visible = [], []
    for depth in range(last + 1):
        levels.append(_level(base, depth, branches, room, starts))
        if base.visible or any(each.second_of is not None for each in branches):
            seen = [base.visible[depth] if base.visible else np.ones(len(base.levels[depth]), np.bool_)]
            for each in branches:
                if depth >= each.depth:
                    own = seen[0][each.below[depth]]
                    # The second of a difference is there to be asked for, and for nobody to see.
                    is_seen = each.second_of is None and own.any()
                    seen.append(np.array([is_seen]) if depth <= each.deep else own)
            visible.append(np.concatenate(seen))
    return JoinedMembers(
        base.dimension, base.hierarchy, tuple(levels), base.code_by_row, None, tuple(visible), base=base,
        branches=branches,
    )  # fmt: skip


def _level(
    base: HierarchyMembers, depth: int, branches: tuple[Branch, ...], room: int, starts: Sequence[int]
) -> LevelMembers:
    """A level with what stands there of joint members. Args: `starts` are the places of their first leaves.

    Places of leaves are `room` apart, so that what is below joint members finds its own between them.
    """
    own, last = base.levels[depth], len(base.levels) - 1
    keys, captions = list(own.keys), list(own.captions)
    ends = own.last * room
    parts: dict[str, list[np.ndarray]] = {
        "parent": [own.parent], "first": [own.first * room], "can_open": [own.can_open], "is_passed": [own.is_passed],
    }  # fmt: skip
    lasts = []
    for each, start in zip(branches, starts, strict=True):
        count = max(len(each.below[last]), 1)
        if depth < each.depth:
            ends[each.above[depth]] = max(int(ends[each.above[depth]]), start + count - 1)
            continue
        below = each.below[depth]
        leaf_of = np.searchsorted(below, base.at_depth(each.below[last], last, depth))
        if depth <= each.deep:
            keys.append(each.key)
            captions.append(each.joining.caption)
            firsts, final = np.array([start]), np.array([start + count - 1])
            above = each.codes.get(depth - 1, each.above[-1] if each.above else 0)
            is_passed = depth < each.deep
            parent, opens = np.array([above]), np.array([is_passed or bool(each.opens[depth].any())])
            passed = np.array([is_passed])
        else:
            keys += _keys_below(base, each, depth)
            captions += [own.captions[code] for code in below.tolist()]
            firsts = start + np.searchsorted(leaf_of, np.arange(len(below)), "left")
            final = start + np.searchsorted(leaf_of, np.arange(len(below)), "right") - 1
            parent = each.here(own.parent[below], depth - 1)
            opens, passed = each.opens[depth], own.is_passed[below] & each.opens[depth]
        for name, array in (("parent", parent), ("first", firsts), ("can_open", opens), ("is_passed", passed)):
            parts[name].append(array)
        lasts.append(final)
    found = {name: np.concatenate(arrays) for name, arrays in parts.items()}
    return LevelMembers(
        own.name, own.caption, tuple(keys), tuple(captions), found["parent"].astype(np.int32), found["first"],
        np.concatenate([ends, *lasts]), found["can_open"], own.nowhere, found["is_passed"],
    )  # fmt: skip


def _keys_below(base: HierarchyMembers, branch: Branch, depth: int) -> list[Key]:
    """The keys of what is below a joint member: where members of different parents share one, those from its depth
    down together."""
    level, codes = base.levels[depth], branch.below[depth].tolist()
    known: dict[tuple[int, Key], int] = {}
    above = branch.here(level.parent[branch.below[depth]], depth - 1).tolist()
    pairs = [(parent, level.keys[code]) for parent, code in zip(above, codes, strict=True)]
    for each in pairs:
        known[each] = known.get(each, 0) + 1
    return [
        key if known[parent, key] == 1 else " / ".join(str(each) for each in base.path_of(depth, code)[branch.depth :])
        for (parent, key), code in zip(pairs, codes, strict=True)
    ]
