"""Functions on numbers in arrays, against values worked out by hand: exact where they can be, empty as SQL has it."""

from __future__ import annotations

from decimal import Decimal

import numpy as np
import pytest

from dastan.core.errors import LimitError
from dastan.core.formula.functions import apply
from dastan.core.values import Values

Cell = int | float | Decimal | None


def values(*cells: Cell) -> Values:
    """Whole numbers, decimals of two digits, or floats; None is empty."""
    present = np.array([each is not None for each in cells])
    if any(isinstance(each, float) for each in cells):
        return Values(np.array([float(each or 0) for each in cells]), None, present)
    if any(isinstance(each, Decimal) for each in cells):
        return Values(np.array([int(Decimal(each or 0).scaleb(2)) for each in cells], np.int64), 2, present)
    return Values(np.array([each or 0 for each in cells], np.int64), 0, present)


def applied(name: str, *arguments: Values) -> list[Cell]:
    found = apply(name, list(arguments))
    return [found.at(at) for at in range(len(found))]


D = Decimal


@pytest.mark.parametrize(
    ("name", "arguments", "expected"),
    [
        ("abs", [(-3, 2, None)], [3, 2, None]),
        ("round", [(D("2.35"), D("-2.35"), None), (1, 1, 1)], [D("2.4"), D("-2.4"), None]),
        ("round", [(D("2.50"), D("-2.50"), D("2.49"))], [3, -3, 2]),
        ("round", [(149, 150, -150), (-2, -2, -2)], [100, 200, -200]),
        ("round", [(2.5, -2.5, 0.125), (2, 2, 2)], [2.5, -2.5, 0.13]),
        ("floor", [(D("1.50"), D("-1.50"), None)], [1, -2, None]),
        ("ceiling", [(D("1.50"), D("-1.50"), None)], [2, -1, None]),
        ("floor", [(-0.5, 0.5)], [-1.0, 0.0]),
        ("sqrt", [(9, -9, 0)], [3.0, None, 0.0]),
        ("power", [(2, 0, -8), (3, -1, 0.5)], [8.0, None, None]),
        ("ln", [(1, 0, -1)], [0.0, None, None]),
        ("exp", [(0, 10_000)], [1.0, None]),
        ("mod", [(7, -7, 7, 7), (3, 3, 0, None)], [1, -1, None, None]),
        ("mod", [(D("1.25"), D("1.25")), (1, 2)], [D("0.25"), D("1.25")]),
        ("coalesce", [(None, 1, None), (D("0.50"), 2, None)], [D("0.50"), D("1.00"), None]),
        ("nullif", [(1, 2, 3, None), (1, 3, None, 1)], [None, 2, 3, None]),
        ("least", [(1, 5, None), (D("0.50"), 7, 1)], [D("0.50"), D("5.00"), None]),
        ("greatest", [(1, 5, 2), (3, 2, None), (2, 9, 4)], [3, 9, None]),
        ("=", [(1, 1, None), (D("1.00"), D("1.01"), 1)], [1, 0, None]),
        ("<", [(1, 2), (1.5, 1.5)], [1, 0]),
        (">=", [(2, 1), (2, 2)], [1, 0]),
        ("is null", [(None, 0)], [1, 0]),
        ("not", [(1, 0, None)], [0, 1, None]),
    ],
)
def test_each_function(name: str, arguments: list[tuple[Cell, ...]], expected: list[Cell]) -> None:
    assert applied(name, *(values(*each) for each in arguments)) == expected


def test_truths_are_three_valued_as_in_sql() -> None:
    one, other = (1, 1, 1, 0, 0, None), (1, 0, None, 0, None, None)
    assert applied("and", values(*one), values(*other)) == [1, 0, None, 0, 0, None]
    assert applied("or", values(*one), values(*other)) == [1, 1, 1, 0, None, None]


def test_a_choice_takes_the_first_branch_that_holds_and_no_unknown_one() -> None:
    first, second = values(1, 0, None, 0), values(1, 1, 1, None)
    found = applied("case", first, values(10, 10, 10, 10), second, values(D("2.50"), D("2.50"), D("2.50"), D("2.50")))
    assert found == [D("10.00"), D("2.50"), D("2.50"), None]
    assert applied("case", first, values(1, 1, 1, 1), values(7, 7, 7, None)) == [1, 7, 7, None]


def test_numbers_that_cannot_be_brought_to_one_scale_are_refused_and_never_wrapped() -> None:
    huge = Values(np.array([9 * 10**17], np.int64), 0, np.ones(1, np.bool_))
    fine = Values(np.array([1], np.int64), 6, np.ones(1, np.bool_))
    with pytest.raises(LimitError, match="18 digits"):
        apply("greatest", [huge, fine])
