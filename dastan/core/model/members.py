"""The members of a hierarchy, level by level, in their natural order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dastan.core.model.parts import Key, MemberPath


@dataclass(frozen=True, slots=True, eq=False)
class LevelMembers:
    """All members at one level, numbered in natural order inside their parents.

    `parent` holds each member's code one level up (all 0 at the top). `first` and `last` are the places of
    its first and last row in the natural order of the whole hierarchy, so that members of different levels
    can be put in one order. `can_open` tells whether anything but a blank lies below. `is_passed` members
    are not shown themselves: what is below them stands in their place.
    """

    name: str
    caption: str
    keys: tuple[Key, ...]
    captions: tuple[str, ...]
    parent: np.ndarray
    first: np.ndarray
    last: np.ndarray
    can_open: np.ndarray
    nowhere: int
    """Code of the member of records that belong nowhere; of a list, that of records in none of its sets."""
    is_passed: np.ndarray

    def __len__(self) -> int:
        return len(self.keys)

    @property
    def natural(self) -> np.ndarray:
        """Each member's place in the natural order of its level, `(n,) int64`."""
        if bool((self.first[1:] > self.first[:-1]).all()):
            return np.arange(len(self))
        found = np.empty(len(self), np.int64)
        found[np.argsort(self.first, kind="stable")] = np.arange(len(self))
        return found


@dataclass(frozen=True, slots=True, eq=False)
class Spread:
    """The members that each dimension row belongs to: `starts` is `(n_rows + 3,) int64`, `codes` int32."""

    starts: np.ndarray
    codes: np.ndarray


@dataclass(frozen=True, slots=True, eq=False)
class HierarchyMembers:
    """A hierarchy's members. `code_by_row[level]` maps a dimension row to its member's code there.

    The last two rows stand for records whose key is blank and records whose key is unknown. In a list, whose
    sets may overlap, a row belongs to several members: those of row r are `spread.codes` from `spread.starts[r]`
    to `spread.starts[r + 1]`, and `code_by_row` holds the first of them.
    """

    dimension: str
    hierarchy: str
    levels: tuple[LevelMembers, ...]
    code_by_row: tuple[np.ndarray, ...]
    spread: Spread | None = None
    visible: tuple[np.ndarray, ...] = ()
    """Per level `(n_members,) bool` where a reader may not see all of them; empty where everything is seen."""
    _codes: list[dict[tuple[int, Key], int]] = field(default_factory=list)
    _names: list[dict[str, list[int]]] = field(default_factory=list)
    _above: dict[tuple[int, int], np.ndarray] = field(default_factory=dict)

    def depth_of(self, level: str) -> int:
        """How far down a level lies, 0 at the top. Raises KeyError."""
        for depth, each in enumerate(self.levels):
            if each.name == level:
                return depth
        raise KeyError(level)

    def find(self, path: MemberPath) -> int | None:
        """The code at level `len(path) - 1` of the member with that path; None when there is none."""
        if not self._codes:
            self._codes[:] = [
                {(int(level.parent[code]), key): code for code, key in enumerate(level.keys)} for level in self.levels
            ]
        if not 0 < len(path) <= len(self.levels):
            return None
        code = 0
        for depth, key in enumerate(path):
            found = self._codes[depth].get((code if depth else 0, key))
            if found is None:
                return None
            code = found
        return code if self.is_visible(len(path) - 1, code) else None

    def names(self, depth: int) -> dict[str, list[int]]:
        """The codes of a level by what their members are called, as `fold` writes it, visible or not."""
        if not self._names:
            found: list[dict[str, list[int]]] = [{} for _ in self.levels]
            for level, own in zip(self.levels, found, strict=True):
                for code, caption in enumerate(level.captions):
                    own.setdefault(fold(caption), []).append(code)
            # Put in at once: another thread sees all of it, or nothing.
            self._names[:] = found
        return self._names[depth]

    def stands_at(self, depth: int, code: int) -> tuple[int, int]:
        """The depth and code of a member as it is listed: of one that stands further down there."""
        return depth, code

    def named(self, depth: int, name: str) -> list[int]:
        """The members of a level that are called so, whatever the case, of those that the reader may see."""
        return [code for code in self.names(depth).get(fold(name), []) if self.is_visible(depth, code)]

    def is_visible(self, depth: int, code: int) -> bool:
        """Whether the reader these members are for may see one."""
        return not self.visible or bool(self.visible[depth][code])

    def count_at(self, depth: int) -> int:
        """How many members a level has that the reader may see."""
        return int(self.visible[depth].sum()) if self.visible else len(self.levels[depth])

    def seen_by(self, allowed: np.ndarray) -> HierarchyMembers:
        """The members as a reader sees them who may see only some dimension rows, `(n_rows + 2,) bool`."""
        visible = tuple(
            self._chosen(np.flatnonzero(allowed), depth, len(level)) for depth, level in enumerate(self.levels)
        )
        return self._seen(visible)

    def seen_at(self, codes: np.ndarray) -> HierarchyMembers:
        """The members as a reader sees them who may see only those `codes` of the finest level, and what is above."""
        visible = []
        for depth, level in enumerate(self.levels):
            seen = np.zeros(len(level), np.bool_)
            seen[self.at_depth(codes, len(self.levels) - 1, depth)] = True
            visible.append(seen)
        return self._seen(tuple(visible))

    def _seen(self, visible: tuple[np.ndarray, ...]) -> HierarchyMembers:
        """These members as far as they are visible: what has nothing visible below it cannot be opened."""
        levels = [self.levels[-1]]
        for depth in range(len(self.levels) - 1, 0, -1):
            above, below = self.levels[depth - 1], levels[0]
            has_key = np.array([key is not None for key in below.keys], np.bool_)
            opens = visible[depth] & (has_key | below.can_open)
            can_open = above.can_open & (np.bincount(below.parent[opens], minlength=len(above)) > 0)
            levels.insert(0, replace(above, can_open=can_open, is_passed=above.is_passed & can_open))
        return replace(self, levels=tuple(levels), visible=visible)

    def _chosen(self, rows: np.ndarray, depth: int, count: int) -> np.ndarray:
        found = np.zeros(count, np.bool_)
        if self.spread is None:
            found[self.code_by_row[depth][rows]] = True
        else:
            for row in rows:
                found[self.spread.codes[self.spread.starts[row] : self.spread.starts[row + 1]]] = True
        return found

    def codes_in(self, rows: np.ndarray, depth: int) -> np.ndarray:
        """The codes, ascending, of the members that hold any of those dimension rows, `(n_rows + 2,) bool`."""
        return np.flatnonzero(self._chosen(np.flatnonzero(rows), depth, len(self.levels[depth])))

    def path_of(self, depth: int, code: int) -> MemberPath:
        """The keys from the top down to that member."""
        keys: list[Key] = []
        for level in reversed(self.levels[: depth + 1]):
            keys.append(level.keys[code])
            code = int(level.parent[code])
        return tuple(reversed(keys))

    def captions_of(self, depth: int, code: int) -> tuple[str, ...]:
        """The captions from the top down to that member."""
        captions: list[str] = []
        for level in reversed(self.levels[: depth + 1]):
            captions.append(level.captions[code])
            code = int(level.parent[code])
        return tuple(reversed(captions))

    def at_depth(self, codes: np.ndarray, depth: int, wanted: int) -> np.ndarray:
        """The ancestors at depth `wanted` of the members `codes` at `depth`, as int32."""
        for level in reversed(self.levels[wanted + 1 : depth + 1]):
            codes = level.parent[codes]
        return codes

    def above(self, depth: int, wanted: int) -> np.ndarray:
        """The ancestor at depth `wanted` of each member at `depth`, `(n_members,) int32`."""
        found = self._above.get((depth, wanted))
        if found is None:
            found = self.at_depth(np.arange(len(self.levels[depth])), depth, wanted).astype(np.int32)
            self._above[depth, wanted] = found
        return found

    def children(self, path: MemberPath) -> np.ndarray:
        """The codes one level below `path` (of the top level for the empty path), in natural order."""
        if not path:
            below = np.ones(len(self.levels[0]), np.bool_)
        else:
            code = self.find(path)
            if code is None or len(path) == len(self.levels):
                return np.empty(0, np.int64)
            below = self.levels[len(path)].parent == code
        return np.flatnonzero(below & self.visible[len(path)] if self.visible else below)

    def row_mask(self, paths: Sequence[MemberPath]) -> np.ndarray:
        """`(n_rows + 2,) bool`: the dimension rows below any of the paths; unknown paths match nothing."""
        mask = np.zeros(len(self.code_by_row[0]), np.bool_)
        by_depth: dict[int, list[int]] = {}
        for path in paths:
            code = self.find(path)
            if code is not None:
                by_depth.setdefault(len(path) - 1, []).append(code)
        for depth, codes in by_depth.items():
            chosen = np.zeros(len(self.levels[depth]), np.bool_)
            chosen[codes] = True
            mask |= self.rows_of(chosen, depth)
        return mask

    def rows_of(self, chosen: np.ndarray, depth: int) -> np.ndarray:
        """`(n_rows + 2,) bool`: the dimension rows of the members of a level for which `chosen` is true."""
        if self.spread is None:
            return np.asarray(chosen[self.code_by_row[depth]])
        row_of_code = np.repeat(np.arange(len(self.spread.starts) - 1), np.diff(self.spread.starts))
        mask = np.zeros(len(self.spread.starts) - 1, np.bool_)
        mask[row_of_code[chosen[self.spread.codes]]] = True
        return mask


@dataclass(frozen=True, slots=True)
class LevelColumn:
    """What the rows of a dimension say at one level: one entry per row, keys blank where None."""

    name: str
    caption: str
    keys: Sequence[Key]
    captions: Sequence[str]
    sort: Sequence[Key]
    without: str | None
    """What a blank is called; without, after its parent: "Crew itself"."""


_UNSET = np.zeros(0, np.int64)


def build_members(
    dimension: str,
    hierarchy: str,
    columns: Sequence[LevelColumn],
    row_count: int,
    nowhere: str,
    passes_blanks: bool = False,
) -> HierarchyMembers:
    """Numbers the members of every level from the rows of a dimension.

    A member is known by its keys from the top down. Its caption and place come from its first row. Blank
    keys come last inside their parent; a record that belongs nowhere has blank keys all the way down, and
    is called `nowhere`.
    """
    parent_by_row = np.zeros(row_count + 2, np.int32)
    levels: list[LevelMembers] = []
    code_by_row: list[np.ndarray] = []
    for column in columns:
        above = levels[-1].captions if levels else (nowhere,)
        codes, keys, captions, parents = _number_level(column, parent_by_row, row_count, above)
        nowhere_code = int(codes[row_count])
        captions[nowhere_code] = nowhere
        code_by_row.append(codes)
        parent_by_row = codes
        levels.append(
            LevelMembers(
                column.name, column.caption, tuple(keys), tuple(captions), parents,
                _UNSET, _UNSET, _UNSET, nowhere_code, _UNSET,
            )
        )  # fmt: skip
    return _finish(HierarchyMembers(dimension, hierarchy, tuple(levels), tuple(code_by_row)), passes_blanks)


def build_list(
    dimension: str,
    hierarchy: str,
    caption: str,
    sets: Sequence[tuple[Key, str, np.ndarray]],
    row_count: int,
    nowhere: str,
) -> HierarchyMembers:
    """A list of sets as members of one level, in the order given; rows in no set belong to one called `nowhere`.

    Args: `sets` hold a key, a caption and `(row_count + 2,) bool`, the dimension rows in the set.
    """
    holds = np.array([rows for _, _, rows in sets], np.bool_).reshape(len(sets), row_count + 2)
    holds = np.concatenate([holds, ~holds.any(axis=0, keepdims=True)])
    rows, codes = np.nonzero(holds.T)
    starts = np.zeros(row_count + 3, np.int64)
    starts[1:] = np.cumsum(np.bincount(rows, minlength=row_count + 2))
    codes = codes.astype(np.int32)
    count = len(sets) + 1
    level = LevelMembers(
        hierarchy, caption,
        (*(key for key, _, _ in sets), None), (*(each for _, each, _ in sets), nowhere),
        np.zeros(count, np.int32), np.arange(count), np.arange(count),
        np.zeros(count, np.bool_), count - 1, np.zeros(count, np.bool_),
    )  # fmt: skip
    return HierarchyMembers(dimension, hierarchy, (level,), (codes[starts[:-1]],), Spread(starts, codes))


def _number_level(
    column: LevelColumn, parent_by_row: np.ndarray, row_count: int, above: Sequence[str]
) -> tuple[np.ndarray, list[Key], list[str], np.ndarray]:
    key_by_row: list[tuple[int, Key]] = list(zip(parent_by_row.tolist(), (*column.keys, None, None), strict=True))
    first_row: dict[tuple[int, Key], int] = {}
    for row, entry in enumerate(key_by_row):
        first_row.setdefault(entry, row)

    def place(entry: tuple[int, Key]) -> tuple[object, ...]:
        row = first_row[entry]
        sort = column.sort[row] if row < row_count else None
        return (entry[0], entry[1] is None, *rank_of_key(sort), *rank_of_key(entry[1]))

    ordered = sorted(first_row, key=place)
    code_of = {entry: code for code, entry in enumerate(ordered)}
    codes = np.array([code_of[entry] for entry in key_by_row], np.int32)
    captions = [
        (column.without or f"{above[parent]} itself") if key is None else column.captions[first_row[(parent, key)]]
        for parent, key in ordered
    ]
    return codes, [key for _, key in ordered], captions, np.array([parent for parent, _ in ordered], np.int32)


def fold(text: str) -> str:
    """A name as names are compared: whatever their case, one space between words."""
    return " ".join(text.casefold().split())


def rank_of_key(key: Key) -> tuple[object, ...]:
    """Puts keys of any mix of types in one order: numbers, then text, then blanks."""
    if key is None:
        return (2, 0)
    if isinstance(key, str):
        return (1, key)
    return (0, key)


def _finish(members: HierarchyMembers, passes_blanks: bool) -> HierarchyMembers:
    """Sets each member's first and last place in the order of the deepest level, and what can be opened."""
    leaf_count = len(members.levels[-1])
    first = last = np.arange(leaf_count)
    can_open = np.zeros(leaf_count, np.bool_)
    levels: list[LevelMembers] = []
    for depth in range(len(members.levels) - 1, -1, -1):
        level = members.levels[depth]
        has_key = np.array([key is not None for key in level.keys], np.bool_)
        levels.append(
            LevelMembers(
                level.name, level.caption, level.keys, level.captions, level.parent,
                first, last, can_open, level.nowhere, can_open & ~has_key & passes_blanks,
            )
        )  # fmt: skip
        if depth:
            above = len(members.levels[depth - 1])
            can_open = np.bincount(level.parent[has_key | can_open], minlength=above) > 0
            new_first, new_last = np.full(above, leaf_count), np.full(above, -1)
            np.minimum.at(new_first, level.parent, first)
            np.maximum.at(new_last, level.parent, last)
            first, last = new_first, new_last
    return HierarchyMembers(members.dimension, members.hierarchy, tuple(reversed(levels)), members.code_by_row)
