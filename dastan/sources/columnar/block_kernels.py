"""Compiled loops over one block of records at a time, small enough to stay near the processor.

A question is composed of them: choose the rows of a block, make their keys, add them up. Signatures are given, so
that everything is compiled at set-up and then read from disk. They release the interpreter lock.

`key` is uint32, a place in the accumulators for each chosen row. `chosen` is uint32, rows within the block, ascending;
the kernels whose names end in `at` look only at these. Codes are of the smallest unsigned type that holds them.
"""

from __future__ import annotations

import numpy as np
from numba import njit, types

from dastan.core.engine.compiled import compiled

_CODES = [types.Array(kind, 1, "C", readonly=True) for kind in (types.uint8, types.uint16, types.uint32)]
_U32, _TO_U32 = types.Array(types.uint32, 1, "C", readonly=True), types.uint32[::1]
_I32_2D = types.Array(types.int32, 2, "C", readonly=True)
_TO_U64 = types.uint64[::1]
_I64, _TO_I64 = types.Array(types.int64, 1, "C", readonly=True), types.int64[::1]
_F64, _TO_F64 = types.Array(types.float64, 1, "C", readonly=True), types.float64[::1]
_BOOL = types.Array(types.boolean, 1, "C", readonly=True)
_WHOLE = [types.Array(kind, 1, "C", readonly=True) for kind in (types.int8, types.int16, types.int32, types.int64)]


@compiled([types.void(_TO_U32, each) for each in _CODES])
def set_key(key, codes):  # type: ignore[no-untyped-def]
    """Begins every row's key with its code at a level."""
    for row in range(codes.size):
        key[row] = codes[row]


@compiled([types.void(_TO_U32, each, types.uint32) for each in _CODES])
def push_key(key, codes, size):  # type: ignore[no-untyped-def]
    """Appends a level of `size` members to every row's mixed-radix key."""
    for row in range(codes.size):
        key[row] = key[row] * size + codes[row]


@compiled([types.void(_TO_U32, each, _U32) for each in _CODES])
def set_key_at(key, codes, chosen):  # type: ignore[no-untyped-def]
    """Begins the keys of the chosen rows."""
    for place in range(chosen.size):
        key[place] = codes[chosen[place]]


@compiled([types.void(_TO_U32, each, _U32, types.uint32) for each in _CODES])
def push_key_at(key, codes, chosen, size):  # type: ignore[no-untyped-def]
    """Appends a level to the keys of the chosen rows."""
    for place in range(chosen.size):
        key[place] = key[place] * size + codes[chosen[place]]


@compiled(types.void(_U32, _BOOL, _U32, _TO_I64))
def count_present_at(key, present, chosen, counts):  # type: ignore[no-untyped-def]
    """Adds one to each chosen row's group where it has a value."""
    for place in range(key.size):
        counts[key[place]] += present[chosen[place]]


@compiled([types.void(_U32, each, types.int64, _TO_I64) for each in _WHOLE])
def add_whole(key, data, more, sums):  # type: ignore[no-untyped-def]
    """Adds whole numbers, and `more` with each of them, of which it is known that nothing is lost. Missing ones are
    zero."""
    for row in range(key.size):
        sums[key[row]] += data[row] + more


@compiled([types.void(_U32, each, _U32, types.int64, _TO_I64) for each in _WHOLE])
def add_whole_at(key, data, chosen, more, sums):  # type: ignore[no-untyped-def]
    """The same for the chosen rows."""
    for place in range(key.size):
        sums[key[place]] += data[chosen[place]] + more


@njit(inline="always")
def _add_float(sums, lost, at, value):  # type: ignore[no-untyped-def]
    before = sums[at]
    after = before + value
    if abs(before) >= abs(value):
        lost[at] += (before - after) + value
    else:
        lost[at] += (value - after) + before
    sums[at] = after


@compiled(types.void(_U32, _F64, _TO_F64))
def add_float(key, data, sums):  # type: ignore[no-untyped-def]
    """Adds the floats of a block. Missing ones are zero."""
    for row in range(key.size):
        sums[key[row]] += data[row]


@compiled(types.void(_U32, _F64, _U32, _TO_F64))
def add_float_at(key, data, chosen, sums):  # type: ignore[no-untyped-def]
    """The same for the chosen rows."""
    for place in range(key.size):
        sums[key[place]] += data[chosen[place]]


@compiled(types.void(_TO_F64, _TO_F64, _TO_F64))
def fold_floats(block, sums, lost):  # type: ignore[no-untyped-def]
    """Adds a block's sums to those before and clears them, keeping in `lost` what rounding drops (Neumaier 1974)."""
    for at in range(block.size):
        _add_float(sums, lost, at, block[at])
        block[at] = 0.0


@compiled(types.void(_U32, _F64, _TO_F64, _TO_F64))
def add_float_carefully(key, data, sums, lost):  # type: ignore[no-untyped-def]
    """Adds floats one by one, keeping what rounding drops: for groups too many to fold after every block."""
    for row in range(key.size):
        _add_float(sums, lost, key[row], data[row])


@compiled(types.void(_U32, _F64, _U32, _TO_F64, _TO_F64))
def add_float_carefully_at(key, data, chosen, sums, lost):  # type: ignore[no-untyped-def]
    """The same for the chosen rows."""
    for place in range(key.size):
        _add_float(sums, lost, key[place], data[chosen[place]])


_BYTES = types.Array(types.uint8, 1, "C", readonly=True)
_CHUNK = 4096
_LOW, _HALF = np.uint64((1 << 32) - 1), np.uint64(32)


@njit(inline="always")
def _put_key(key, codes, size, is_first):  # type: ignore[no-untyped-def]
    if is_first:
        for row in range(codes.size):
            key[row] = codes[row]
    else:
        for row in range(codes.size):
            key[row] = key[row] * size + codes[row]


@njit(inline="always")
def _put(key, codes, width, start, end, size, is_first):  # type: ignore[no-untyped-def]
    if width == 1:
        _put_key(key, codes[start:end], size, is_first)
    elif width == 2:
        _put_key(key, codes[2 * start : 2 * end].view(np.uint16), size, is_first)
    else:
        _put_key(key, codes[4 * start : 4 * end].view(np.uint32), size, is_first)


@njit(inline="always")
def _keyed(buffer, levels, codes, widths, sizes, start, stop):  # type: ignore[no-untyped-def]
    key = buffer[: stop - start]
    for level in range(levels):
        _put(key, codes[level], widths[level], start, stop, sizes[level], level == 0)
    return key


@njit(inline="always")
def _add(key, data, more, sums):  # type: ignore[no-untyped-def]
    for row in range(data.size):
        sums[key[row]] += data[row] + more


@njit(inline="always")
def _add_numbers(key, data, width, start, stop, more, sums):  # type: ignore[no-untyped-def]
    if width == 1:
        _add(key, data[start:stop].view(np.int8), more, sums)
    elif width == 2:
        _add(key, data[2 * start : 2 * stop].view(np.int16), more, sums)
    elif width == 4:
        _add(key, data[4 * start : 4 * stop].view(np.int32), more, sums)
    elif width == 8:
        _add(key, data[8 * start : 8 * stop].view(np.int64), more, sums)
    else:
        floats, added = data[8 * start : 8 * stop].view(np.float64), sums.view(np.float64)
        for row in range(floats.size):
            added[key[row]] += floats[row]


@njit(inline="always")
def _put_key_at(key, codes, chosen, size, is_first):  # type: ignore[no-untyped-def]
    if is_first:
        for place in range(chosen.size):
            key[place] = codes[chosen[place]]
    else:
        for place in range(chosen.size):
            key[place] = key[place] * size + codes[chosen[place]]


@njit(inline="always")
def _keyed_at(buffer, levels, codes, widths, sizes, first, end, chosen):  # type: ignore[no-untyped-def]
    key = buffer[: chosen.size]
    for level in range(levels):
        own, size, is_first = codes[level], sizes[level], level == 0
        if widths[level] == 1:
            _put_key_at(key, own[first:end], chosen, size, is_first)
        elif widths[level] == 2:
            _put_key_at(key, own[2 * first : 2 * end].view(np.uint16), chosen, size, is_first)
        else:
            _put_key_at(key, own[4 * first : 4 * end].view(np.uint32), chosen, size, is_first)
    return key


@njit(inline="always")
def _add_at(key, data, chosen, more, sums):  # type: ignore[no-untyped-def]
    for place in range(chosen.size):
        sums[key[place]] += data[chosen[place]] + more


@njit(inline="always")
def _add_numbers_at(key, data, width, first, end, chosen, more, sums):  # type: ignore[no-untyped-def]
    if width == 1:
        _add_at(key, data[first:end].view(np.int8), chosen, more, sums)
    elif width == 2:
        _add_at(key, data[2 * first : 2 * end].view(np.int16), chosen, more, sums)
    elif width == 4:
        _add_at(key, data[4 * first : 4 * end].view(np.int32), chosen, more, sums)
    elif width == 8:
        _add_at(key, data[8 * first : 8 * end].view(np.int64), chosen, more, sums)
    else:
        _add_at(key, data[8 * first : 8 * end].view(np.float64), chosen, 0.0, sums.view(np.float64))


_THREE = types.UniTuple(_BYTES, 3)
_THREE_NUMBERS = types.UniTuple(types.uint32, 3)
_FOUR, _FOUR_NUMBERS = types.UniTuple(_BYTES, 4), types.UniTuple(types.int64, 4)
_TO_FOUR = types.UniTuple(_TO_I64, 4)


@compiled(
    types.void(
        types.int64, types.int64, types.int64, _THREE, _THREE_NUMBERS, _THREE_NUMBERS, types.int64, _FOUR,
        _FOUR_NUMBERS, _FOUR_NUMBERS, _FOUR, _TO_FOUR, _TO_FOUR, _TO_I64,
    ),
)  # fmt: skip
def add_run(  # type: ignore[no-untyped-def]
    first, end, levels, codes, widths, sizes, summands, data, kinds, more, has, sums, present, counts
):
    """Keys, counts and adds up the records from `first` to `end`, a few thousand at a time, in one call.

    Args:
        codes: of up to three levels, as bytes, with the width of each code.
        data: up to four summands as bytes: whole numbers of so many bytes, floats of kind 0, whose `sums` are floats
            seen as whole numbers. With each whole number `more` is added. Missing ones are zero.
        has: for each summand, one byte a record: whether it has a value; counted where `present` has room.
        counts: of records; not counted without room.
    """
    buffer = np.zeros(_CHUNK, np.uint32)
    for start in range(first, end, _CHUNK):
        stop = min(start + _CHUNK, end)
        key = _keyed(buffer, levels, codes, widths, sizes, start, stop)
        if counts.size:
            for row in range(key.size):
                counts[key[row]] += 1
        for at in range(summands):
            _add_numbers(key, data[at], kinds[at], start, stop, more[at], sums[at])
            if present[at].size:
                _add(key, has[at][start:stop], 0, present[at])


@compiled(
    types.void(
        types.int64, types.int64, _U32, types.int64, _THREE, _THREE_NUMBERS, _THREE_NUMBERS, types.int64, _FOUR,
        _FOUR_NUMBERS, _FOUR_NUMBERS, _FOUR, _TO_FOUR, _TO_FOUR, _TO_I64,
    ),
)  # fmt: skip
def add_run_at(  # type: ignore[no-untyped-def]
    first, end, chosen, levels, codes, widths, sizes, summands, data, kinds, more, has, sums, present, counts
):
    """The same for the chosen records, counted from `first`."""
    buffer = np.zeros(_CHUNK, np.uint32)
    for place in range(0, chosen.size, _CHUNK):
        some = chosen[place : place + _CHUNK]
        key = _keyed_at(buffer, levels, codes, widths, sizes, first, end, some)
        if counts.size:
            for row in range(key.size):
                counts[key[row]] += 1
        for at in range(summands):
            _add_numbers_at(key, data[at], kinds[at], first, end, some, more[at], sums[at])
            if present[at].size:
                _add_at(key, has[at][first:end], some, 0, present[at])


@compiled(types.void(_U32, _TO_I64, _TO_U32))
def post_records(key, heads, records):  # type: ignore[no-untyped-def]
    """Writes each record where its group's next one goes, which `heads` are moved on to."""
    for row in range(key.size):
        at = heads[key[row]]
        records[at] = row
        heads[key[row]] = at + 1


_NUMBERS = [*((each, _TO_I64) for each in _WHOLE), (_F64, _TO_F64)]


@compiled([types.void(_U32, data, _BOOL, best, best) for data, best in _NUMBERS])
def keep_ends(key, data, present, least, greatest):  # type: ignore[no-untyped-def]
    """Keeps each group's least and greatest value. Args: `present` says which values are there; without room, all."""
    if present.size == 0:
        for row in range(key.size):
            least[key[row]] = min(least[key[row]], data[row])
            greatest[key[row]] = max(greatest[key[row]], data[row])
    else:
        for row in range(key.size):
            if present[row]:
                least[key[row]] = min(least[key[row]], data[row])
                greatest[key[row]] = max(greatest[key[row]], data[row])


@compiled([types.void(_U32, each, _TO_I64) for each in _WHOLE])
def add_whole_squares(key, data, squares):  # type: ignore[no-untyped-def]
    """Adds up the squares of whole numbers, exactly. Missing ones are zero."""
    for row in range(key.size):
        value = types.int64(data[row])
        squares[key[row]] += value * value


@compiled(types.void(_U32, _F64, _BOOL, _F64, _TO_F64, _TO_F64))
def add_squares(key, data, present, mean, squares, lost):  # type: ignore[no-untyped-def]
    """Adds up how far each value lies from its group's mean, squared."""
    for row in range(key.size):
        if present.size == 0 or present[row]:
            away = data[row] - mean[key[row]]
            _add_float(squares, lost, key[row], away * away)


@compiled(types.void(_U32, types.int64, _U32, _I64, _I64, _TO_I64, _TO_I64, _TO_I64))
def pick_places(key, first, chosen, low, high, seen, at_low, at_high):  # type: ignore[no-untyped-def]
    """Writes where each group's records of two ranks stand. Records come in order; `seen` counts a group's so far.

    Args: `first` is the place of the block; `chosen` the rows of it that the keys are of, none named for all.
    """
    is_chosen = chosen.size > 0
    for row in range(key.size):
        own = key[row]
        rank = seen[own]
        if rank == low[own]:
            at_low[own] = first + (chosen[row] if is_chosen else row)
        if rank == high[own]:
            at_high[own] = first + (chosen[row] if is_chosen else row)
        seen[own] = rank + 1


@compiled(types.int64(_I64, _U32, _I64, types.int64, types.int64, _TO_U32))
def gather_postings(starts, records, groups, first, end, found):  # type: ignore[no-untyped-def]
    """Writes the records of some groups from `first` to before `end`; returns how many. Those of a group ascend, and
    are from its place in `starts` to before the next."""
    count = 0
    for at in range(groups.size):
        own = records[starts[groups[at]] : starts[groups[at] + 1]]
        low, high = 0, own.size
        while low < high:
            middle = (low + high) // 2
            if own[middle] < first:
                low = middle + 1
            else:
                high = middle
        while low < own.size and own[low] < end:
            found[count] = own[low]
            count += 1
            low += 1
    return count


@njit(inline="always")
def _marked(mark, code):  # type: ignore[no-untyped-def]
    # Without a branch: half of the codes are new, in no order that a processor could guess.
    return code | ((mark & _LOW) + np.uint64((mark ^ code) > _LOW))


@njit(inline="always")
def _mark(key, codes, places, marks, total):  # type: ignore[no-untyped-def]
    for row in range(codes.size):
        at = key[row]
        marks[at] = _marked(marks[at], np.uint64(codes[row]) << _HALF)
    for grain in range(places.shape[0]):
        place = places[grain]
        for row in range(codes.size):
            at = place[key[row]]
            marks[at] = _marked(marks[at], np.uint64(codes[row]) << _HALF)
    if total >= 0:
        mark = marks[total]
        for row in range(codes.size):
            mark = _marked(mark, np.uint64(codes[row]) << _HALF)
        marks[total] = mark


@compiled(types.void(_U32, _U32, _I32_2D, _TO_U64, types.int64))
def mark_keys(key, counted, places, marks, total):  # type: ignore[no-untyped-def]
    """Counts the different codes of each group, and of coarser ones at the same time. Codes ascend, so that one is new
    to a group when it is not the last there.

    Args:
        places: for each possible key the place of its group at each coarser grain, `(n_grains, room)`.
        marks: for each place its last code, in the upper 32 bits, and how many different ones there were; those of the
            keys themselves come first.
        total: the place of one group of all rows; below zero for none.
    """
    _mark(key, counted, places, marks, total)


@compiled(
    types.void(
        types.int64, types.int64, _U32, types.boolean, types.int64, _THREE, _THREE_NUMBERS, _THREE_NUMBERS, _U32,
        _I32_2D, _TO_U64, types.int64,
    ),
)  # fmt: skip
def mark_run(  # type: ignore[no-untyped-def]
    first, end, chosen, is_all, levels, codes, widths, sizes, counted, places, marks, total
):
    """The same for the records from `first` to `end`, all or the chosen ones, counted from `first`; keyed a few
    thousand at a time, in one call.

    Args: `codes` of up to three levels, as bytes, with the width of each code; `counted` ascend.
    """
    buffer, own = np.zeros(_CHUNK, np.uint32), np.zeros(_CHUNK, np.uint32)
    if is_all:
        for start in range(first, end, _CHUNK):
            stop = min(start + _CHUNK, end)
            key = _keyed(buffer, levels, codes, widths, sizes, start, stop)
            _mark(key, counted[start:stop], places, marks, total)
    else:
        for place in range(0, chosen.size, _CHUNK):
            some = chosen[place : place + _CHUNK]
            key = _keyed_at(buffer, levels, codes, widths, sizes, first, end, some)
            for row in range(some.size):
                own[row] = counted[first + some[row]]
            _mark(key, own[: some.size], places, marks, total)


@compiled(types.int64(_I64, types.int64, _I32_2D, types.int32[:, ::1], _TO_I64, _TO_I64))
def unpack_groups(both, shift, outer, codes, counts, sums):  # type: ignore[no-untyped-def]
    """Writes the codes of the groups that have records, their counts, which are in the bits from `shift` on, and the
    sums that carry them; returns how many. Without branches: each place is written, and kept by moving on.

    Args: `outer` are the codes of all levels but the last, `(n_levels - 1, n)`, for each run of the last one's codes.
    """
    found, half, low = 0, 1 << (shift - 1), (1 << shift) - 1
    inner, last = both.size // outer.shape[1], codes.shape[0] - 1
    for run in range(outer.shape[1]):
        for code in range(inner):
            value = both[run * inner + code]
            own = ((value + half) & low) - half
            sums[found] = own
            counts[found] = (value - own) >> shift
            for level in range(last):
                codes[level, found] = outer[level, run]
            if last >= 0:
                codes[last, found] = code
            found += value != 0
    return found


@compiled([types.void(types.Array(types.uint8, 1, "C"), each, types.uint32, types.uint32) for each in _CODES])
def keep_range(mask, codes, low, width):  # type: ignore[no-untyped-def]
    """Clears the mask of rows whose code is not among the `width` + 1 codes from `low` on."""
    for row in range(codes.size):
        mask[row] &= np.uint32(codes[row] - low) <= width


@compiled([types.int64(_TO_U32, each, _BOOL) for each in _CODES])
def choose(chosen, codes, allowed):  # type: ignore[no-untyped-def]
    """Chooses the rows of a block whose code is allowed; returns how many. Without branches: each row is written,
    and kept by moving on."""
    count = 0
    for row in range(codes.size):
        chosen[count] = row
        count += allowed[codes[row]]
    return count


@compiled([types.int64(_TO_U32, types.int64, each, _BOOL) for each in _CODES])
def choose_among(chosen, size, codes, allowed):  # type: ignore[no-untyped-def]
    """Of the first `size` rows chosen, keeps those whose code is allowed; returns how many."""
    count = 0
    for place in range(size):
        row = chosen[place]
        chosen[count] = row
        count += allowed[codes[row]]
    return count


@compiled(types.int64(types.Array(types.uint8, 1, "C"), types.int64, _TO_U32))
def choose_marked(mask, size, chosen):  # type: ignore[no-untyped-def]
    """Chooses the marked ones of the first `size` rows; returns how many. The mask is a multiple of eight long, and
    clear behind them."""
    count = 0
    words = mask.view(np.uint64)
    for word in range((size + 7) // 8):
        if words[word]:
            for row in range(8 * word, 8 * word + 8):
                chosen[count] = row
                count += mask[row]
    return count
