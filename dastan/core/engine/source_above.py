"""A source that stands above another: what an analysis makes of members, no source needs to know."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dastan.core.engine.aggregates import COUNT
from dastan.core.engine.waist import (
    Conditions,
    DataSpan,
    Groups,
    LoadedDays,
    RecordPage,
    RecordsRequest,
    Request,
    Source,
)
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain
from dastan.core.values import Values, joined


@dataclass(frozen=True, slots=True, eq=False)
class SourceAbove(ABC):
    """Passes on what is asked of `source`, told in members that it knows. Args: `ask` answers requests to it."""

    source: Source
    ask: Callable[[Request], Groups]

    @abstractmethod
    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """The source's members with those that are made here."""

    @abstractmethod
    def group(self, request: Request) -> Groups:
        """The groups of a request that may name members which are made here."""

    @abstractmethod
    def told(self, condition: Conditions) -> Conditions:
        """Conditions on records in members that the source knows."""

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        return self.source.span(grain, dimension)

    def allowed_rows(self, dimension: str, condition: Conditions) -> np.ndarray:
        return self.source.allowed_rows(dimension, self.told(condition))

    def record_count(self, grain: Grain) -> int:
        return self.source.record_count(grain)

    def records(self, request: RecordsRequest) -> RecordPage:
        return self.source.records(replace(request, condition=self.told(request.condition)))

    def record_pages(self, request: RecordsRequest) -> Iterator[RecordPage]:
        return self.source.record_pages(replace(request, condition=self.told(request.condition)))

    def record_values(self, request: RecordsRequest, aggregate: BaseAggregate) -> Values:
        return self.source.record_values(replace(request, condition=self.told(request.condition)), aggregate)

    def loaded_days(self, grain: Grain, time: str, condition: Conditions) -> LoadedDays | None:
        return self.source.loaded_days(grain, time, self.told(condition))

    def days(self, dimension: str) -> np.ndarray:
        return self.source.days(dimension)

    def last_day(self, time: str, condition: Conditions) -> str | None:
        return self.source.last_day(time, self.told(condition))

    def table_columns(self, table: str) -> tuple[str, ...]:
        return self.source.table_columns(table)


def with_records(request: Request, group: Callable[[Request], Groups]) -> Groups:
    """The groups that have any records. Without levels there is one even of no record; a count tells."""
    if request.levels or request.aggregates[0].kind == "open":
        return group(request)
    counts = COUNT not in request.aggregates
    aggregates = (*request.aggregates, COUNT) if counts else request.aggregates
    found = group(replace(request, aggregates=aggregates))
    has = np.flatnonzero(found.values[aggregates.index(COUNT)].data > 0)
    return Groups((), tuple(each.take(has) for each in found.values[: len(request.aggregates)]))


def no_groups(request: Request) -> Groups:
    """The groups of a request for which no record is there."""
    nothing = Values(np.empty(0, np.int64), 0, np.empty(0, np.bool_))
    return Groups((np.empty(0, np.int32),) * len(request.levels), (nothing,) * len(request.aggregates))


def one_after_another(parts: Sequence[Groups]) -> Groups:
    """Groups of different codes together, in ascending order of these."""
    codes = [np.concatenate(own) for own in zip(*(each.codes for each in parts), strict=True)]
    order = np.lexsort(codes[::-1])
    values = [joined(own) for own in zip(*(each.values for each in parts), strict=True)]
    return Groups(tuple(each[order] for each in codes), tuple(each.take(order) for each in values))
