"""The narrow waist: what the engine asks of a source, and what it gets.

Everything above is the same for every source; a source implements `Source` and nothing else.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.model.document import MemberPath
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain
from dastan.core.values import Values


@dataclass(frozen=True, slots=True)
class LevelRef:
    """One level of one hierarchy, to group by."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True)
class MemberSet:
    """Records whose dimension lies below one of the members; or, where not `is_kept`, below none."""

    dimension: str
    hierarchy: str
    members: tuple[MemberPath, ...]
    is_kept: bool


Condition = tuple[MemberSet, ...]
"""Every member set holds: they are joined by *and*."""


@dataclass(frozen=True, slots=True)
class Rights:
    """Who is asking, and the records that this person may see. There is no request without."""

    reader: str
    rows: Condition = ()


@dataclass(frozen=True, slots=True)
class Request:
    """One grouped request: one fact, the levels to group by, what to compute, and over which records."""

    grain: Grain
    levels: tuple[LevelRef, ...]
    aggregates: tuple[BaseAggregate, ...]
    condition: Condition
    rights: Rights


@dataclass(frozen=True, slots=True, eq=False)
class Groups:
    """One row per group that has records, in ascending order of its codes.

    `codes` holds one `(n_groups,) int32` array of member codes per level of the request, `values` one
    `Values` per aggregate. Without levels there is one group, or none when no record is in scope.
    """

    codes: tuple[np.ndarray, ...]
    values: tuple[Values, ...]

    def __len__(self) -> int:
        if self.codes:
            return len(self.codes[0])
        return len(self.values[0]) if self.values else 0


class Source(Protocol):
    """Where rows come from."""

    def group(self, request: Request) -> Groups:
        """Groups the records. Raises LimitError when an exact sum does not fit."""
        ...

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """All members of a hierarchy with levels."""
        ...

    def newest(self, grain: Grain) -> str | None:
        """The newest date of a fact's records as ISO text, where the fact is dated."""
        ...
