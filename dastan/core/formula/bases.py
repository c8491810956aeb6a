"""What a formula stands on: aggregates over the records of a scope, each asked of a source."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from typing import Literal, NamedTuple

BaseKind = Literal[
    "count", "count_values", "sum", "min", "max", "distinct", "percentile", "variance", "balance", "open", "dated"
]

_ROLLING = ("count", "count_values", "sum", "min", "max")


class BaseAggregate(NamedTuple):
    """One aggregate over the rows of a group; `argument` is a row formula's text, "" for `count`.

    `fraction` is a percentile's, 0 to 1; `time` and `over_time` are a balance's and a dated value's; of what is
    open, `argument` is the column of the first day and `ended` that of the last. `part` takes the amounts on one
    side of zero alone; `given` counts a record only where that row formula has a value.
    """

    kind: BaseKind
    argument: str = ""
    fraction: float = 0.0
    time: str = ""
    ended: str = ""
    over_time: Literal["last", "first", "average"] = "last"
    part: Literal["", "debit", "credit"] = ""
    given: str = ""

    @property
    def rolls_up(self) -> bool:
        """Whether a coarser group's value follows from those of the finer groups in it."""
        return self.kind in _ROLLING


@dataclass(frozen=True, slots=True)
class Counted:
    """The records that a base counts: of one table, reached by a set of roles, under conditions of its measure's own.

    What is open at a date is asked for `alone`: it exists in periods in which nothing began. What is `placed` holds
    besides wherever a table stands by its dimension.
    """

    table: str
    roles: tuple[tuple[str, str], ...] = ()
    where: tuple[Hashable, ...] = ()
    alone: str = ""
    placed: tuple[Hashable, ...] = ()
