"""Lists the records behind a cell: searched, in order, a page at a time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.waist import RecordPage, RecordsRequest
from dastan.core.model.document import Dimension
from dastan.core.model.reach import Grain, reaches, way_to
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.files.columns import decimals_of, keys_of
from dastan.sources.files.tables import TableData

_Why = Literal["", "left_blank", "key_unknown"]
_BELONGS: _Why = ""
_NOWHERE: tuple[_Why, ...] = ("left_blank", "key_unknown")
"""By how far a record's row is beyond the last of a dimension."""


@dataclass(frozen=True, slots=True, eq=False)
class RecordList:
    """The records of a request, chosen, searched and in order: `rows` are their numbers, of `total`."""

    facts: CodedFacts
    request: RecordsRequest
    table: TableData
    rows: np.ndarray
    total: int

    def page(self, start: int, count: int) -> RecordPage:
        """Some of them."""
        facts, grain = self.facts, self.request.grain
        columns = tuple(dict.fromkeys((*(self.request.columns or self.table.names), *self.request.also)))
        wanted = self.rows[start : start + count]
        values = list(map(_values, _taken([self.table.column(name) for name in columns], wanted)))
        belongs: dict[str, tuple[_Why, ...]] = {}
        captions: dict[str, tuple[str, ...]] = {}
        for each, column in _pointing(facts, grain):
            own, size = facts.member_rows(grain, each)[wanted], facts.row_count(each.name)
            why = [_BELONGS] * len(own)
            for at in np.flatnonzero(own >= size).tolist():
                why[at] = _NOWHERE[int(own[at]) - size]
            belongs[each.name] = tuple(why)
            if column in columns:
                captions[column] = tuple(facts.row_captions(each)[own].tolist())
        return RecordPage(self.total, columns, tuple(zip(*values, strict=True)), belongs, len(self.rows), captions)

    def pages(self) -> Iterator[RecordPage]:
        """All of them, as many at a time as were asked for."""
        for start in range(0, len(self.rows), self.request.count):
            yield self.page(start, self.request.count)


def list_records(facts: CodedFacts, request: RecordsRequest) -> RecordList:
    """Chooses the records and puts them in order. Raises SourceError for a column that the table does not have."""
    table = facts.tables[request.grain.table]
    rows = facts.record_rows(request)
    total = len(rows)
    if request.search.strip():
        rows = rows[_holding(facts, request, table, rows)]
    if request.order is not None:
        rows = rows[_in_order(table.column(request.order), rows, request.descending)]
    return RecordList(facts, request, table, rows, total)


def _taken(columns: list[pa.ChunkedArray], rows: np.ndarray) -> list[pa.ChunkedArray]:
    """The columns' values at some rows, in their order; looked up in the chunks that hold them, never in a copy of all,
    and in one call for all columns that are cut at the same places, as most are."""
    alike: dict[tuple[int, ...], list[int]] = {}
    for place, column in enumerate(columns):
        alike.setdefault(tuple(map(len, column.chunks)), []).append(place)
    found: dict[int, pa.ChunkedArray] = {}
    for sizes, places in alike.items():
        parts = [
            pa.record_batch([columns[each].chunk(at) for each in places], [str(each) for each in places]).take(own)
            for at, own in _runs(rows, np.cumsum(sizes))
        ]
        for number, each in enumerate(places):
            found[each] = pa.chunked_array([part.column(number) for part in parts], columns[each].type)
    return [found[place] for place in range(len(columns))]


def _runs(rows: np.ndarray, ends: np.ndarray) -> Iterator[tuple[int, pa.Array]]:
    """Runs of rows in one chunk, with their places in it; rows of a table in its own order have few."""
    chunk = np.searchsorted(ends, rows, side="right")
    for first, end in pairwise([0, *(np.flatnonzero(np.diff(chunk)) + 1).tolist(), len(rows)]):
        if first < end:
            at = int(chunk[first])
            yield at, pa.array(rows[first:end] - (int(ends[at - 1]) if at else 0))


def _pointing(facts: CodedFacts, grain: Grain) -> Iterator[tuple[Dimension, str]]:
    """The dimensions that reach the records by a key, each with the column that holds it; "" where none of
    theirs does, for it is reached by another table's."""
    for each in facts.model.dimensions:
        if each.key is not None and reaches(facts.model, grain, each):
            way = way_to(facts.model, grain.table, each, dict(grain.roles)) or ()
            yield each, way[0].from_column if len(way) == 1 else ""


def _values(column: pa.ChunkedArray) -> list[object]:
    """A column as it stands in the table: decimals with all their digits, and moments with their time of day, unless
    all of them are at midnight, as days are that were kept so."""
    if pa.types.is_timestamp(column.type):
        seconds = column.cast(pa.timestamp("s", column.type.tz), safe=False)
        times = pc.strftime(seconds, "%H:%M:%S").unique().drop_null().to_pylist()
        pattern = "%Y-%m-%d" if times in ([], ["00:00:00"]) else "%Y-%m-%d %H:%M:%S"
        return list(pc.strftime(seconds, pattern).to_pylist())
    return list(decimals_of(column) if pa.types.is_decimal(column.type) else keys_of(column))


def _holding(facts: CodedFacts, request: RecordsRequest, table: TableData, rows: np.ndarray) -> np.ndarray:
    """`(n,) bool`: the records with the searched text in one of the columns, or in the name of a member they mean."""
    wanted, columns = request.search.strip(), request.columns or table.names
    held = np.zeros(len(rows), np.bool_)
    for name in columns:
        # Each different value is looked at once.
        codes, values = _coded(table.column(name), rows)
        texts = pc.cast(values, pa.string())
        holds = np.append(np.asarray(pc.match_substring(texts, wanted, ignore_case=True).fill_null(False)), False)
        held |= holds[codes]
    for each, column in _pointing(facts, request.grain):
        if column in columns:
            captions = facts.row_captions(each).tolist()
            holds = np.array([wanted.casefold() in one.casefold() for one in captions], np.bool_)
            held |= holds[facts.member_rows(request.grain, each)[rows]]
    return held


def _in_order(column: pa.ChunkedArray, rows: np.ndarray, descending: bool) -> np.ndarray:
    """The places of the records in order of a column, blanks last, equal ones as they stand in the table."""
    codes, values = _coded(column, rows)
    ranks = np.empty(len(values) + 1, np.int64)
    ranks[np.asarray(pc.sort_indices(values))] = np.arange(len(values))
    if descending:
        ranks = -ranks
    ranks[-1] = len(values)
    return np.argsort(ranks[codes], kind="stable")


def _coded(column: pa.ChunkedArray, rows: np.ndarray) -> tuple[np.ndarray, pa.Array]:
    """Some records' values by number, and each different value once; a blank has the number after the last."""
    taken = column.take(pa.array(rows)).combine_chunks()
    if pa.types.is_dictionary(taken.type):
        taken = taken.cast(taken.type.value_type)
    coded = pc.dictionary_encode(taken)
    return pc.fill_null(coded.indices, len(coded.dictionary)).to_numpy(zero_copy_only=False), coded.dictionary
