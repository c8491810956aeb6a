"""The built-in column engine: answers grouped requests from dictionary-coded columns in memory."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.waist import (
    Conditions,
    DataSpan,
    Groups,
    LoadedDays,
    RecordPage,
    RecordsRequest,
    Request,
)
from dastan.core.engine.watch import Watch
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.reach import Grain, way_to
from dastan.core.values import Values
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.fast_groups import families, fast_groups
from dastan.sources.columnar.open_groups import open_groups
from dastan.sources.columnar.plain_groups import plain_groups
from dastan.sources.columnar.record_list import list_records
from dastan.sources.columnar.summaries import summary_groups
from dastan.sources.columnar.warming import make_ready
from dastan.sources.files.columns import codes_of, keys_of


class ColumnSource(CodedFacts):
    """A source over tables in memory: coded facts, and the ways of answering, the fastest that there is."""

    is_fast = True
    """Whether block scans answer what they can; off, everything goes the plain way."""

    def warm(self, watch: Watch | None = None) -> None:
        """Makes ready what the first questions would otherwise wait for. Args: `watch` hears how far it is."""
        make_ready(self, watch or Watch())

    def group(self, request: Request) -> Groups:
        """Groups a fact's records. Raises SourceError where what is kept of them was cut short meanwhile."""
        return self.whole(lambda: self._group(request))

    def _group(self, request: Request) -> Groups:
        """Groups a fact's records: once in their own order, and once more in order of each argument of a distinct
        count or percentile, so that one pass over the groups is exact.
        """
        if any(each.kind == "open" for each in request.aggregates):
            return open_groups(self, request)
        condition = request.condition + self.rights(request.rights, request.grain)
        parts = []
        for own in (replace(request, aggregates=each) for each in families(request.aggregates)):
            parts.append((own, self._groups(own, condition)))
        if len(parts) == 1:
            return parts[0][1]
        told = [each for own, _ in parts for each in own.aggregates]
        place = [told.index(each) for each in request.aggregates]

        def together(some: Sequence[Groups]) -> Groups:
            values = [each for groups in some for each in groups.values]
            return Groups(some[0].codes, tuple(values[at] for at in place))

        all_groups = [groups for _, groups in parts]
        along = [each for each in all_groups[0].along if all(each in other.along for other in all_groups)]
        return replace(
            together(all_groups), along={each: together([one.along[each] for one in all_groups]) for each in along}
        )

    def _groups(self, request: Request, condition: Conditions) -> Groups:
        """The groups of one family of aggregates, the fastest way that there is."""
        ways = (summary_groups, fast_groups) if self.is_fast else ()
        found = (way(self, request, condition) for way in ways)
        fast = next((each for each in found if each is not None), None)
        return fast if fast is not None else plain_groups(self, request, condition)

    def span(self, grain: Grain, dimension: str | None = None) -> DataSpan | None:
        """The dates by which a calendar reaches the records."""

        def find() -> DataSpan | None:
            for each in self.model.dimensions:
                is_calendar = self.model.tables[each.table].calendar is not None
                if each.key is None or (each.name != dimension if dimension is not None else not is_calendar):
                    continue
                way = way_to(self.model, grain.table, each, dict(grain.roles))
                if way is not None and len(way) == 1:
                    ends = pc.min_max(self.tables[grain.table].column(way[0].from_column)).as_py()
                    return DataSpan(str(ends["min"])[:10], str(ends["max"])[:10]) if ends["max"] is not None else None
                if way is not None:
                    days = self.loaded_days(grain, each.name, ())
                    return DataSpan(days.first, days.last) if days is not None else None
            return None

        return self.kept.keep(("span", grain, dimension), find)

    def records(self, request: RecordsRequest) -> RecordPage:
        """The records for which the condition holds, as they stand in their table."""
        return self.whole(lambda: list_records(self, request).page(request.start, request.count))

    def record_pages(self, request: RecordsRequest) -> Iterator[RecordPage]:
        """All of the records, `count` at a time, chosen and put in order once."""
        pages = self.whole(lambda: list_records(self, request)).pages()
        while (page := self.whole(lambda: next(pages, None))) is not None:
            yield page

    def record_values(self, request: RecordsRequest, aggregate: BaseAggregate) -> Values:
        """What an aggregate is computed from, one value for each record that fulfils the condition."""
        return self.whole(lambda: self._record_values(request, aggregate))

    def _record_values(self, request: RecordsRequest, aggregate: BaseAggregate) -> Values:
        rows = self.record_rows(request)
        table = self.tables[request.grain.table]
        if aggregate.kind == "distinct":
            codes = codes_of(table.column(aggregate.argument)) if aggregate.argument in table.names else None
            if codes is not None:
                return Values(codes[rows].astype(np.int64), 0, codes[rows] >= 0)
            return self._values(table.name, aggregate.argument).take(rows)
        return self.argument_values(table.name, aggregate).take(rows)

    def loaded_days(self, grain: Grain, time: str, condition: Conditions) -> LoadedDays | None:
        """The days of a calendar for which records are loaded, whoever asks."""
        calendar = self.model.dimension(time)
        rows = self.codes(grain, calendar, None)[self.scope(grain, condition, (), None).numbers()]
        days = np.unique(rows[rows < self.row_count(time)])
        if not len(days):
            return None
        keys = sorted(
            str(each)[:10]
            for each in keys_of(self.tables[calendar.table].column(calendar.key or "").take(pa.array(days)))
        )
        return LoadedDays(keys[0], keys[-1], len(keys))

    def last_day(self, time: str, condition: Conditions) -> str | None:
        """The last day of a calendar for which conditions on it alone hold, loaded or not."""
        shown = self.days(time)[self.allowed_rows(time, condition)[:-2]]
        return str(np.datetime64(int(shown.max()), "D")) if len(shown) else None

    def table_columns(self, table: str) -> tuple[str, ...]:
        """The columns of a fact's records."""
        return self.tables[table].names
