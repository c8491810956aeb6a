"""Lists the records behind a cell: searched, in order, a page at a time."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.waist import RecordPage, RecordsRequest
from dastan.core.model.reach import reaches, relationship_for
from dastan.sources.columns import keys_of
from dastan.sources.tables import TableData

if TYPE_CHECKING:
    from dastan.sources.column_source import ColumnSource


def list_records(source: ColumnSource, request: RecordsRequest) -> RecordPage:
    """A page of records. Raises SourceError for a column that the table does not have."""
    table = source.tables[request.grain.table]
    rows = source.record_rows(request)
    total = len(rows)
    columns = request.columns or table.names
    if request.search.strip():
        rows = rows[_holding(source, request, table, columns, rows)]
    if request.order is not None:
        rows = rows[_in_order(table.column(request.order), rows, request.descending)]
    wanted = rows[request.start : request.start + request.count]
    values = [_values(table.column(name).take(pa.array(wanted))) for name in columns]
    belongs: dict[str, tuple[Literal["", "left_blank", "key_unknown"], ...]] = {}
    captions: dict[str, tuple[str, ...]] = {}
    for each in source.model.dimensions:
        if each.key is not None and reaches(source.model, request.grain, each):
            own, size = source.member_rows(request.grain, each)[wanted], source.row_count(each.name)
            belongs[each.name] = tuple(
                "left_blank" if row == size else "key_unknown" if row == size + 1 else "" for row in own.tolist()
            )
            pointer = relationship_for(source.model, request.grain.table, each, dict(request.grain.roles))
            if pointer is not None and pointer.from_column in columns:
                captions[pointer.from_column] = source.member_captions(request.grain, each, wanted)
    page = tuple(zip(*values, strict=True)) if values else ()
    return RecordPage(total, columns, page, belongs, len(rows), captions)


def _values(column: pa.ChunkedArray) -> list[object]:
    """A column as it stands in the table: decimals with all their digits."""
    return column.to_pylist() if pa.types.is_decimal(column.type) else list(keys_of(column))


def _holding(
    source: ColumnSource, request: RecordsRequest, table: TableData, columns: tuple[str, ...], rows: np.ndarray
) -> np.ndarray:
    """`(n,) bool`: the records with the searched text in one of the columns, or in the name of a member they mean."""
    wanted = request.search.strip()
    held = np.zeros(len(rows), np.bool_)
    for name in columns:
        # Each different value is looked at once.
        codes, values = _coded(table.column(name), rows)
        texts = pc.cast(values, pa.string())
        holds = np.append(np.asarray(pc.match_substring(texts, wanted, ignore_case=True).fill_null(False)), False)
        held |= holds[codes]
    for each in source.model.dimensions:
        if each.key is None or not reaches(source.model, request.grain, each):
            continue
        pointer = relationship_for(source.model, request.grain.table, each, dict(request.grain.roles))
        if pointer is None or pointer.from_column not in columns:
            continue
        size = source.row_count(each.name)
        own = source.member_rows(request.grain, each)[rows]
        named = [one for one in each.attributes if one.key == each.key and one.table is None]
        if named:
            captions = source.attribute_keys(each.name, named[0].name, "caption")
            holds = np.array([wanted.casefold() in str(one).casefold() for one in captions] + [False, False], np.bool_)
            held |= holds[np.minimum(own, size + 1)]
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
