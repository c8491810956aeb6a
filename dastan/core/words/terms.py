"""The words that a sentence is written in and read by, and how names stand among them."""

from __future__ import annotations

import re

from dastan.core.formula.names import quoted
from dastan.core.model.conditions import Unit
from dastan.core.model.members import fold

AGGREGATES = {
    "sum": "sum of", "average": "average of", "min": "least", "max": "greatest", "median": "median of",
    "percentile": "percentile of", "count_values": "count of", "distinct": "different values of",
    "variance": "variance of", "deviation": "deviation of", "first": "first", "last": "last",
}  # fmt: skip
OPERATORS = {
    "equal": "is", "not_equal": "is not", "less": "is less than", "at_most": "is at most", "more": "is more than",
    "at_least": "is at least", "between": "is between", "contains": "contains", "begins_with": "begins with",
    "ends_with": "ends with",
}  # fmt: skip
UNITS: dict[str, Unit] = {
    "financial quarter": "financial_quarter", "financial year": "financial_year", "day": "day", "week": "week",
    "month": "month", "quarter": "quarter", "year": "year",
}  # fmt: skip
_PLAIN = re.compile(r"[^\W\d_][\w'’%/&.-]*( [\w'’%/&.-]+)*|\d[\w/-]*")
_RESERVED_WORDS = """
and or by against then for without where at of as in is the every below asked ready list showing only under with totals
over measures on rows columns outside row column total hide empty asks answering not ordered subtotals passing either
both from
"""
_RESERVED = frozenset(_RESERVED_WORDS.split())


def as_name(caption: str) -> str:
    """A name as it is written: in quotes where it is not plain words, or holds one that says something else."""
    is_plain = bool(_PLAIN.fullmatch(caption)) and not _RESERVED & set(fold(caption).split())
    return caption if is_plain else quoted(caption)


def technical(name: str) -> str:
    """A technical name where something else may be called so."""
    return f"#{quoted(name)}"
