"""How the records of a fact find their rows in a dimension."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.engine.grouping import group_rows
from dastan.core.errors import SourceError
from dastan.core.model.document import Attribute, Dimension, Hierarchy, ParentChild, without_words
from dastan.core.model.members import HierarchyMembers, LevelColumn, build_list, build_members
from dastan.core.model.parent_child import parent_child_columns, paths_from_top
from dastan.core.model.parts import Key
from dastan.sources.columnar.codes import smallest_type, taken
from dastan.sources.files.columns import captions_of, codes_of, keys_of, one_dictionary
from dastan.sources.files.tables import TableData


@dataclass(frozen=True, slots=True, eq=False)
class Pointers:
    """Each record's dimension row, `(n_records,)` unsigned; the dimension's row count for a blank key, and one
    more for a key that no row has."""

    rows: np.ndarray
    blank_count: int
    unknown_count: int
    unknown_examples: tuple[str, ...]


def match_keys(pointers: pa.ChunkedArray, keys: pa.ChunkedArray) -> Pointers:
    """Finds each pointer among the keys of the one side."""
    size = len(keys)
    coded = one_dictionary(pointers)
    distinct, keys = _of_one_type(pa.chunked_array([coded.dictionary]), _plain(keys))
    place = pc.index_in(distinct, value_set=keys.combine_chunks(), skip_nulls=True)
    row_by_code = np.array(pc.fill_null(place, size + 1).to_numpy(), np.int32)
    codes = pc.fill_null(coded.indices, len(row_by_code)).to_numpy(zero_copy_only=False)
    # The last entry serves a blank key.
    table = np.append(row_by_code, np.int32(size)).astype(smallest_type(size + 2))
    rows = taken(table, codes.astype(np.uint32))
    unknown = keys_of(distinct.filter(pa.array(row_by_code == size + 1)))
    unknown_count = int((rows == size + 1).sum()) if unknown else 0
    return Pointers(rows, coded.indices.null_count, unknown_count, tuple(str(each) for each in unknown[:3]))


def _plain(values: pa.ChunkedArray) -> pa.ChunkedArray:
    return values.cast(values.type.value_type) if pa.types.is_dictionary(values.type) else values


def _of_one_type(left: pa.ChunkedArray, right: pa.ChunkedArray) -> tuple[pa.ChunkedArray, pa.ChunkedArray]:
    """Brings two key columns to one type: whole numbers where both are, else text."""
    if left.type == right.type:
        return left, right
    if pa.types.is_integer(left.type) and pa.types.is_integer(right.type):
        return left.cast(pa.int64()), right.cast(pa.int64())
    if pa.types.is_null(left.type):
        return left.cast(right.type), right
    if pa.types.is_timestamp(left.type) and pa.types.is_timestamp(right.type):
        return left.cast(pa.timestamp("ns")), right.cast(pa.timestamp("ns"))
    if pa.types.is_temporal(left.type) and pa.types.is_temporal(right.type):
        return left.cast(pa.date32()), right.cast(pa.date32())
    return left.cast(pa.string()), right.cast(pa.string())


def duplicate_keys(keys: pa.ChunkedArray) -> list[tuple[str, int]]:
    """Keys that stand in more than one row, with how often; at most five."""
    counts = pc.value_counts(_plain(keys).drop_null())
    twice = counts.filter(pc.greater(counts.field("counts"), 1))
    return [(str(each["values"]), each["counts"]) for each in twice[:5].to_pylist()]


def own_rows(table: TableData, dimension: Dimension) -> tuple[np.ndarray, np.ndarray]:
    """For a dimension made of a fact's own columns: each record's combination, and the first record of each."""
    names = dict.fromkeys(
        column
        for each in dimension.attributes
        for column in (each.key, each.caption_column, each.sort_column)
        if column is not None
    )
    levels = []
    for name in names:
        codes = codes_of(table.column(name)) + np.int32(1)
        size = int(codes.max(initial=0)) + 1
        levels.append((codes, np.arange(size, dtype=np.int32), size))
    grouped = group_rows(levels, table.row_count)
    first = np.zeros(grouped.count, np.int64)
    first[grouped.group[::-1]] = np.arange(table.row_count - 1, -1, -1)
    return grouped.group.astype(smallest_type(grouped.count + 2)), first


def members_of(
    dimension: Dimension, hierarchy: Hierarchy, row_count: int, column: Callable[[Attribute, str], pa.ChunkedArray]
) -> HierarchyMembers:
    """The members of one hierarchy.

    Args: `column` gives an attribute's column with one value for each of the dimension's rows.
    """
    if hierarchy.parent_child is not None:
        columns = _parent_child_columns(dimension, hierarchy, hierarchy.parent_child, column)
    else:
        columns = [_level_column(dimension.attribute(name), column) for name in hierarchy.levels]
    passes = hierarchy.blanks == "pass"
    try:
        return build_members(dimension.name, hierarchy.name, columns, row_count, dimension.without_caption, passes)
    except TypeError as exc:
        raise SourceError(
            f"Dimension “{dimension.caption}” cannot be put in order: a sort column mixes types.",
            "Let it hold numbers only, or text only.",
        ) from exc


def _level_column(attribute: Attribute, column: Callable[[Attribute, str], pa.ChunkedArray]) -> LevelColumn:
    caption = attribute.caption or attribute.name.replace("_", " ").capitalize()
    keys: Sequence[Key] = keys_of(column(attribute, attribute.key))
    captions = captions_of(column(attribute, attribute.caption_column or attribute.key))
    sort = keys_of(column(attribute, attribute.sort_column or attribute.key), for_order=True)
    return LevelColumn(
        attribute.name,
        caption,
        keys,
        [text or str(key) for text, key in zip(captions, keys, strict=True)],
        sort,
        attribute.without or without_words(caption),
    )


def _parent_child_columns(
    dimension: Dimension,
    hierarchy: Hierarchy,
    found: ParentChild,
    column: Callable[[Attribute, str], pa.ChunkedArray],
) -> list[LevelColumn]:
    first = dimension.attribute(hierarchy.levels[0])

    def read(name: str) -> list[Key]:
        return keys_of(column(first, name))

    keys = read(found.key)
    captions = captions_of(column(first, found.caption_column or found.key))
    return parent_child_columns(
        paths_from_top(keys, read(found.parent), dimension.caption),
        [(name, dimension.attribute(name).caption or name) for name in hierarchy.levels],
        keys,
        [text or str(key) for text, key in zip(captions, keys, strict=True)],
        read(found.sort_column) if found.sort_column else keys,
    )


def deepest_branch(table: TableData, dimension: Dimension, found: ParentChild) -> int:
    """How many levels parents and children make; one where their columns are not there, which is told elsewhere."""
    if not {found.key, found.parent} <= set(table.names):
        return 1
    keys, parents = keys_of(table.column(found.key)), keys_of(table.column(found.parent))
    return max((len(each) for each in paths_from_top(keys, parents, dimension.caption)), default=1)


def list_of(
    dimension: Dimension, hierarchy: Hierarchy, masks: Sequence[np.ndarray], row_count: int
) -> HierarchyMembers:
    """A list's sets as members. Args: `masks` hold the dimension rows of each set."""
    caption = dimension.attribute(hierarchy.name).caption or hierarchy.name
    sets = [(each.name, each.caption, mask) for each, mask in zip(hierarchy.sets, masks, strict=True)]
    return build_list(dimension.name, hierarchy.name, caption, sets, row_count, f"in no {caption.lower()}")
