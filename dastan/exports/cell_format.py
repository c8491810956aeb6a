"""How a spreadsheet writes numbers: its number formats (ISO/IEC 29500-1, 18.8.31) from the model's patterns."""

from __future__ import annotations

from decimal import Decimal
from functools import cache
from math import isfinite

from dastan.core.analysis.dress import Written
from dastan.exports.number_format import number_format

THOUSAND = 1_000
PER_MILLE = 1_000
_EXACT_DIGITS = 15
"""So many digits a spreadsheet's numbers hold."""


@cache
def cell_format(look: Written, money: str) -> str:
    """The number format: scaled by commas, so that a cell keeps its whole number.

    >>> cell_format(Written("#,##0.00;(#,##0.00)", 1000, False, ""), "")
    '#,##0.00,;"("#,##0.00,")"'
    >>> cell_format(Written("0.0 %", 1, False, ""), "")
    '0.0" "%;"−"0.0" "%'
    """
    found = number_format(look.pattern, money=money)
    # Where digits that are not needed are left out, a point would stand alone.
    digits = ("#,##0" if found.is_grouped else "0") + ("." + "0" * found.most_fraction if found.most_fraction else "")
    commas, divisor = "", look.divisor
    while divisor >= THOUSAND:
        commas, divisor = commas + ",", divisor // THOUSAND
    positive = f"{_quoted(found.prefix)}{digits}{commas}{_quoted(found.suffix)}"
    below = found.negative_prefix.replace("-", "−")
    return f"{positive};{_quoted(below)}{digits}{commas}{_quoted(found.negative_suffix)}"


def cell_value(value: int | float | str, look: Written) -> int | float | str:
    """What a cell holds of a number: itself with its sign turned where that is asked; its digits as text where the
    spreadsheet's numbers would lose some."""
    number = Decimal(value) if isinstance(value, str) else value
    number = -number if look.is_turned and number else number
    return held_number(number * PER_MILLE if "‰" in look.pattern else number)


def held_number(number: int | float | Decimal) -> int | float | str:
    """A number as a cell holds it; its digits as text where it has more than a cell keeps."""
    if isinstance(number, float):
        return number if isfinite(number) else str(number)
    exact = Decimal(number).normalize()
    if len(exact.as_tuple().digits) > _EXACT_DIGITS:
        return format(exact, "f")
    return int(exact) if exact == exact.to_integral_value() else float(exact)


def _quoted(text: str) -> str:
    """What stands around digits: as it is, but for the sign of per cent, which counts."""
    parts = [f'"{each}"' if each else "" for each in text.replace('"', "″").split("%")]
    return "%".join(parts)
