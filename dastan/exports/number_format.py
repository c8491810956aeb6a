"""A CLDR number pattern as the browser's number formatter takes it."""

from __future__ import annotations

from dataclasses import dataclass

from babel.numbers import parse_pattern

from dastan.core.model.pattern import MONEY


@dataclass(frozen=True, slots=True)
class NumberFormat:
    """How to write a number: digits after the point, grouping, a factor (100 for per cent; a thousandth for
    thousands; negative where the sign is turned), and what stands around it, or around it where it is negative."""

    least_fraction: int
    most_fraction: int
    is_grouped: bool
    factor: float
    prefix: str
    suffix: str
    negative_prefix: str
    negative_suffix: str


def number_format(pattern: str, divisor: int = 1, is_turned: bool = False, money: str = "") -> NumberFormat:
    """The parts of a pattern such as "#,##0.00", "0.0 %" or "#,##0;(#,##0)". Source: Unicode TR 35, number patterns.

    Args: `divisor` is what numbers are divided by first, 1,000 for thousands; `is_turned` whether their sign is turned;
        `money` the unit that stands where the pattern has its sign of money.
    """
    found = parse_pattern(pattern)
    (prefix, negative_prefix), (suffix, negative_suffix) = (
        [each.replace(MONEY, money) for each in side] for side in (found.prefix, found.suffix)
    )
    factor = 100 if "%" in prefix + suffix else 1000 if "‰" in prefix + suffix else 1
    sign = -1 if is_turned else 1
    return NumberFormat(
        found.frac_prec[0], found.frac_prec[1], found.grouping[0] < 1000, sign * factor / divisor, prefix, suffix,
        negative_prefix, negative_suffix,
    )  # fmt: skip
