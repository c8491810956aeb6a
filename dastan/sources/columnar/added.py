"""What is counted and added up, and what it comes to in each group."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from dastan.core.engine.aggregates import too_large
from dastan.core.formula.bases import BaseAggregate
from dastan.core.values import Values

ADDED = ("count", "count_values", "sum")


def added_up(aggregates: Iterable[BaseAggregate]) -> list[BaseAggregate]:
    """Those of which something has to be added up: a count of values comes along with their sum."""
    sums = {each: each._replace(kind="sum") for each in aggregates if each.kind in ADDED and each.kind != "count"}
    return [each for each, own in sums.items() if each == own or own not in sums]


def counted(counts: np.ndarray) -> Values:
    """How many there are in each group that has records."""
    return Values(counts, 0, np.ones(len(counts), np.bool_))


def summed(aggregate: BaseAggregate, sums: np.ndarray, scale: int | None, present: np.ndarray) -> Values:
    """Sums, empty where `present`, the count of values, is 0. Raises LimitError where a float left all bounds."""
    if scale is None and not np.all(np.isfinite(sums)):
        raise too_large(f"“{aggregate.argument}”")
    return Values(sums, scale, present > 0)
