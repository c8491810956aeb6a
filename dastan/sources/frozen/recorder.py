"""A source as one reader sees it, which remembers what it replied."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from dastan.core.engine.seen import Seen
from dastan.core.engine.waist import (
    Conditions,
    DataSpan,
    Groups,
    LoadedDays,
    RecordPage,
    RecordsRequest,
    Request,
    Rights,
    Source,
)
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.document import SemanticModel
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain
from dastan.core.values import Values
from dastan.sources.frozen.replies import Replies

NOBODYS = Rights("")
"""The rights of a request to a source that is one reader's: they are in the source."""


class Recorder:
    """Replies as a source does to one reader, whose rights are put into every request. Used by one thread.

    Args: `group` answers requests, as a cache does.
    """

    def __init__(
        self, model: SemanticModel, source: Source, rights: Rights, group: Callable[[Request], Groups]
    ) -> None:
        self._source = source
        self._rights = rights
        self._group = group
        self._seen = Seen(model, source, rights, group)
        self.replies = Replies()

    def group(self, request: Request) -> Groups:
        groups = self._group(replace(request, rights=self._rights))
        self.replies.groups[replace(request, rights=NOBODYS, along=())] = replace(groups, along={})
        return groups

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        own = dimension, hierarchy
        if own not in self.replies.members:
            self.replies.members[own] = self._seen.members(*own)
        return self.replies.members[own]

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        found = self.replies.spans[grain, dimension] = self._seen.span(grain, dimension)
        return found

    def allowed_rows(self, dimension: str, condition: Conditions) -> np.ndarray:
        found = self.replies.allowed_rows[dimension, condition] = self._seen.allowed_rows(dimension, condition)
        return found

    def record_count(self, grain: Grain) -> int:
        found = self.replies.record_counts[grain] = self._seen.record_count(grain)
        return found

    def loaded_days(self, grain: Grain, time: str, condition: Conditions) -> LoadedDays | None:
        found = self._source.loaded_days(grain, time, condition)
        self.replies.loaded_days[grain, time, condition] = found
        return found

    def days(self, dimension: str) -> np.ndarray:
        found = self.replies.days[dimension] = self._source.days(dimension)
        return found

    def last_day(self, time: str, condition: Conditions) -> str | None:
        found = self.replies.last_days[time, condition] = self._source.last_day(time, condition)
        return found

    def records(self, request: RecordsRequest) -> RecordPage:
        return self._source.records(replace(request, rights=self._rights))

    def record_pages(self, request: RecordsRequest) -> Iterator[RecordPage]:
        return self._source.record_pages(replace(request, rights=self._rights))

    def record_values(self, request: RecordsRequest, aggregate: BaseAggregate) -> Values:
        return self._source.record_values(replace(request, rights=self._rights), aggregate)

    def table_columns(self, table: str) -> tuple[str, ...]:
        return self._source.table_columns(table)
