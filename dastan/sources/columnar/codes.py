"""Codes of members, in as few bytes as hold them."""

from __future__ import annotations

import numpy as np

from dastan.core.engine import kernels
from dastan.core.values import Values

_COUNTED_LIMIT = 1 << 27
"""Up to so many different codes, rows are put in order by counting them."""


def smallest_type(size: int) -> type[np.unsignedinteger]:
    """The smallest unsigned type that holds codes from 0 to `size` - 1."""
    return np.uint8 if size <= 2**8 else np.uint16 if size <= 2**16 else np.uint32


def taken(table: np.ndarray, places: np.ndarray) -> np.ndarray:
    """A table's code for each place, in the table's type; several times as fast as by an index. Both are unsigned, of
    four bytes at most, and no place is beyond the table."""
    found = np.empty(len(places), table.dtype)
    kernels.take_codes(table, places, found)
    return found


def ascending_codes(values: Values) -> np.ndarray:
    """`(n,) int32`: equal values have equal codes, larger ones larger codes, missing ones -1."""
    codes = np.full(len(values), -1, np.int32)
    own = values.data[values.present]
    if not len(own):
        return codes
    least, greatest = own.min(), own.max()
    if values.scale is not None and int(greatest) - int(least) < min(_COUNTED_LIMIT, 8 * len(own) + 1024):
        codes[values.present] = own - least  # whole numbers near one another are codes themselves
    else:
        codes[values.present] = np.unique(own, return_inverse=True)[1]
    return codes


def in_order(codes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Codes from -1 on in ascending order, `(n,) int32`, and the rows that have them, `(n,) uint32`; equal ones in the
    order of their rows."""
    room = int(codes.max(initial=-1)) + 2
    if room > _COUNTED_LIMIT:
        rows = np.argsort(codes, kind="stable").astype(np.uint32)
        return codes[rows], rows
    rows, ordered = np.empty(len(codes), np.uint32), np.empty(len(codes), np.int32)
    kernels.order_by_code(codes, room, rows, ordered)
    return ordered, rows
