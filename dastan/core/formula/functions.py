"""Functions, comparisons and choices on numbers in arrays, as standard SQL has them: empty is unknown.

A truth is 1 or 0; where it is unknown it is empty. So `and`, `or` and `not` follow SQL's three values, and a choice
takes a branch only where its truth is known and holds.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from dastan.core.errors import LimitError
from dastan.core.values import Values, empty_values

COMPARISONS = ("=", "<>", "<", "<=", ">", ">=")
_MOST_DIGITS = 9.2e18
_MOST_PLACES = 9


class Function(NamedTuple):
    """A function of numbers: how many it takes, and what it gives."""

    least: int
    most: int
    compute: Callable[..., Values]


def apply(name: str, values: list[Values]) -> Values:
    """A function's values, place by place. Raises LimitError where an exact result does not fit 64 bits."""
    return FUNCTIONS[name].compute(*values)


def _absolute(of: Values) -> Values:
    return Values(np.abs(of.data), of.scale, of.present)


def _rounded(of: Values, places: Values | None = None) -> Values:
    """To so many digits after the point, halves away from zero; exact numbers stay exact."""
    wanted = 0 if places is None or not len(places.data) else int(places.as_float()[0])
    wanted = max(-_MOST_PLACES, min(_MOST_PLACES, wanted))
    if of.scale is None:
        scaled = of.data * 10.0**wanted
        return _float(np.sign(scaled) * np.floor(np.abs(scaled) + 0.5) / 10.0**wanted, of.present)
    if wanted >= of.scale:
        return of
    step = 10 ** (of.scale - wanted)
    whole = np.sign(of.data) * ((np.abs(of.data) + step // 2) // step)
    if wanted < 0:
        return Values(whole * 10**-wanted, 0, of.present)
    return Values(whole, wanted, of.present)


def _floor(of: Values) -> Values:
    return _whole(of, np.floor, lambda data, step: data // step)


def _ceiling(of: Values) -> Values:
    return _whole(of, np.ceil, lambda data, step: -(-data // step))


def _whole(
    of: Values, on_floats: Callable[[np.ndarray], np.ndarray], on_exact: Callable[[np.ndarray, int], np.ndarray]
) -> Values:
    if of.scale is None:
        return _float(on_floats(of.data), of.present)
    return Values(on_exact(of.data, 10**of.scale), 0, of.present)


def _root(of: Values) -> Values:
    own = of.as_float()
    return _float(np.sqrt(np.where(own >= 0, own, 0)), of.present & (own >= 0))


def _power(base: Values, exponent: Values) -> Values:
    with np.errstate(all="ignore"):
        return _float(np.power(base.as_float(), exponent.as_float()), base.present & exponent.present)


def _logarithm(of: Values) -> Values:
    own = of.as_float()
    return _float(np.log(np.where(own > 0, own, 1)), of.present & (own > 0))


def _exponential(of: Values) -> Values:
    with np.errstate(over="ignore"):
        return _float(np.exp(of.as_float()), of.present)


def _remainder(of: Values, by: Values) -> Values:
    """What a division leaves, with the sign of what is divided."""
    left, right, scale = _alike(of, by)
    has = of.present & by.present & (right != 0)
    found = np.fmod(left, np.where(right == 0, 1, right))
    return Values(found, scale, has) if scale is not None else _float(found, has)


def _first_present(*values: Values) -> Values:
    found = values[0]
    for each in values[1:]:
        found = _merged(found.present, found, each, found.present | each.present)
    return found


def _unless_equal(of: Values, other: Values) -> Values:
    same = _comparison("=")(of, other)
    return Values(of.data, of.scale, of.present & ~(same.present & (same.data != 0)))


def _extreme(takes: Callable[[np.ndarray, np.ndarray], np.ndarray]) -> Callable[..., Values]:
    """The least or greatest; empty where any is, as in standard SQL."""

    def compute(*values: Values) -> Values:
        found = values[0]
        for each in values[1:]:
            left, right, scale = _alike(found, each)
            found = Values(takes(left, right), scale, found.present & each.present)
        return found

    return compute


def _comparison(operator: str) -> Callable[[Values, Values], Values]:
    test = {
        "=": np.equal, "<>": np.not_equal, "<": np.less, "<=": np.less_equal, ">": np.greater, ">=": np.greater_equal,
    }[operator]  # fmt: skip

    def compute(left: Values, right: Values) -> Values:
        own, other, _ = _alike(left, right)
        return Values(test(own, other).astype(np.int64), 0, left.present & right.present)

    return compute


def _both(*values: Values) -> Values:
    no = np.logical_or.reduce([each.present & (each.data == 0) for each in values])
    known = np.logical_and.reduce([each.present for each in values])
    return Values((~no).astype(np.int64), 0, known | no)


def _either(*values: Values) -> Values:
    yes = np.logical_or.reduce([each.present & (each.data != 0) for each in values])
    known = np.logical_and.reduce([each.present for each in values])
    return Values(yes.astype(np.int64), 0, known | yes)


def _opposite(of: Values) -> Values:
    return Values((of.data == 0).astype(np.int64), 0, of.present)


def _is_null(of: Values) -> Values:
    return Values((~of.present).astype(np.int64), 0, np.ones(len(of), np.bool_))


def _chosen(*values: Values) -> Values:
    """Truths and values in turn; one more at the end is taken where no truth holds."""
    size = len(values[0])
    pairs = list(zip(values[0::2], values[1::2], strict=False))
    found = values[-1] if len(values) % 2 else empty_values(size, 0)
    for truth, own in reversed(pairs):
        holds = truth.present & (truth.data != 0)
        found = _merged(holds, own, found, np.where(holds, own.present, found.present))
    return found


def _merged(takes_first: np.ndarray, first: Values, second: Values, present: np.ndarray) -> Values:
    one, other, scale = _alike(first, second)
    return Values(np.where(takes_first, one, other), scale, present)


def _alike(first: Values, second: Values) -> tuple[np.ndarray, np.ndarray, int | None]:
    """Two kinds of numbers as one: exact with the finer scale of both, or floats."""
    if first.scale is None or second.scale is None:
        return first.as_float(), second.as_float(), None
    scale = max(first.scale, second.scale)
    found = []
    for each in (first, second):
        factor = 10 ** (scale - (each.scale or 0))
        own = np.where(each.present, each.data, 0)
        if factor > 1 and np.any(np.abs(own.astype(np.float64)) * factor > _MOST_DIGITS):
            raise LimitError(
                "A formula compares numbers beyond 18 digits.", "Round them first, or narrow the question."
            )
        found.append(own * np.int64(factor))
    return found[0], found[1], scale


def _float(data: np.ndarray, present: np.ndarray) -> Values:
    has = present & np.isfinite(data)
    return Values(np.where(has, data, 0.0), None, has)


FUNCTIONS: dict[str, Function] = {
    "abs": Function(1, 1, _absolute),
    "round": Function(1, 2, _rounded),
    "floor": Function(1, 1, _floor),
    "ceiling": Function(1, 1, _ceiling),
    "sqrt": Function(1, 1, _root),
    "power": Function(2, 2, _power),
    "ln": Function(1, 1, _logarithm),
    "exp": Function(1, 1, _exponential),
    "mod": Function(2, 2, _remainder),
    "coalesce": Function(2, 20, _first_present),
    "nullif": Function(2, 2, _unless_equal),
    "least": Function(2, 20, _extreme(np.minimum)),
    "greatest": Function(2, 20, _extreme(np.maximum)),
    **{each: Function(2, 2, _comparison(each)) for each in COMPARISONS},
    "and": Function(2, 200, _both),
    "or": Function(2, 200, _either),
    "not": Function(1, 1, _opposite),
    "is null": Function(1, 1, _is_null),
    "case": Function(2, 200, _chosen),
}
"""All that can be applied to numbers, by the name that standard SQL has for it."""
