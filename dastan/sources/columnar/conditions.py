"""Which records a condition means: from conditions to yes or no for each row."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Protocol

import numpy as np

from dastan.core.engine.grouping import places_of
from dastan.core.engine.waist import (
    AttributeTest,
    Condition,
    DayRange,
    GroupSet,
    Joined,
    KeyState,
    LevelRef,
    MemberSet,
    Not,
    dimensions_of,
)
from dastan.core.errors import InputError
from dastan.core.model.conditions import TEXT_OPERATORS, Operator
from dastan.core.model.document import Dimension
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import Key
from dastan.sources.columnar.codes import taken

_EPOCH = date(1970, 1, 1).toordinal()


class DimensionRows(Protocol):
    """What has to be known of the rows of dimensions."""

    def members(self, dimension: str, hierarchy: str) -> HierarchyMembers: ...

    def attribute_keys(self, dimension: str, attribute: str, on: str) -> list[Key]:
        """An attribute of each row of a dimension, without the two that stand for nowhere."""
        ...

    def days(self, dimension: str) -> np.ndarray:
        """Each row's day since 1970, `(n_rows,) int64`."""
        ...

    def row_count(self, dimension: str) -> int: ...


@dataclass(frozen=True, slots=True, eq=False)
class FactRows:
    """Rows of a fact: which, and their codes; `lists` holds the set that each stands in where rows are repeated.

    `dimension_rows` gives each row's row in a dimension.
    """

    count: int
    dimension_rows: Callable[[str], np.ndarray]
    lists: dict[LevelRef, np.ndarray]


def has_own_mask(condition: Condition) -> bool:
    """Whether a condition looks at the rows of one dimension alone."""
    return len(dimensions_of(condition)) == 1


def looks_at_lists(condition: Condition, lists: set[LevelRef]) -> bool:
    """Whether a condition asks in which of these lists' sets a repeated row stands."""
    match condition:
        case GroupSet(levels):
            return any(each in lists for each in levels)
        case Joined(_, parts):
            return any(looks_at_lists(each, lists) for each in parts)
        case Not(part):
            return looks_at_lists(part, lists)
        case _:
            return False


def dimension_mask(condition: Condition, own: str, source: DimensionRows) -> np.ndarray:
    """`(n_rows + 2,) bool`: the rows of dimension `own`, and no other, for which a condition that looks at it holds."""
    match condition:
        case MemberSet(dimension, hierarchy, paths, is_kept, level):
            members = source.members(dimension, hierarchy)
            mask = members.row_mask(paths)
            if level is not None:
                depth = members.depth_of(level)
                has_key = np.array([key is not None for key in members.levels[depth].keys], np.bool_)
                mask = (mask if paths else np.ones(len(mask), np.bool_)) & members.rows_of(has_key, depth)
            return mask if is_kept else ~mask
        case AttributeTest(dimension, attribute, operator, values, on):
            keys = source.attribute_keys(dimension, attribute, on)
            values = values_like(keys, operator, values, attribute)
            found = [each is not None and compares(each, operator, values) for each in keys]
            return np.array([*found, False, False], np.bool_)
        case DayRange(dimension, first, last):
            days = source.days(dimension)
            low, high = (date.fromisoformat(each).toordinal() - _EPOCH for each in (first, last))
            return np.append((days >= low) & (days <= high), [False, False])
        case KeyState(dimension, state):
            mask = np.zeros(source.row_count(dimension) + 2, np.bool_)
            mask[-2 if state == "left_blank" else -1] = True
            return mask
        case Not(part):
            return ~dimension_mask(part, own, source)
        case Joined(join, parts):
            joined = np.full(source.row_count(own) + 2, join == "all")
            for each in parts:
                mask = dimension_mask(each, own, source)
                joined = joined & mask if join == "all" else joined | mask
            return joined
        case GroupSet():
            rows = np.arange(source.row_count(own) + 2)
            return _in_groups(condition, source, FactRows(len(rows), lambda _: rows, {}))


def row_mask(condition: Condition, source: DimensionRows, rows: FactRows) -> np.ndarray:
    """`(n,) bool`: the rows of a fact for which a condition holds."""
    match condition:
        case _ if has_own_mask(condition) and not looks_at_lists(condition, set(rows.lists)):
            (dimension,) = dimensions_of(condition)
            mask = np.ascontiguousarray(dimension_mask(condition, dimension, source))
            places = rows.dimension_rows(dimension)
            is_small = places.dtype.kind == "u" and places.flags.c_contiguous
            return taken(mask.view(np.uint8), places).view(np.bool_) if is_small else np.asarray(mask[places])
        case GroupSet():
            return _in_groups(condition, source, rows)
        case Not(part):
            return ~row_mask(part, source, rows)
        case Joined(join, parts):
            joined = np.full(rows.count, join == "all")
            for each in parts:
                mask = row_mask(each, source, rows)
                joined = joined & mask if join == "all" else joined | mask
            return joined
        case _:
            raise AssertionError(condition)


def values_like(keys: list[Key], operator: Operator, values: tuple[Key, ...], attribute: str) -> tuple[Key, ...]:
    """The values of a comparison as the attribute's own kind is written: numbers, days, or texts.

    Raises: InputError for one that is of another kind, which would compare with none of them, or with all.
    """
    if operator in TEXT_OPERATORS:
        return values
    some = next((each for each in keys if each is not None), None)
    if some is None or isinstance(some, bool):
        return values
    are_days = isinstance(some, str) and all(_ISO_DAY.match(str(each)) for each in keys if each is not None)
    called = f"“{attribute.replace('_', ' ')}”"
    found: list[Key] = []
    for each in values:
        if each is None or (isinstance(some, str) and not are_days):
            found.append(each if each is None or isinstance(each, str) else str(each))
        elif are_days:
            if not _BEGINS_DAY.fullmatch(str(each)):
                hint = f"Write it year first, as in {str(some)[:10]}."
                raise InputError(f"“{each}” is no day, and {called} holds days.", hint)
            found.append(str(each))
        else:
            try:
                found.append(float(each) if isinstance(each, str) else each)
            except ValueError as error:
                hint = f"Write a number, as in {some}."
                raise InputError(f"“{each}” is no number, and {called} holds numbers.", hint) from error
    return tuple(found)


_ISO_DAY = re.compile(r"\d{4}-\d{2}-\d{2}( |$)")
_BEGINS_DAY = re.compile(r"\d{4}(-\d{2}(-\d{2}( [\d:.]+)?)?)?")
"""A day, or a year or month as the days in it begin."""


def compares(key: Key, operator: Operator, values: tuple[Key, ...]) -> bool:
    """Whether a key compares so with the values. Texts compare whatever their case; a text and a number never do."""
    if operator in TEXT_OPERATORS:
        text = str(key).casefold()
        wanted = [str(each).casefold() for each in values if each is not None]
        if operator == "contains":
            return any(each in text for each in wanted)
        return any((text.startswith if operator == "begins_with" else text.endswith)(each) for each in wanted)
    own = _comparable(key)
    others = [_comparable(each) for each in values if each is not None]
    if operator in ("equal", "not_equal"):
        return any(own == each for each in others) == (operator == "equal")
    alike = [each for each in others if isinstance(each, str) == isinstance(own, str)]
    if len(alike) < (2 if operator == "between" else 1):
        return False
    first, last = alike[0], alike[-1]
    match operator:
        case "less":
            return bool(own < first)  # type: ignore[operator]
        case "at_most":
            return bool(own <= first)  # type: ignore[operator]
        case "more":
            return bool(own > first)  # type: ignore[operator]
        case "at_least":
            return bool(own >= first)  # type: ignore[operator]
        case _:
            return bool(first <= own <= last)  # type: ignore[operator]


def _comparable(key: Key) -> str | float | int:
    return key.casefold() if isinstance(key, str) else key or 0


def _in_groups(condition: GroupSet, source: DimensionRows, rows: FactRows) -> np.ndarray:
    """Level by level, the number of the group that a row may still belong to; -1 once it belongs to none."""
    groups = condition.codes
    at = np.arange(rows.count)
    state = np.zeros(rows.count, np.int64)
    own = np.zeros(len(groups), np.int64)
    for place, level in enumerate(condition.levels):
        members = source.members(level.dimension, level.hierarchy)
        depth = members.depth_of(level.level)
        if level in rows.lists:
            codes = rows.lists[level][at]
        elif members.spread is not None:
            repeated, codes = spread_rows(members, rows.dimension_rows(level.dimension)[at])
            at, state = at[repeated], state[repeated]
        else:
            codes = members.code_by_row[depth][rows.dimension_rows(level.dimension)[at]]
        size = len(members.levels[depth])
        wanted, own = np.unique(own * size + groups[:, place], return_inverse=True)
        found = places_of(state * size + codes, wanted, max(len(groups), 1) * size)
        at, state = at[found >= 0], found[found >= 0]
    mask = np.zeros(rows.count, np.bool_)
    mask[at] = True
    return mask


def spread_rows(members: HierarchyMembers, dimension_rows: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Rows repeated once for each set of a list that holds them: the places repeated, and each one's set."""
    assert members.spread is not None
    starts = members.spread.starts
    counts = starts[dimension_rows + 1] - starts[dimension_rows]
    places = np.repeat(np.arange(len(dimension_rows)), counts)
    offset = np.arange(len(places)) - np.repeat(np.cumsum(counts) - counts, counts)
    return places, members.spread.codes[starts[dimension_rows[places]] + offset]


def refuse_mixed(condition: Condition, time: Dimension, what: str) -> None:
    """Raises InputError for a condition that joins the calendar to something else: it would choose no period."""
    if dimensions_of(condition) != {time.name}:
        raise InputError(
            f"{what} cannot be taken where one condition or limit joins {time.caption} to something else.",
            "Make two filters of it, put the calendar on an axis by itself, or show totals over everything in scope.",
        )
