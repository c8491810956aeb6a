"""What a reader sees of a source beyond the groups: members, the newest day, how many records there are.

A source tells these of everything it has. Whoever may not see all of it must not learn of the rest by them, so they
are told here as far as the reader's rights go. Of a dimension with rows of its own, members are hidden by what the
rights say of that dimension; a dimension made of a fact's own columns is there by the fact's records alone, and only
the members of such records as may be seen are seen.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.aggregates import COUNT
from dastan.core.engine.joints import JoinedSource
from dastan.core.engine.waist import Conditions, DataSpan, Groups, LevelRef, Request, Rights, Source
from dastan.core.model.document import Dimension, SemanticModel
from dastan.core.model.financial_layouts import layout_of
from dastan.core.model.joints import own_members
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import Grain, grain_of, reaches, shown_hierarchies


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """A source as one reader sees it. Args: `group` answers requests, as a cache does that outlives the question."""

    model: SemanticModel
    source: Source
    rights: Rights
    group: Callable[[Request], Groups]

    @property
    def is_all(self) -> bool:
        """Whether every record is seen."""
        return not self.rights.rules

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers:
        """A hierarchy's members, as many as may be seen."""
        members = self.source.members(dimension, hierarchy)
        if self.is_all or layout_of(members) is not None:
            return members  # what the rows of a layout are called is no secret
        found = self.model.dimension(dimension)
        if found.key is None:
            return members.seen_at(self._codes_of_records(found, members))
        about = self._about(dimension)
        return members.seen_by(self.source.allowed_rows(dimension, about)) if about else members

    def allowed_rows(self, dimension: str, condition: Conditions) -> np.ndarray:
        """`(n_rows + 2,) bool`: a dimension's rows for which conditions on it alone, and the rights on it, hold."""
        allowed = self.source.allowed_rows(dimension, condition)
        return np.asarray(allowed & self.source.allowed_rows(dimension, self._about(dimension)))

    def _about(self, dimension: str) -> Conditions:
        """The rights on a dimension's own rows: about records, whichever member these are looked at through."""
        about = self.rights.about(dimension)
        return self.source.of_records(about) if isinstance(self.source, JoinedSource) else about

    def record_count(self, grain: Grain) -> int:
        """How many records of a fact there are."""
        if self.is_all:
            return self.source.record_count(grain)
        groups = self.group(Request(grain, (), (COUNT,), (), self.rights))
        return int(groups.values[0].data[0]) if len(groups) else 0

    def newest(self, grain: Grain, dimension: str | None = None) -> str | None:
        """The newest day of a fact's records as ISO text: by that calendar, or by the first that reaches it."""
        span = self.span(grain, dimension)
        return span.last if span is not None else None

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        """The days of a fact's records: by that calendar, or by the first that reaches it."""
        if self.is_all:
            return self.source.span(grain, dimension)
        for each in self.model.dimensions:
            is_wanted = each.name == dimension if dimension else self.model.tables[each.table].calendar is not None
            if each.key is not None and is_wanted and reaches(self.model, grain, each):
                return self._span_by(grain, each)
        return None

    def _span_by(self, grain: Grain, calendar: Dimension) -> DataSpan | None:
        by_day = {each.name for each in calendar.attributes if each.key == calendar.key}
        finest = [each for each in shown_hierarchies(calendar) if each.levels[-1] in by_day and not each.is_list]
        if not finest:
            days = self.source.loaded_days(grain, calendar.name, self._conditions(grain))
            return DataSpan(days.first, days.last) if days is not None else None
        level = LevelRef(calendar.name, finest[0].name, finest[0].levels[-1])
        groups = self.group(Request(grain, (level,), (COUNT,), (), self.rights))
        keys = own_members(self.source.members(calendar.name, finest[0].name)).levels[-1].keys
        codes = groups.codes[0][groups.codes[0] < len(keys)]
        dates = [str(key)[:10] for code in codes.tolist() if (key := keys[code]) is not None]
        return DataSpan(min(dates), max(dates)) if dates else None

    def _conditions(self, grain: Grain) -> Conditions:
        return self.rights.conditions(lambda name: reaches(self.model, grain, self.model.dimension(name)))

    def _codes_of_records(self, dimension: Dimension, members: HierarchyMembers) -> np.ndarray:
        """The codes at the finest level of the members of records that may be seen, counted by any of its grains."""
        grains = {grain_of(each) for each in self.model.measures if each.table == dimension.table}
        level = LevelRef(dimension.name, members.hierarchy, members.levels[-1].name)
        found = [
            self.group(Request(grain, (level,), (COUNT,), (), self.rights))
            for grain in grains or {Grain(dimension.table)}
        ]
        return np.unique(np.concatenate([each.codes[0][each.values[0].data > 0] for each in found]))
