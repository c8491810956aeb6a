"""Number patterns: which texts are one. Source: Unicode TR 35, number patterns."""

from __future__ import annotations

import re

MONEY = "\u00a4"
"""Stands in a pattern for the unit of money."""

_DIGITS = r"(?=[^.;]*[#0])[^#0,.;]*[#,]*[0,]*(\.0*#*)?[^#0,.;]*"
_PATTERN = re.compile(rf"{_DIGITS}(;{_DIGITS})?")


def is_number_pattern(text: str) -> bool:
    """Whether a text says how to write numbers, "#,##0.00", and perhaps how negative ones: "#,##0;(#,##0)"."""
    return _PATTERN.fullmatch(text) is not None
