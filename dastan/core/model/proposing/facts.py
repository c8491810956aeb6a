"""Which tables are facts, and what their columns are good for."""

from __future__ import annotations

from collections.abc import Sequence

from dastan.core.model.proposing.levels import ORDERS
from dastan.core.model.proposing.naming import names_something, words_of
from dastan.core.model.proposing.profile import ColumnProfile, Pointer, TableProfile

_MOST_MEMBERS = 20_000
"""Of a level that is made of a fact's own text: more are read as records, not as headers."""
_FEW_NUMBERS = 60
_OF_TIME = ("year", "quarter", "month", "week", "weekday", "day", "hour", "minute")
_RATES = (
    "rate", "ratio", "share", "pct", "percent", "percentage", "price", "avg", "average", "mean", "median", "score",
    "rating", "temperature", "temp", "age", "speed", "index", "per", "unit", "level", "grade",
)  # fmt: skip
_SURE_RATES = ("rate", "ratio", "pct", "percent", "percentage", "avg", "average", "mean", "median", "temperature")
_AMOUNTS = ("total", "totals", "amount", "sum", "net", "gross", "revenue", "sales")
_STOCKS = ("balance", "stock", "stocks", "inventory", "available", "headcount", "outstanding", "onhand")
_PLACES = ("lat", "latitude", "lon", "lng", "long", "longitude")
_DIGITS_OF_A_NUMBER = 8
"""Whole numbers of so many digits each, nearly all different, tell things apart and count nothing."""


def facts_of(tables: Sequence[TableProfile], pointers: Sequence[Pointer]) -> list[TableProfile]:
    """Tables whose records are counted: those that no other points at, and those that point on and hold amounts."""
    pointed = {each.to_table for each in pointers}
    points = {each.table for each in pointers}
    return [
        each for each in tables if each.name not in pointed or (each.name in points and any(amounts_of(each, pointers)))
    ]


def pointing(table: TableProfile, pointers: Sequence[Pointer]) -> set[str]:
    """The columns of a table that point at keys."""
    return {each.column for each in pointers if each.table == table.name}


def is_name(column: ColumnProfile) -> bool:
    """Whether whole numbers name something, so that adding them up says nothing."""
    if column.kind != "whole":
        return False
    if _numbers_records(column):
        return True
    has_one_length = column.shortest == column.longest >= _DIGITS_OF_A_NUMBER
    return names_something(column.name) or (has_one_length and column.distinct * 4 > column.records)


_FEWEST_NUMBERED = 10


def _numbers_records(column: ColumnProfile) -> bool:
    """Whether each record has a number of its own, without a gap: its place in the file, and no amount."""
    if not column.is_unique or column.records < _FEWEST_NUMBERED:
        return False
    least, greatest = column.least, column.greatest
    return isinstance(least, int) and isinstance(greatest, int) and greatest - least + 1 == column.records


def amounts_of(table: TableProfile, pointers: Sequence[Pointer]) -> list[ColumnProfile]:
    """Columns of a fact whose numbers can be added up or averaged."""
    own = pointing(table, pointers)
    return [
        each
        for each in table.columns
        if each.is_number and each.name not in own and not is_name(each) and not is_of_time(each)
        if not set(words_of(each.name)) & set(_PLACES) and not _is_order(each)
    ]


def is_rate(column: ColumnProfile) -> bool:
    """Whether its numbers are called like something that is averaged: a price, but not a total one."""
    words = set(words_of(column.name))
    return bool(words & set(_RATES)) and not (words & set(_AMOUNTS) and not words & set(_SURE_RATES))


def is_surely_rate(column: ColumnProfile) -> bool:
    """Whether a rate is called like nothing else."""
    return bool(set(words_of(column.name)) & set(_SURE_RATES))


def is_stock(column: ColumnProfile) -> bool:
    """Whether its numbers are called like what is there on a day, and not what comes in."""
    return bool(set(words_of(column.name)) & set(_STOCKS))


def is_of_time(column: ColumnProfile) -> bool:
    """Whether whole numbers are a part of a date, as a year is."""
    words = words_of(column.name)
    return column.kind == "whole" and bool(words) and words[-1] in _OF_TIME and column.distinct <= 400


def own_levels(table: TableProfile, pointers: Sequence[Pointer]) -> list[ColumnProfile]:
    """Columns of a fact itself that its records may be told apart by."""
    own = pointing(table, pointers)
    most = min(_MOST_MEMBERS, max(12, table.records // 3))
    return [
        each
        for each in table.columns
        if each.name not in own and 2 <= each.distinct <= most
        if each.kind in ("text", "boolean") or is_of_time(each) or (is_name(each) and each.distinct <= _FEW_NUMBERS)
    ]


def attribute_columns(
    table: TableProfile, key: str, pointers: Sequence[Pointer], left_out: set[str]
) -> list[ColumnProfile]:
    """Columns of a table that is pointed at, by which its rows may be told apart; its key is the first."""
    own = pointing(table, pointers) | left_out
    rest = [
        each
        for each in table.columns
        if each.name != key and each.name not in own and each.distinct >= 2
        if each.kind in ("text", "boolean")
        or (each.kind == "whole" and (each.distinct <= _FEW_NUMBERS or is_name(each) or _is_order(each)))
    ]
    return [table.column(key), *rest]


def days_of(table: TableProfile, pointers: Sequence[Pointer]) -> list[ColumnProfile]:
    """Columns with a day, the one that its records are of first: with the fewest blanks, as they stand."""
    own = pointing(table, pointers)
    found = [each for each in table.with_kind("day", "moment") if each.name not in own and each.distinct]
    return sorted(found, key=lambda each: each.blanks * 20 > each.records)


def _is_order(column: ColumnProfile) -> bool:
    words = words_of(column.name)
    return bool(words) and words[-1] in ORDERS
