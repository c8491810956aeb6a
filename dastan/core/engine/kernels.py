"""Compiled loops over records and groups. Each is one pass over whole arrays.

Signatures are given so that everything is compiled at set-up and then read from disk: never on a person's click. They
release the interpreter lock. `group` is always an int64 array of places in the accumulator, one per row; those that
block scans use too take its uint32 as well.
"""

from __future__ import annotations

import numpy as np
from numba import types

from dastan.core.engine.compiled import Compiled, compiled

# What a kernel reads may be frozen; what it writes may not.
_I64, _I32 = types.Array(types.int64, 1, "C", readonly=True), types.Array(types.int32, 1, "C", readonly=True)
_F64, _BOOL = types.Array(types.float64, 1, "C", readonly=True), types.Array(types.boolean, 1, "C", readonly=True)
_CODES = [_I32, *(types.Array(kind, 1, "C", readonly=True) for kind in (types.uint8, types.uint16, types.uint32))]
_PLACES = [_I64, types.Array(types.uint32, 1, "C", readonly=True)]
_TO_I64, _TO_F64, _TO_BOOL = types.int64[::1], types.float64[::1], types.boolean[::1]


@compiled([types.void(_TO_I64, each, _I32, types.int64) for each in _CODES])
def push_level(key, codes, lookup, size):  # type: ignore[no-untyped-def]
    """Appends one level to every row's mixed-radix key: key = key * size + lookup[code]."""
    for row in range(key.size):
        key[row] = key[row] * size + lookup[codes[row]]


_TAKEN = [types.void(table, place, table.copy(readonly=False)) for table in _CODES[1:] for place in _CODES[1:]]


@compiled(_TAKEN)
def take_codes(table, places, found):  # type: ignore[no-untyped-def]
    """Looks each row's place up in a table of codes."""
    for row in range(places.size):
        found[row] = table[places[row]]


@compiled([types.void(each, _TO_I64) for each in _PLACES])
def count_rows(group, counts):  # type: ignore[no-untyped-def]
    """Adds one to each row's group."""
    for row in range(group.size):
        counts[group[row]] += 1


@compiled([types.void(each, _BOOL, _TO_I64) for each in _PLACES])
def count_present(group, present, counts):  # type: ignore[no-untyped-def]
    """Adds one to each row's group where there is a value."""
    for row in range(group.size):
        counts[group[row]] += present[row]


@compiled(types.boolean(_I64, _I64, _BOOL, _TO_I64, _TO_I64))
def sum_exact(group, data, present, sums, counts):  # type: ignore[no-untyped-def]
    """Adds whole numbers and counts them; returns True if any sum left 64 bits on the way (it is then worthless)."""
    overflowed = False
    for row in range(group.size):
        if present[row]:
            at = group[row]
            counts[at] += 1
            before = sums[at]
            value = data[row]
            after = before + value
            if ((before ^ after) & (value ^ after)) < 0:
                overflowed = True
            sums[at] = after
    return overflowed


@compiled(types.void(_I64, _F64, _BOOL, _TO_F64, _TO_F64, _TO_I64))
def sum_float(group, data, present, sums, lost, counts):  # type: ignore[no-untyped-def]
    """Adds floats and counts them, keeping in `lost` what rounding drops (Neumaier 1974): order hardly matters."""
    for row in range(group.size):
        if present[row]:
            at = group[row]
            counts[at] += 1
            value = data[row]
            before = sums[at]
            after = before + value
            if abs(before) >= abs(value):
                lost[at] += (before - after) + value
            else:
                lost[at] += (value - after) + before
            sums[at] = after


def _least(group, data, present, found, best):  # type: ignore[no-untyped-def]
    for row in range(group.size):
        if present[row]:
            at = group[row]
            if not found[at] or data[row] < best[at]:
                best[at] = data[row]
                found[at] = True


def _greatest(group, data, present, found, best):  # type: ignore[no-untyped-def]
    for row in range(group.size):
        if present[row]:
            at = group[row]
            if not found[at] or data[row] > best[at]:
                best[at] = data[row]
                found[at] = True


_EXTREME = [
    types.void(_I64, _I64, _BOOL, _TO_BOOL, _TO_I64),
    types.void(_I64, _F64, _BOOL, _TO_BOOL, _TO_F64),
]
least = Compiled(_EXTREME, _least)
greatest = Compiled(_EXTREME, _greatest)


@compiled([types.void(each, _I32, _TO_I64, _TO_I64) for each in _PLACES])
def count_distinct(group, codes, last, counts):  # type: ignore[no-untyped-def]
    """Counts the different codes in each group, exactly.

    Rows come in ascending order of code, so a code is new to a group when it differs from the `last` one
    seen there. Negative codes are blanks and count for nothing.
    """
    for row in range(group.size):
        code = codes[row]
        at = group[row]
        # Without a branch: half of the rows are new, in no order that a processor could guess.
        counts[at] += (code >= 0) & (last[at] != code)
        last[at] = code


_SPREAD = 2048
"""So many places can be written to in turns without leaving a processor's cache."""


@compiled(types.void(_I32, types.int64, types.uint32[::1], types.int32[::1]))
def order_by_code(codes, room, rows, ordered):  # type: ignore[no-untyped-def]
    """Writes the rows in ascending order of their codes, which begin at -1, and the codes in that order; equal ones in
    the order they had. First by the upper bits of the codes and then within these, so that what is written lies near.

    Args: `room` is above every code plus one.
    """
    shift = 0
    while (room >> shift) >= _SPREAD:
        shift += 1
    starts = np.zeros((room >> shift) + 2, np.int64)
    for row in range(codes.size):
        starts[((codes[row] + 1) >> shift) + 1] += 1
    starts = np.cumsum(starts)
    heads = starts.copy()
    near_rows, near_codes = np.empty(codes.size, np.uint32), np.empty(codes.size, np.int32)
    for row in range(codes.size):
        part = (codes[row] + 1) >> shift
        at = heads[part]
        near_rows[at] = row
        near_codes[at] = codes[row]
        heads[part] = at + 1
    own = np.zeros((1 << shift) + 1, np.int64)
    for part in range(starts.size - 1):
        first, end = starts[part], starts[part + 1]
        lowest = (part << shift) - 1
        own[:] = 0
        for at in range(first, end):
            own[near_codes[at] - lowest + 1] += 1
        own[0] = first
        for each in range(1, own.size):
            own[each] += own[each - 1]
        for at in range(first, end):
            code = near_codes[at]
            to = own[code - lowest]
            rows[to] = near_rows[at]
            ordered[to] = code
            own[code - lowest] = to + 1


@compiled(types.void(_I64, _F64, _I64, _TO_I64, _TO_F64))
def pick_ranked(group, data, wanted, seen, picked):  # type: ignore[no-untyped-def]
    """Picks each group's value of rank `wanted` (0 is the least). Rows come in ascending order of value."""
    for row in range(group.size):
        at = group[row]
        if seen[at] == wanted[at]:
            picked[at] = data[row]
        seen[at] += 1


@compiled(types.int64(_I64, _TO_I64, _TO_I64, _TO_I64, types.int64))
def number_keys(key, slots, group, found, count):  # type: ignore[no-untyped-def]
    """Numbers the different keys in order of appearance, by a hash table with open addressing.

    Args:
        slots: all -1; a power of two, at least twice as long as there can be keys.
        group: receives each row's number.
        found: receives the keys by number.
        count: how many there are already.
    Returns: how many there are then.
    """
    mask = slots.size - 1
    for row in range(key.size):
        value = key[row]
        mixed = np.uint64(value) * np.uint64(0x9E3779B97F4A7C15)
        slot = np.int64(mixed >> np.uint64(20)) & mask
        while slots[slot] >= 0 and found[slots[slot]] != value:
            slot = (slot + 1) & mask
        if slots[slot] < 0:
            slots[slot] = count
            found[count] = value
            count += 1
        group[row] = slots[slot]
    return count
