"""Codes of members, in as few bytes as hold them."""

from __future__ import annotations

import numpy as np


def smallest_type(size: int) -> type[np.unsignedinteger]:
    """The smallest unsigned type that holds codes from 0 to `size` - 1."""
    return np.uint8 if size <= 2**8 else np.uint16 if size <= 2**16 else np.uint32
