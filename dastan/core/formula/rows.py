"""Row formulas: the argument of an aggregate, computed for every record.

`quantity * price`, `[Net amount] - discount`: columns by name (in square brackets where the name is not a
plain word), numbers, + - * / and parentheses. Integers and decimals stay exact through + - *; division
gives a float. Empty follows the contract: skipped in + and - unless all operands are empty; in * and /
it makes empty; division by zero is empty.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Literal

import numpy as np
from lark import Lark, Token, Transformer, UnexpectedInput, UnexpectedToken

from dastan.core.errors import FormulaError, LimitError
from dastan.core.values import Values

Operator = Literal["+", "-", "*", "/"]


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


RowFormula = ColumnRef | Number | Operation


class _Build(Transformer[Token, RowFormula]):
    def column(self, items: list[Token]) -> RowFormula:
        return ColumnRef(str(items[0]))

    def quoted_column(self, items: list[Token]) -> RowFormula:
        return ColumnRef(str(items[0]).strip())

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
        is_at_end = isinstance(exc, UnexpectedToken) and exc.token.type == "$END"
        at = len(text) if is_at_end or exc.pos_in_stream is None else exc.pos_in_stream
        what = f'"{text[at]}" is not expected here' if at < len(text) else "the formula ends too soon"
        raise FormulaError(
            f"The row formula `{text}` cannot be read: {what}, at character {at + 1}.",
            "Write columns (in [square brackets] if the name has spaces), numbers, + - * / and parentheses.",
            details={"span": [at, at + 1]},
        ) from exc


def columns_of(formula: RowFormula) -> tuple[str, ...]:
    """The columns a formula reads, each once, in order of appearance."""
    match formula:
        case ColumnRef(name):
            return (name,)
        case Number():
            return ()
        case Operation(_, left, right):
            return tuple(dict.fromkeys(columns_of(left) + columns_of(right)))


def evaluate_rows(formula: RowFormula, column: Callable[[str], Values], row_count: int) -> Values:
    """One value per record.

    Args:
        column: gives a column's `(row_count,)` values by name.
    Raises: LimitError where a whole number or decimal no longer fits 64 bits.
    """
    match formula:
        case ColumnRef(name):
            return column(name)
        case Number(digits, scale):
            return Values(np.full(row_count, digits, np.int64), scale, np.ones(row_count, np.bool_))
        case Operation(operator, left, right):
            return _operate(operator, evaluate_rows(left, column, row_count), evaluate_rows(right, column, row_count))


def _operate(operator: Operator, left: Values, right: Values) -> Values:
    if operator in "+-":
        return _add(left, right, 1 if operator == "+" else -1)
    both = left.present & right.present
    if operator == "*":
        if left.scale is not None and right.scale is not None:
            data = _exact(np.multiply, left.data, right.data, both)
            return Values(data, left.scale + right.scale, both)
        return _finite(left.as_float() * right.as_float(), both)
    divisor = right.as_float()
    both = both & (divisor != 0)
    return _finite(np.divide(left.as_float(), divisor, out=np.zeros(len(divisor)), where=both), both)


def _add(left: Values, right: Values, sign: int) -> Values:
    present = left.present | right.present
    if left.scale is None or right.scale is None:
        total = np.where(left.present, left.as_float(), 0) + sign * np.where(right.present, right.as_float(), 0)
        return _finite(total, present)
    scale = max(left.scale, right.scale)
    parts = []
    for data, own_scale, has, factor in (
        (left.data, left.scale, left.present, 1),
        (right.data, right.scale, right.present, sign),
    ):
        up = np.full(1, factor * 10 ** (scale - own_scale), np.int64)
        parts.append(_exact(np.multiply, np.where(has, data, 0), up, has))
    return Values(_exact(np.add, parts[0], parts[1], present), scale, present)


def _exact(operation: np.ufunc, left: np.ndarray, right: np.ndarray, where: np.ndarray) -> np.ndarray:
    """The 64-bit result, checked against a float estimate so that nothing wraps unseen."""
    estimate = operation(left.astype(np.float64), right.astype(np.float64))
    if np.any(np.abs(estimate[where]) > 9.2e18):
        raise LimitError(
            "A row formula gives numbers beyond 18 digits.", "Use fewer decimals, or a float column, in the formula."
        )
    result: np.ndarray = operation(left, right)
    return result


def _finite(data: np.ndarray, present: np.ndarray) -> Values:
    present = present & np.isfinite(data)
    return Values(np.where(present, data, 0.0), None, present)
