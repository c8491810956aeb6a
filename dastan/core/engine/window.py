"""A window of an answer: the headers and cells in sight, in a shape that a table draws as it is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis, Header
from dastan.core.model.parts import MemberPath
from dastan.core.values import Values

Number = int | float | str | None
"""A cell as JSON: a number; the digits as text where a float would lose some; None where empty."""

_EXACT_IN_FLOAT = 2**53
OTHERS = "others"


@dataclass(frozen=True, slots=True)
class MemberHeader:
    """One member as it stands in a header. `is_nowhere`: the member of records that belong nowhere; `is_others`:
    the rest that a limit leaves, whose path is its parent's."""

    caption: str
    dimension: str
    hierarchy: str
    level: str
    path: MemberPath
    can_open: bool
    is_open: bool
    is_nowhere: bool
    is_others: bool = False


@dataclass(frozen=True, slots=True)
class RowHeader:
    """A row: its own member (none for the grand total), how far it is indented, and what it stands under.

    `depth` counts levels inside the row's own hierarchy, `place` tells which dimension of the axis it is. A heading
    has no figures.
    """

    member: MemberHeader | None
    caption: str
    indent: int
    depth: int
    place: int
    above: tuple[str, ...]
    is_heading: bool = False


@dataclass(frozen=True, slots=True)
class ColumnHeader:
    """A column: its members from the outermost down. A total has fewer than the deepest column."""

    members: tuple[MemberHeader, ...]
    caption: str


@dataclass(frozen=True, slots=True)
class Window:
    """Rows `row_start` and columns `column_start` onwards. `values[measure][row][column]`.

    `header_depth` is the count of header rows that the deepest column needs, anywhere in the answer.
    """

    row_count: int
    column_count: int
    header_depth: int
    total_caption: str
    """What the grand total's row is called."""
    row_start: int
    column_start: int
    rows: tuple[RowHeader, ...]
    columns: tuple[ColumnHeader, ...]
    values: tuple[tuple[tuple[Number, ...], ...], ...]
    total_row: tuple[tuple[Number, ...], ...] | None
    """The grand total's cells of these columns, per measure, for it is always in view; none where it is not shown."""
    row_total: int | None
    """The grand total's row, and below its column."""
    column_total: int | None


def window_of(answer: Answer, row_start: int, row_count: int, column_start: int, column_count: int) -> Window:
    """The window of an answer at that place; it ends where the answer ends."""
    row_end = min(max(row_start, 0) + row_count, len(answer.rows))
    column_end = min(max(column_start, 0) + column_count, len(answer.columns))
    row_start, column_start = min(max(row_start, 0), row_end), min(max(column_start, 0), column_end)
    total = answer.rows.total
    return Window(
        row_count=len(answer.rows),
        column_count=len(answer.columns),
        header_depth=header_depth(answer.columns),
        total_caption=answer.rows.all_caption,
        row_start=row_start,
        column_start=column_start,
        rows=tuple(_row_header(answer.rows, each) for each in range(row_start, row_end)),
        columns=tuple(_column_header(answer.columns, each) for each in range(column_start, column_end)),
        values=tuple(_cells(answer, each, row_start, row_end, column_start, column_end) for each in answer.values),
        total_row=None
        if total is None
        else tuple(_cells(answer, each, total, total + 1, column_start, column_end)[0] for each in answer.values),
        row_total=total,
        column_total=answer.columns.total,
    )


def header_depth(axis: Axis) -> int:
    """How many headers the deepest entry of an axis has, counting each level of each dimension."""
    depths = [
        sum(
            sum(each <= depth for each in placement.shown_depths())
            for placement, depth in zip(axis.placements, grain.depths, strict=False)
        )
        for number, grain in enumerate(axis.grains)
        if np.any(axis.grain == number)
    ]
    return max(depths, default=0)


def member_header(axis: Axis, header: Header) -> MemberHeader:
    """One member of an axis with what can be done to it."""
    placement = axis.placements[header.place]
    level = placement.members.levels[header.depth]
    if header.is_others:
        parent = placement.parent_depth(header.depth)
        code = int(placement.parent_of_others(np.array([header.code]), header.depth)[0])
        return MemberHeader(
            caption=OTHERS,
            dimension=placement.placed.dimension,
            hierarchy=placement.placed.hierarchy,
            level=level.name,
            path=() if parent is None else placement.members.path_of(parent, code),
            can_open=False,
            is_open=False,
            is_nowhere=False,
            is_others=True,
        )
    return MemberHeader(
        caption=level.captions[header.code],
        dimension=placement.placed.dimension,
        hierarchy=placement.placed.hierarchy,
        level=level.name,
        path=placement.members.path_of(header.depth, header.code),
        can_open=bool(level.can_open[header.code]),
        is_open=bool(placement.is_open[header.depth][header.code]),
        is_nowhere=level.keys[header.code] is None,
    )


def _row_header(axis: Axis, entry: int) -> RowHeader:
    chain = axis.chain(entry)
    if not chain:
        return RowHeader(None, axis.all_caption, 0, 0, 0, ())
    captions = tuple(member_header(axis, each).caption for each in chain)
    own = chain[-1]
    depth = sum(each.place == own.place for each in chain) - 1
    is_flat = axis.placements[-1].placed.order.across
    return RowHeader(
        member_header(axis, own),
        " › ".join(captions) if is_flat else captions[-1],
        0 if is_flat else len(chain) - 1,
        depth,
        own.place,
        captions[:-1],
        bool(axis.is_heading[entry]),
    )


def _column_header(axis: Axis, entry: int) -> ColumnHeader:
    members = tuple(member_header(axis, each) for each in axis.chain(entry))
    return ColumnHeader(members, members[-1].caption if members else axis.all_caption)


def _cells(
    answer: Answer, values: Values, row_start: int, row_end: int, column_start: int, column_end: int
) -> tuple[tuple[Number, ...], ...]:
    low, high = np.searchsorted(answer.cell_rows, [row_start, row_end])
    columns = answer.cell_columns[low:high]
    inside = np.flatnonzero((columns >= column_start) & (columns < column_end)) + low
    grid: list[list[Number]] = [[None] * (column_end - column_start) for _ in range(row_end - row_start)]
    for cell in inside[values.present[inside]]:
        row, column = int(answer.cell_rows[cell]) - row_start, int(answer.cell_columns[cell]) - column_start
        grid[row][column] = as_number(values, int(cell))
    return tuple(tuple(row) for row in grid)


def as_number(values: Values, place: int) -> Number:
    """A present value for JSON, losing no digit."""
    value = values.data[place]
    if values.scale is None:
        return float(value)
    if abs(int(value)) > _EXACT_IN_FLOAT:
        return str(values.at(place))
    return int(value) if values.scale == 0 else int(value) / 10**values.scale
