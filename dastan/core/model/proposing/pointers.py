"""Which column points at which key: first what is worth measuring, then what was measured, decided."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dastan.core.model.proposing.naming import are_alike, names_something, words_of
from dastan.core.model.proposing.profile import ColumnProfile, Pointer, TableProfile

_COMPARED = {"text": "text", "whole": "whole", "day": "day"}
_FEWEST_BY_VALUES_ALONE = 10
_SHARE_BY_VALUES_ALONE = 0.95
_SHARE_ALIKE = 0.5
_PARENTS = ("parent", "above", "manager", "boss", "reports", "superior", "belongs")


def candidates(tables: Sequence[TableProfile]) -> list[Pointer]:
    """Columns that may point at a key of another table, as far as their kinds, counts and ends tell."""
    return [
        Pointer(one.name, column.name, other.name, key.name)
        for one in tables
        for column in one.columns
        if column.kind in _COMPARED and column.distinct
        for other in tables
        if other is not one
        for key in other.columns
        if key.is_unique and key.kind == column.kind and _may(column, key, other)
    ]


def parent_candidates(table: TableProfile, key: ColumnProfile) -> list[Pointer]:
    """Columns that may name the row above, by the key of the same table."""
    return [
        Pointer(table.name, each.name, table.name, key.name)
        for each in table.columns
        if each.kind == key.kind and each is not key and 0 < each.distinct < key.distinct
        if set(words_of(each.name)) & set(_PARENTS)
    ]


def _may(column: ColumnProfile, key: ColumnProfile, other: TableProfile) -> bool:
    if column.distinct > 2 * key.distinct + 5:
        return False
    is_alike = are_alike(column.name, other.name, key.name)
    if not is_alike and not names_something(key.name) and key.name != _first_unique(other):
        # What is said of each row may stand once each too; by values alone only what a table begins with is its key.
        return False
    if key.kind == "whole":
        # Whole numbers from 1 up are found among any others: only what it is called like tells.
        return is_alike
    if key.kind == "day":
        return is_alike or column.distinct >= _FEWEST_BY_VALUES_ALONE
    return is_alike or (column.distinct >= _FEWEST_BY_VALUES_ALONE and column.longest <= key.longest)


def _first_unique(table: TableProfile) -> str:
    return next((each.name for each in table.columns if each.is_unique), "")


def decided(tables: Sequence[TableProfile], measured: Sequence[Pointer]) -> tuple[Pointer, ...]:
    """One pointer at the most for each column, none of them in a circle."""
    sizes = {each.name: each.records for each in tables}
    best: dict[tuple[str, str], Pointer] = {}
    for each in measured:
        is_alike = are_alike(each.column, each.to_table, each.to_column)
        wanted = _SHARE_ALIKE if is_alike else _SHARE_BY_VALUES_ALONE
        if each.share < wanted or not each.found:
            continue
        known = best.get((each.table, each.column))
        if known is None or _rank(each) > _rank(known):
            best[(each.table, each.column)] = each
    found: list[Pointer] = []
    # Of two that point at each other the larger table points; the surest are taken first.
    for each in sorted(best.values(), key=lambda one: (_rank(one), sizes[one.table]), reverse=True):
        if each.table not in _reached(each.to_table, found):
            found.append(each)
    order = [(each.name, column.name) for each in tables for column in each.columns]
    return tuple(sorted(found, key=lambda one: order.index((one.table, one.column))))


def _rank(pointer: Pointer) -> tuple[bool, float, bool]:
    is_alike = are_alike(pointer.column, pointer.to_table, pointer.to_column)
    return is_alike, pointer.share, names_something(pointer.to_column)


def _reached(table: str, pointers: Sequence[Pointer]) -> set[str]:
    """A table and all that it leads to."""
    return set(_walk(table, pointers, set()))


def _walk(table: str, pointers: Sequence[Pointer], seen: set[str]) -> Iterator[str]:
    if table in seen:
        return
    seen.add(table)
    yield table
    for each in pointers:
        if each.table == table:
            yield from _walk(each.to_table, pointers, seen)
