"""What a source replied: every question with its reply, for as long as a frozen copy is kept."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from dastan.core.engine.cache import covers
from dastan.core.engine.waist import Conditions, DataSpan, Groups, LoadedDays, Request
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain


@dataclass(frozen=True, slots=True, eq=False)
class Replies:
    """Replies by what was asked. Requests are kept without rights: these are the one reader's for whom it was frozen.

    A reply whose question is not there is not known; it is not the same as one that says that there is nothing.
    """

    groups: dict[Request, Groups] = field(default_factory=dict)
    members: dict[tuple[str, str], HierarchyMembers] = field(default_factory=dict)
    spans: dict[tuple[Grain, str | None], DataSpan | None] = field(default_factory=dict)
    allowed_rows: dict[tuple[str, Conditions], np.ndarray] = field(default_factory=dict)
    record_counts: dict[Grain, int] = field(default_factory=dict)
    loaded_days: dict[tuple[Grain, str, Conditions], LoadedDays | None] = field(default_factory=dict)
    days: dict[str, np.ndarray] = field(default_factory=dict)
    last_days: dict[tuple[str, Conditions], str | None] = field(default_factory=dict)

    @property
    def group_count(self) -> int:
        """How many groups are held, all requests together."""
        return sum(len(each) for each in self.groups.values())

    def without_repeats(self) -> Replies:
        """The same replies without groups that can be added up from others among them."""

        def members(dimension: str, hierarchy: str) -> HierarchyMembers:
            return self.members[dimension, hierarchy]

        left: dict[Request, Groups] = {}
        for request, groups in sorted(self.groups.items(), key=lambda one: -len(one[1])):
            if not any(covers(each, request, members) for each in left):
                left[request] = groups
        return Replies(
            left, self.members, self.spans, self.allowed_rows, self.record_counts, self.loaded_days, self.days,
            self.last_days,
        )  # fmt: skip
