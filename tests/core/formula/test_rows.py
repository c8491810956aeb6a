"""Row formulas: formula to values, or to an error with its place."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from dastan.core.errors import FormulaError, LimitError
from dastan.core.formula.rows import columns_of, evaluate_rows, parse_rows
from dastan.core.values import Values

COLUMNS = {
    "quantity": Values(np.array([3, 0, 2, 4]), 0, np.array([True, True, False, True])),
    "price": Values(np.array([125, 10, 99, 200]), 2, np.array([True, True, True, False])),
    "rate": Values(np.array([0.5, 2.0, 1.0, 0.0]), None, np.array([True, True, True, True])),
    "Net amount": Values(np.array([1, 2, 3, 4]), 0, np.ones(4, np.bool_)),
    "huge": Values(np.full(4, 10**18), 0, np.ones(4, np.bool_)),
}


@pytest.mark.parametrize(
    ("formula", "values"),
    [
        ("quantity", [3, 0, None, 4]),
        ("quantity * price", ["3.75", "0.00", None, None]),
        ("quantity + price", ["4.25", "0.10", "0.99", "4.00"]),
        ("quantity - 1.5", ["1.5", "-1.5", "-1.5", "2.5"]),
        ("-quantity", [-3, 0, None, -4]),
        ("2 + 3 * quantity", [11, 2, 2, 14]),
        ("(2 + 3) * quantity", [15, 0, None, 20]),
        ('"Net amount" / rate', [2.0, 1.0, 3.0, None]),
        ('"Net amount" / 0', [None, None, None, None]),
        ("10 - 2 - 3", [5, 5, 5, 5]),
    ],
)
def test_formulas_follow_the_contract_of_empty_and_exact(formula: str, values: list[Any]) -> None:
    found = evaluate_rows(parse_rows(formula), COLUMNS.__getitem__, 4)
    assert [None if (value := found.at(row)) is None else value for row in range(4)] == [
        None if each is None else type(found.at(row))(each)  # type: ignore[misc]
        for row, each in enumerate(values)
    ]


@pytest.mark.parametrize(
    ("formula", "at"), [("quantity *", 10), ("* quantity", 0), ("a b", 2), ("(a", 2), ("a; b", 1), ("", 0)]
)
def test_what_cannot_be_read_is_pointed_at(formula: str, at: int) -> None:
    with pytest.raises(FormulaError) as caught:
        parse_rows(formula)
    assert caught.value.details["span"][0] == at


def test_columns_are_listed_once_in_order() -> None:
    assert columns_of(parse_rows('price * "Net amount" + price - 1')) == ("price", "Net amount")


def test_a_product_beyond_64_bits_is_refused() -> None:
    with pytest.raises(LimitError):
        evaluate_rows(parse_rows("huge * huge"), COLUMNS.__getitem__, 4)
