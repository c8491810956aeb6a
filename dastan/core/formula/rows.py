"""Row formulas: the argument of an aggregate, computed for every record.

`quantity * price`, `"Net amount" - discount`: columns by name (in double quotes where the name is not a
plain word), numbers, + - * / and parentheses. Integers and decimals stay exact through + - *; division
gives a float. Empty follows the contract: skipped in + and - unless all operands are empty; in * and /
it makes empty; division by zero is empty. What says more than arithmetic, `case when quantity > 3 then price end`, is
in the language of columns.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from lark import Lark, Token, Transformer, UnexpectedInput, UnexpectedToken

from dastan.core.errors import FormulaError
from dastan.core.formula.arithmetic import Operator, operate
from dastan.core.formula.columns import columns_named, parse_column
from dastan.core.values import Values


@dataclass(frozen=True, slots=True)
class ColumnRef:
    name: str


@dataclass(frozen=True, slots=True)
class Number:
    """An exact number: `digits` / 10**scale."""

    digits: int
    scale: int


@dataclass(frozen=True, slots=True)
class Operation:
    operator: Operator
    left: RowFormula
    right: RowFormula


@dataclass(frozen=True, slots=True)
class WorkedOut:
    """More than arithmetic: a formula in the language of columns, as it is written. Who reads the records works it
    out."""

    text: str


RowFormula = ColumnRef | Number | Operation | WorkedOut


class _Build(Transformer[Token, RowFormula]):
    def column(self, items: list[Token]) -> RowFormula:
        return ColumnRef(str(items[0]))

    def quoted_column(self, items: list[Token]) -> RowFormula:
        return ColumnRef(str(items[0])[1:-1].replace('""', '"'))

    def number(self, items: list[Token]) -> RowFormula:
        whole, _, fraction = str(items[0]).partition(".")
        return Number(int(whole + fraction), len(fraction))

    def negate(self, items: list[RowFormula]) -> RowFormula:
        return Operation("*", Number(-1, 0), items[0])

    def add(self, items: list[RowFormula]) -> RowFormula:
        return Operation("+", items[0], items[1])

    def subtract(self, items: list[RowFormula]) -> RowFormula:
        return Operation("-", items[0], items[1])

    def multiply(self, items: list[RowFormula]) -> RowFormula:
        return Operation("*", items[0], items[1])

    def divide(self, items: list[RowFormula]) -> RowFormula:
        return Operation("/", items[0], items[1])


_GRAMMAR = Lark(
    (Path(__file__).parent / "rows.lark").read_text(encoding="utf-8"), parser="lalr", propagate_positions=True
)


MOST_CHARACTERS, MOST_OPERATIONS = 2_000, 200
"""A row formula is worked out operation by operation, one inside the other."""


@lru_cache(maxsize=1024)
def parse_rows(text: str) -> RowFormula:
    """The formula that `text` writes. Raises FormulaError with the place of what cannot be read."""
    if len(text) > MOST_CHARACTERS or sum(map(text.count, "+-*/(")) > MOST_OPERATIONS:
        raise FormulaError(
            f"The row formula `{text[:60]}…` has {len(text):,} characters; {MOST_CHARACTERS:,} and {MOST_OPERATIONS} "
            "operations are the most.",
            "Work a part of it out as a column of the table.",
            details={"span": [0, len(text)]},
        )
    try:
        return _Build().transform(_GRAMMAR.parse(text))
    except UnexpectedInput as exc:
        further = _further(text)
        if isinstance(further, WorkedOut):
            return further
        is_at_end = isinstance(exc, UnexpectedToken) and exc.token.type == "$END"
        at = len(text) if is_at_end or exc.pos_in_stream is None else exc.pos_in_stream
        if further.details["span"][0] > at:
            raise further from exc  # it says more than arithmetic does, and goes wrong later
        what = f"“{text[at]}” is not expected here" if at < len(text) else "the formula ends too soon"
        raise FormulaError(
            f"The row formula `{text}` cannot be read: {what}, at character {at + 1}.",
            "Write columns (in double quotes if the name has spaces), numbers, + - * / and parentheses.",
            details={"span": [at, at + 1]},
        ) from exc


def _further(text: str) -> WorkedOut | FormulaError:
    """A text in the language of columns; what is wrong with it where it is not in that either."""
    try:
        parse_column(text)
    except FormulaError as error:
        return error
    return WorkedOut(text)


def columns_of(formula: RowFormula) -> tuple[str, ...]:
    """The columns a formula reads, each once, in order of appearance."""
    match formula:
        case ColumnRef(name):
            return (name,)
        case Number():
            return ()
        case WorkedOut(text):
            return tuple(dict.fromkeys(each.name for each in columns_named(parse_column(text)) if each.of is None))
        case Operation(_, left, right):
            return tuple(dict.fromkeys(columns_of(left) + columns_of(right)))


def evaluate_rows(formula: RowFormula, column: Callable[[str], Values], row_count: int) -> Values:
    """One value per record.

    Args:
        column: gives a column's `(row_count,)` values by name, and those of what is worked out by its text.
    Raises: LimitError where a whole number or decimal no longer fits 64 bits.
    """
    match formula:
        case ColumnRef(name) | WorkedOut(name):
            return column(name)
        case Number(digits, scale):
            return Values(np.full(row_count, digits, np.int64), scale, np.ones(row_count, np.bool_))
        case Operation(operator, left, right):
            own, other = (evaluate_rows(each, column, row_count) for each in (left, right))
            return operate(operator, own, other)
