"""How a table is set, for every file that looks as the screen does: heads that stand once over their columns, rows that
are strong or ruled, and numbers as they are written there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

from babel.numbers import format_decimal

from dastan.core.analysis.dress import Written
from dastan.core.model.pattern import MONEY
from dastan.exports.seen import SeenRow, as_written

Rule = Literal["none", "single", "double"]

PIGMENTS = ("#4b2e57", "#c98500", "#1f6f63", "#b8475a", "#3f6ea8", "#7d6248", "#d59aa6", "#8d8796")
"""The colours of series, which are the interface's own, in its order."""


@dataclass(frozen=True, slots=True)
class Tone:
    """How a row is set."""

    is_strong: bool = False
    is_italic: bool = False
    above: Rule = "none"
    below: Rule = "none"


PLAIN = Tone()
TOTAL = Tone(is_strong=True, above="single", below="double")


def tone_of(row: SeenRow, is_total: bool) -> Tone:
    """Totals, headings and outer members are strong; rows of a financial layout are as it says."""
    if is_total:
        return TOTAL
    member = row.header.member
    laid = member.row if member is not None else None
    if laid is not None:
        return Tone(laid.is_strong, False, laid.rule_above, laid.rule_below)
    is_apart = member is not None and (member.is_nowhere or member.is_others)
    return Tone(row.header.is_heading or not (row.is_innermost or row.header.indent), is_apart)


@dataclass(frozen=True, slots=True)
class Head:
    """A caption over the columns from `start` to before `end`."""

    start: int
    end: int
    caption: str


def heads_of(lines: Sequence[Sequence[str]]) -> list[list[Head]]:
    """The heads of columns, line after line: one that neighbours share, with all that stands above it, stands once."""
    found: list[list[Head]] = []
    for depth, line in enumerate(lines):
        is_last = depth == len(lines) - 1
        keys = [(*(each[at] for each in lines[: depth + 1]), at if is_last else None) for at in range(len(line))]
        found.append([Head(start, end, line[start]) for start, end in runs(keys)])
    return found


def runs(keys: Sequence[object]) -> Iterator[tuple[int, int]]:
    """From where to where, the end left out, neighbours are alike."""
    start = 0
    for _, group in groupby(keys):
        end = start + len(list(group))
        yield start, end
        start = end


def number_text(value: int | float | str, look: Written, money: str) -> str:
    """A number as its measure is written on screen.

    >>> look = Written("#,##0.00", 1, False, "")
    >>> number_text(-1234.5, look, ""), number_text(0.125, Written("0.0 %", 1, False, ""), "")
    ('−1,234.50', '12.5 %')
    """
    text = format_decimal(
        as_written(value, look), format=look.pattern.replace(MONEY, f"'{money}'" if money else ""), locale="en"
    )
    return text.replace("-", "−").strip()
