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


def rows_in_order(codes: np.ndarray) -> np.ndarray:
    """`(n,) uint32`: the rows in ascending order of their codes, equal ones in their own order; -1 is the least."""
    room = int(codes.max(initial=-1)) + 2
    if room > _COUNTED_LIMIT:
        return np.argsort(codes, kind="stable").astype(np.uint32)
    counts = np.bincount(codes + np.int32(1), minlength=room)
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]]).astype(np.int64)
    rows = np.empty(len(codes), np.uint32)
    kernels.order_by_code(codes, starts, rows)
    return rows
