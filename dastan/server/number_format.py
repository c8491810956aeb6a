"""A CLDR number pattern as the browser's number formatter takes it."""

from __future__ import annotations

from dataclasses import dataclass

from babel.numbers import parse_pattern


@dataclass(frozen=True, slots=True)
class NumberFormat:
    """How to write a number: digits after the point, grouping, a factor (100 for per cent), and what stands
    around it."""

    least_fraction: int
    most_fraction: int
    is_grouped: bool
    factor: int
    prefix: str
    suffix: str


def number_format(pattern: str) -> NumberFormat:
    """The parts of a pattern such as "#,##0.00" or "0.0 %". Source: Unicode TR 35, number patterns."""
    found = parse_pattern(pattern)
    prefix, suffix = found.prefix[0], found.suffix[0]
    factor = 100 if "%" in prefix + suffix else 1000 if "‰" in prefix + suffix else 1
    return NumberFormat(found.frac_prec[0], found.frac_prec[1], found.grouping[0] < 1000, factor, prefix, suffix)
