"""An answer as a table that can be asked anew: a row for each innermost cell, with its members and its numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis, Header
from dastan.core.engine.grains import Placement
from dastan.core.model.document import Measure
from dastan.core.model.joints import joint_named
from dastan.core.model.parts import Key
from dastan.core.reading.chart import innermost
from dastan.core.reading.window import OTHERS
from dastan.core.values import Values

OTHERS_KEY = "(others)"
"""The key of the rest that a limit leaves, which no member has."""


@dataclass(frozen=True, slots=True)
class TableLevel:
    """One level of what stood on an axis: for each of its members here the key, what it is called, and its place in the
    natural order. A key of None is a blank; `without` is what blanks are called."""

    name: str
    caption: str
    keys: tuple[Key, ...]
    captions: tuple[str, ...]
    order: tuple[int, ...]
    without: str | None


@dataclass(frozen=True, slots=True, eq=False)
class TableDimension:
    """What stood at one place of an axis. `codes` is `(n_rows,) int64`: which of its members each row of the table
    has; -1 for none. `overlaps`: its members may hold the same records, so that nothing is added up over them."""

    placed: Placement
    levels: tuple[TableLevel, ...]
    codes: np.ndarray
    overlaps: bool


@dataclass(frozen=True, slots=True, eq=False)
class AnswerTable:
    """The dimensions of the rows, then those of the columns; and each measure with its exact value in each row."""

    dimensions: tuple[TableDimension, ...]
    measures: tuple[Measure, ...]
    adds_up: tuple[bool, ...]
    values: tuple[Values, ...]

    def __len__(self) -> int:
        return len(self.values[0]) if self.values else 0


def as_table(answer: Answer) -> AnswerTable:
    """The innermost cells of an answer that have any number: totals are left out, and so are the headers of none."""
    rows, columns = innermost(answer.rows), innermost(answer.columns)
    has_any = np.logical_or.reduce([each.present for each in answer.values]) if answer.values else True
    cells = np.flatnonzero(rows[answer.cell_rows] & columns[answer.cell_columns] & has_any)
    sides = ((answer.rows, answer.cell_rows[cells]), (answer.columns, answer.cell_columns[cells]))
    dimensions = tuple(each for axis, entries in sides for each in _dimensions(axis, entries))
    return AnswerTable(dimensions, answer.measures, answer.adds_up, tuple(each.take(cells) for each in answer.values))


def _dimensions(axis: Axis, entries: np.ndarray) -> list[TableDimension]:
    different, at = np.unique(entries, return_inverse=True)
    chains = axis.chains(different)
    return [_dimension(axis, place, chains, at) for place in range(len(axis.placements))]


def _dimension(axis: Axis, place: int, chains: Sequence[list[Header]], at: np.ndarray) -> TableDimension:
    placement = axis.placements[place]
    deepest = [max((each for each in chain if each.place == place), key=_depth, default=None) for chain in chains]
    known = {each: number for number, each in enumerate(dict.fromkeys(one for one in deepest if one is not None))}
    codes = np.array([-1 if each is None else known[each] for each in deepest], np.int64)
    depth = max((each.depth for each in known), default=placement.start)
    paths = [_path(placement, each, depth) for each in known]
    levels = tuple(_level(placement, each, [path[each] for path in paths]) for each in range(depth + 1))
    joined = any(joint_named(_keys(placement, each)) is not None for each in known)
    overlaps = joined or placement.layout is not None or placement.members.spread is not None
    return TableDimension(placement, levels, codes[at] if len(codes) else np.full(len(at), -1), overlaps)


def _depth(header: Header) -> int:
    return header.depth


def _keys(placement: Placement, header: Header) -> tuple[Key, ...]:
    return () if header.is_others else placement.members.path_of(header.depth, header.code)


_Member = tuple[Key, str, int]


def _path(placement: Placement, header: Header, deepest: int) -> list[_Member]:
    """A member with those above it, and below it blanks as far as the table goes: key, caption and natural place."""
    members, depth, code = placement.members, header.depth, header.code
    others: _Member = (OTHERS_KEY, OTHERS, np.iinfo(np.int64).max)
    below: list[_Member] = [(None, "", 0)] * (deepest - depth)
    if header.is_others:
        below = [others] * (deepest - depth + 1)
        parent = placement.parent_depth(depth)
        if parent is None:
            return [others] * (deepest + 1)
        code, depth = int(placement.parent_of_others(np.array([code]), depth)[0]), parent
        below = [others] * (deepest - depth)
    found: list[_Member] = []
    for each in range(depth, -1, -1):
        level = members.levels[each]
        key = level.keys[code]
        if joint_named((key,)) is not None:
            key = level.captions[code]  # here it is a member like any other
        found.append((key, level.captions[code], int(level.first[code])))
        code = int(level.parent[code])
    return [*reversed(found), *below]


def _level(placement: Placement, depth: int, members: list[_Member]) -> TableLevel:
    level = placement.members.levels[depth]
    without = next((caption for key, caption, _ in members if key is None and caption), None)
    return TableLevel(
        level.name, level.caption, _of_one_type([key for key, _, _ in members]),
        tuple(caption for _, caption, _ in members), tuple(order for _, _, order in members), without,
    )  # fmt: skip


def _of_one_type(keys: list[Key]) -> tuple[Key, ...]:
    """Keys as they are; as texts where they are of several types."""
    types = {type(each) for each in keys if each is not None}
    return tuple(keys) if len(types) <= 1 else tuple(None if each is None else str(each) for each in keys)
