"""A source that replies what is frozen."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TypeVar

import numpy as np

from dastan.core.engine.cache import covers, rolled
from dastan.core.engine.waist import (
    Conditions,
    DataSpan,
    Groups,
    LoadedDays,
    RecordPage,
    RecordsRequest,
    Request,
)
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain
from dastan.core.values import Values
from dastan.sources.frozen.recorder import NOBODYS
from dastan.sources.frozen.replies import Replies

_Asked = TypeVar("_Asked")
_Reply = TypeVar("_Reply")


class NotHeldError(InputError):
    """A question that a frozen copy does not hold the reply to."""

    code = "not-held"

    def __init__(self, what: str = "These numbers") -> None:
        super().__init__(
            f"{what} were not kept when this copy was frozen.",
            "Open, sort and turn what it shows, or go on in the live analysis.",
        )


class FrozenSource:
    """Replies what is held, and what adds up from it. Safe for threads: nothing of it ever changes.

    Raises NotHeldError for everything else.
    """

    def __init__(self, replies: Replies) -> None:
        self._replies = replies

    def group(self, request: Request) -> Groups:
        wanted = replace(request, rights=NOBODYS, along=())
        found = self._replies.groups.get(wanted)
        if found is not None:
            return found
        finer = [
            each
            for each in self._replies.groups.items()
            if self._is_known(each[0]) and covers(each[0], wanted, self.members)
        ]
        if not finer:
            raise NotHeldError
        return rolled(*min(finer, key=lambda one: len(one[1])), wanted, self.members)

    def _is_known(self, request: Request) -> bool:
        return all((each.dimension, each.hierarchy) in self._replies.members for each in request.levels)

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        return _held(self._replies.members, (dimension, hierarchy), f"The members of “{dimension}”")

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        return _held(self._replies.spans, (grain, dimension))

    def allowed_rows(self, dimension: str, condition: Conditions) -> np.ndarray:
        return _held(self._replies.allowed_rows, (dimension, condition))

    def record_count(self, grain: Grain) -> int:
        return _held(self._replies.record_counts, grain)

    def loaded_days(self, grain: Grain, time: str, condition: Conditions) -> LoadedDays | None:
        return _held(self._replies.loaded_days, (grain, time, condition))

    def days(self, dimension: str) -> np.ndarray:
        return _held(self._replies.days, dimension)

    def last_day(self, time: str, condition: Conditions) -> str | None:
        return _held(self._replies.last_days, (time, condition))

    def records(self, request: RecordsRequest) -> RecordPage:  # noqa: ARG002
        raise NotHeldError("The records")

    def record_pages(self, request: RecordsRequest) -> Iterator[RecordPage]:  # noqa: ARG002
        raise NotHeldError("The records")

    def record_values(self, request: RecordsRequest, aggregate: BaseAggregate) -> Values:  # noqa: ARG002
        raise NotHeldError("The records")

    def table_columns(self, table: str) -> tuple[str, ...]:  # noqa: ARG002
        raise NotHeldError("The records")


def _held(replies: dict[_Asked, _Reply], asked: _Asked, what: str = "These numbers") -> _Reply:
    if asked not in replies:
        raise NotHeldError(what)
    return replies[asked]
