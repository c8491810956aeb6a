"""Codes put in order, the rows with them."""

from __future__ import annotations

import numpy as np
import pytest

from dastan.core.values import Values
from dastan.sources.columnar import codes as codes_module
from dastan.sources.columnar.codes import ascending_codes, in_order


def test_equal_codes_keep_the_order_of_their_rows_and_blanks_come_first() -> None:
    ordered, rows = in_order(np.array([2, -1, 0, 2, -1, 1], np.int32))
    assert ordered.tolist() == [-1, -1, 0, 1, 2, 2]
    assert rows.tolist() == [1, 4, 2, 5, 0, 3]


@pytest.mark.parametrize("most", [1, 2046, 2047, 2048, 70_000, 5_000_000])
def test_many_codes_are_in_the_order_of_a_stable_sort(most: int) -> None:
    codes = (np.random.default_rng(most).random(3_000) ** 2 * most).astype(np.int32) - 1
    ordered, rows = in_order(codes)
    expected = np.argsort(codes, kind="stable")
    assert rows.tolist() == expected.tolist()
    assert ordered.tolist() == codes[expected].tolist()


def test_codes_too_many_to_count_are_sorted(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(codes_module, "_COUNTED_LIMIT", 2)
    ordered, rows = in_order(np.array([5, 0, -1, 5], np.int32))
    assert (ordered.tolist(), rows.tolist()) == ([-1, 0, 5, 5], [2, 1, 0, 3])


def test_codes_ascend_with_the_values() -> None:
    values = Values(np.array([30, 10, 0, 10], np.int64), 0, np.array([True, True, False, True]))
    found = ascending_codes(values)
    assert found[2] == -1
    assert found[1] == found[3] < found[0]
