"""A summary: what a fact's records come to by the rows of some dimensions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.formula.bases import BaseAggregate
from dastan.sources.columnar.added import ADDED
from dastan.sources.columnar.scan import Summand


@dataclass(frozen=True, slots=True, eq=False)
class SummedUp:
    """What an aggregate comes to in each group of a summary: its sums with their scale, and how many records had a
    value, None where all had one. For a count of values the sums say nothing."""

    sums: Summand
    scale: int | None
    present: Summand | None


@dataclass(frozen=True, slots=True, eq=False)
class Summary:
    """A fact's records by the rows of some dimensions; everything is `(n_groups,)`."""

    rows: dict[str, np.ndarray]
    """Each group's row in a dimension, by its name."""
    counts: Summand
    sums: dict[BaseAggregate, SummedUp]
    """By sum, or by count of values where their sum is not there."""

    def __len__(self) -> int:
        return len(self.counts.data)

    def of(self, aggregate: BaseAggregate) -> SummedUp | None:
        """What is kept of an aggregate; None of one that does not add up, such as the least value."""
        if aggregate.kind not in ADDED:
            return None
        return self.sums.get(_sum_of(aggregate), self.sums.get(aggregate))

    def answers(self, dimensions: set[str], aggregates: tuple[BaseAggregate, ...]) -> bool:
        """Whether a question about these dimensions can be answered from it."""
        has_all = all(each.kind == "count" or self.of(each) is not None for each in aggregates)
        return has_all and dimensions <= self.rows.keys()


def _sum_of(aggregate: BaseAggregate) -> BaseAggregate:
    return aggregate._replace(kind="sum")
