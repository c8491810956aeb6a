"""Numbers in arrays added, multiplied and divided: exact where they can be, and empty as the contract says.

In + and − what is empty is skipped, unless all is; in × and ÷ it makes empty, and so does a division by zero.
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from dastan.core.errors import LimitError
from dastan.core.values import Values

Operator = Literal["+", "-", "*", "/"]


def operate(operator: Operator, left: Values, right: Values) -> Values:
    """Values joined by an operator, place by place. Raises LimitError where an exact result does not fit 64 bits."""
    match operator:
        case "+":
            return added(left, right)
        case "-":
            return added(left, right, -1)
        case "*":
            return multiplied(left, right)
        case "/":
            return divided(left, right)


def added(left: Values, right: Values, sign: int = 1) -> Values:
    """A sum, or with a `sign` of -1 a difference. Raises LimitError where an exact one does not fit 64 bits."""
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


def multiplied(left: Values, right: Values) -> Values:
    """A product. Raises LimitError where an exact one does not fit 64 bits."""
    both = left.present & right.present
    if left.scale is not None and right.scale is not None:
        return Values(_exact(np.multiply, left.data, right.data, both), left.scale + right.scale, both)
    return _finite(left.as_float() * right.as_float(), both)


def divided(left: Values, right: Values) -> Values:
    """A quotient, as a float."""
    divisor = right.as_float()
    both = left.present & right.present & (divisor != 0)
    return _finite(np.divide(left.as_float(), divisor, out=np.zeros(len(divisor)), where=both), both)


def _exact(operation: np.ufunc, left: np.ndarray, right: np.ndarray, where: np.ndarray) -> np.ndarray:
    """The 64-bit result, checked against a float estimate so that nothing wraps unseen."""
    estimate = operation(left.astype(np.float64), right.astype(np.float64))
    if np.any(np.abs(estimate[where]) > 9.2e18):
        raise LimitError(
            "A formula gives numbers beyond 18 digits.",
            "Use fewer decimals, or a float column, in the formula, or narrow the question.",
        )
    result: np.ndarray = operation(left, right)
    return result


def _finite(data: np.ndarray, present: np.ndarray) -> Values:
    present = present & np.isfinite(data)
    return Values(np.where(present, data, 0.0), None, present)
