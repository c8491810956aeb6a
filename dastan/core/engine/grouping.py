"""From one array of codes per level to one number per group."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import prod

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.stopping import slices

_KEY_LIMIT = 2**62
_DENSE_FLOOR = 1 << 16
_LOOKUP_LIMIT = 1 << 22


@dataclass(frozen=True, slots=True, eq=False)
class RowGroups:
    """Which group each row belongs to. Only groups that have rows exist.

    `group` is `(n_rows,) int64`, 0 to `count` - 1; `codes` has one `(count,) int32` array per level.
    Groups are in ascending order of their codes, first level first.
    """

    group: np.ndarray
    count: int
    codes: tuple[np.ndarray, ...]


def group_rows(levels: Sequence[tuple[np.ndarray, np.ndarray, int]], row_count: int) -> RowGroups:
    """Groups rows by several levels at once.

    Args:
        levels: per level the rows' `(n_rows,) int32` codes, the int32 lookup from those to member codes,
            and the count of members.
    Memory follows the smaller of the cross product and the rows, never the cross product alone.
    """
    key = np.zeros(row_count, np.int64)
    room = 1
    is_packed = False
    for codes, lookup, size in levels:
        if room * size >= _KEY_LIMIT:
            # The key would outgrow 64 bits: replace what there is by the numbers of the groups so far.
            key, found = _number(key, room, row_count)
            is_packed = True
            room = len(found)
        for rows in slices(row_count):
            kernels.push_level(key[rows], codes[rows], lookup, size)
        room *= size
    if is_packed:
        return _unpack_rows(levels, key, room, row_count)
    group, found = _number(key, room, row_count)
    return RowGroups(group, len(found), unpacked_rows(found, [size for _, _, size in levels]))


def _number(key: np.ndarray, room: int, row_count: int) -> tuple[np.ndarray, np.ndarray]:
    """Each row's group number and the ascending keys that exist, densely or by hashing."""
    if room <= max(_DENSE_FLOOR, 2 * row_count):
        seen = np.zeros(room, np.int64)
        for rows in slices(row_count):
            kernels.count_rows(key[rows], seen)
        found = np.flatnonzero(seen)
        if len(found) == room:
            return key, found
        number = np.zeros(room, np.int64)
        number[found] = np.arange(len(found))
        return _taken(number, key), found
    slots = np.full(1 << max(4, (2 * row_count - 1).bit_length()), -1, np.int64)
    group = np.empty(row_count, np.int64)
    keys = np.empty(row_count, np.int64)
    count = 0
    for rows in slices(row_count):
        count = kernels.number_keys(key[rows], slots, group[rows], keys, count)
    order = np.argsort(keys[:count])
    rank = np.empty(count, np.int64)
    rank[order] = np.arange(count)
    return _taken(rank, group), keys[:count][order]


def _taken(values: np.ndarray, rows: np.ndarray) -> np.ndarray:
    """The values at some rows."""
    found = np.empty(len(rows), values.dtype)
    for some in slices(len(rows)):
        found[some] = values[rows[some]]
    return found


def unpacked_rows(found: np.ndarray, sizes: Sequence[int]) -> tuple[np.ndarray, ...]:
    """The codes of groups, `(n,) int32` for each level, from their packed numbers."""
    codes: list[np.ndarray] = []
    rest = found
    for size in reversed(sizes):
        rest, code = np.divmod(rest, size)
        codes.append(code.astype(np.int32))
    return tuple(reversed(codes))


def _unpack_rows(
    levels: Sequence[tuple[np.ndarray, np.ndarray, int]], key: np.ndarray, room: int, row_count: int
) -> RowGroups:
    """The general way for very wide keys: a group's codes are those of its first row."""
    group, found = _number(key, room, row_count)
    first = np.empty(len(found), np.int64)
    first[group[::-1]] = np.arange(row_count - 1, -1, -1)
    codes = tuple(np.asarray(lookup[rows[first]], np.int32) for rows, lookup, _ in levels)
    order = np.lexsort(codes[::-1]) if codes else np.arange(len(found))
    rank = np.empty(len(found), np.int64)
    rank[order] = np.arange(len(found))
    return RowGroups(rank[group], len(found), tuple(each[order] for each in codes))


def places_of(keys: np.ndarray, wanted: np.ndarray, room: int) -> np.ndarray:
    """Each key's place among the ascending `wanted`, `(n,) int64`, -1 where it is not there.

    Args: `room` is above every key.
    """
    if not len(wanted):
        return np.full(len(keys), -1)
    if room <= _LOOKUP_LIMIT:
        table = np.full(room, -1)
        table[wanted] = np.arange(len(wanted))
        return np.asarray(table[keys])
    place = np.minimum(np.searchsorted(wanted, keys), len(wanted) - 1)
    return np.where(wanted[place] == keys, place, -1)


def packed_rows(rows: np.ndarray, sizes: Sequence[int]) -> np.ndarray:
    """Each row as one number, `(n,) int64`, in order of the rows. Args: `sizes` are above every code of each column."""
    if not sizes:
        return np.zeros(len(rows), np.int64)
    packed = rows[:, 0].astype(np.int64)
    for column, size in enumerate(sizes[1:], 1):
        packed *= size
        packed += rows[:, column]
    return packed


def sorted_by(keys: Sequence[np.ndarray]) -> np.ndarray:
    """What puts rows in order of the first key, then the next; `(n,) int64`. Args: `keys` are whole numbers from 0."""
    sizes = [int(each.max(initial=0)) + 1 for each in keys]
    if prod(sizes) < _KEY_LIMIT:
        return np.argsort(packed_rows(np.stack(keys, axis=1), sizes), kind="stable")
    return np.lexsort(tuple(reversed(keys)))


def find_rows(rows: np.ndarray, among: np.ndarray, sizes: Sequence[int]) -> np.ndarray:
    """Each row's place in `among`, -1 where it is not there; both `(n, k)`, the rows of `among` all different.

    Args: `sizes` are above every code of each column.
    """
    if not rows.shape[1]:
        return np.where(np.ones(len(rows), np.bool_) & (len(among) > 0), 0, -1)
    room = prod(sizes)
    if room <= max(_DENSE_FLOOR, 4 * (len(rows) + len(among))):
        place = np.full(room, -1)
        place[packed_rows(among, sizes)] = np.arange(len(among))
        return np.asarray(place[packed_rows(rows, sizes)])
    if not len(among):
        return np.full(len(rows), -1)
    if room < _KEY_LIMIT:
        keys, own_keys = packed_rows(rows, sizes), packed_rows(among, sizes)
        if bool((own_keys[1:] > own_keys[:-1]).all()):
            at = np.minimum(np.searchsorted(own_keys, keys), len(own_keys) - 1)
        else:
            order = np.argsort(own_keys)
            at = order[np.minimum(np.searchsorted(own_keys[order], keys), len(own_keys) - 1)]
        return np.where(own_keys[at] == keys, at, -1)
    state, own = np.zeros(len(rows), np.int64), np.zeros(len(among), np.int64)
    for column, size in enumerate(sizes):
        wanted, own = np.unique(own * size + among[:, column], return_inverse=True)
        room = max(len(among), 1) * size
        found = places_of(np.where(state >= 0, state * size + rows[:, column], 0), wanted, room)
        state = np.where(state >= 0, found, -1)
    back = np.full(len(among) + 1, -1)
    back[own] = np.arange(len(among))
    return np.asarray(back[state])
