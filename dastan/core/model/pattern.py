"""Number patterns: which texts are one. Source: Unicode TR 35, number patterns."""

from __future__ import annotations

import re

MONEY = "\u00a4"
"""Stands in a pattern for the unit of money."""

LONGEST = 60
"""No pattern is longer: what stands around a number is a word or two."""

# Each part begins with a sign that the one before it cannot hold, so that there is one way to read a text: what is read
# is never read again. A lone comma belongs to the digits.
_DIGITS = r"[^#0,.;]*(?:#[#,]*(?:0[0,]*)?|0[0,]*)(?:\.0*#*)?[^#0,.;]*"
_PATTERN = re.compile(rf"{_DIGITS}(;{_DIGITS})?")


def is_number_pattern(text: str) -> bool:
    """Whether a text says how to write numbers, "#,##0.00", and perhaps how negative ones: "#,##0;(#,##0)"."""
    return len(text) <= LONGEST and _PATTERN.fullmatch(text) is not None
