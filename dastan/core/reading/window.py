"""A window of an answer: the headers and cells in sight, in a shape that a table draws as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from dastan.core.analysis.document import AxisName, PlacedMember, Under
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis, Header
from dastan.core.engine.grains import Placement
from dastan.core.engine.layout import ALL, Lines
from dastan.core.model.financial_layouts import LaidOutMembers, favour_of_row, pattern_of_row
from dastan.core.model.joints import ratios, says_of
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.values import Values

Number = int | float | str | None
"""A cell as JSON: a number; the digits as text where a float would lose some; None where empty."""

Cells = tuple[tuple[Number, ...], ...]
"""Cells by row and column."""

_EXACT_IN_FLOAT = 2**53
OTHERS = "others"
TOTAL = "total"
RATIO_FORMAT = "0.0 %"
"""How a ratio of members is written: of one measure, it is a share."""


@dataclass(frozen=True, slots=True)
class MemberHeader:
    """One member as it stands in a header. `is_nowhere`: the member of records that belong nowhere; `is_others`:
    the rest that a limit leaves, whose path is its parent's. `says` what a joint
    member is of others: "joins Tram and Metro"."""

    caption: str
    dimension: str
    hierarchy: str
    level: str
    path: MemberPath
    can_open: bool
    is_open: bool
    is_nowhere: bool
    is_others: bool = False
    opens_into: OpensInto | None = None
    says: str = ""
    row: RowOfLayout | None = None
    format: str | None = None
    """How numbers are written under it, where it is not as the measure says: of a ratio of members."""
    is_part_filled: bool = False
    """Of a period: the data begins or ends inside of it."""
    within: tuple[str, ...] = ()
    """What it stands in above the level that its hierarchy begins at in the table, outermost first."""


@dataclass(frozen=True, slots=True)
class RowOfLayout:
    """How a row of a financial layout stands: its kind, its rules, how its numbers are written where it is not as the
    measure says, and whether more of it is what more of the measure is (1), the opposite (-1), or neither (0)."""

    kind: Literal["heading", "members", "formula", "blank"]
    indent: int
    is_strong: bool
    rule_above: Literal["none", "single"]
    rule_below: Literal["none", "single", "double"]
    format: str | None
    favour: int


@dataclass(frozen=True, slots=True)
class OpensInto:
    """The hierarchy into which a header opens, and the members in which it stands, its own last."""

    dimension: str
    hierarchy: str
    members: tuple[PlacedMember, ...]


@dataclass(frozen=True, slots=True)
class RowHeader:
    """A row: its own member (none for the grand total), how far it is indented, and what it stands under.

    `depth` counts levels inside the row's own hierarchy, `place` tells which dimension of the axis it is. `measure`
    is which of the measures its figures are of, where the measures stand on the rows. A heading has no figures.
    """

    member: MemberHeader | None
    caption: str
    indent: int
    depth: int
    place: int
    above: tuple[str, ...]
    members: tuple[MemberHeader, ...] = ()
    """All that it stands in, from the outermost down to its own."""
    measure: int | None = None
    is_heading: bool = False


@dataclass(frozen=True, slots=True)
class ColumnHeader:
    """A column: its members from the outermost down. A total has fewer than the deepest column.

    `outer` of the members stand above the measure, where the measures stand on the columns.
    """

    members: tuple[MemberHeader, ...]
    caption: str
    outer: int
    measure: int | None = None


@dataclass(frozen=True, slots=True)
class RowLevel:
    """A level of a hierarchy that stands on the rows."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True)
class TotalRows:
    """The grand total's rows, which are always in view, with their cells of a window's columns."""

    start: int
    rows: tuple[RowHeader, ...]
    values: tuple[tuple[Number, ...], ...]


@dataclass(frozen=True, slots=True)
class Window:
    """Rows `row_start` and columns `column_start` onwards. `values[row][column]`.

    `outer_depth` and `inner_depth` are the counts of header rows that the deepest column needs above and below the
    measures, anywhere in the answer.
    """

    row_count: int
    column_count: int
    outer_depth: int
    inner_depth: int
    measures_on: AxisName
    row_start: int
    column_start: int
    rows: tuple[RowHeader, ...]
    columns: tuple[ColumnHeader, ...]
    values: tuple[tuple[Number, ...], ...]
    row_levels: tuple[RowLevel, ...]
    """The levels that stand on the rows anywhere in the answer, outermost first."""
    total_rows: TotalRows | None
    """None where the grand total is not shown, or stands apart under each measure."""


def window_of(answer: Answer, row_start: int, row_count: int, column_start: int, column_count: int) -> Window:
    """The window of an answer at that place; it ends where the answer ends."""
    rows, columns = answer.row_lines, answer.column_lines
    row_end = min(max(row_start, 0) + row_count, len(rows))
    column_end = min(max(column_start, 0) + column_count, len(columns))
    row_start, column_start = min(max(row_start, 0), row_end), min(max(column_start, 0), column_end)
    outside = columns.outside if columns.outside is not None else len(answer.columns.placements)
    across = np.arange(column_start, column_end)
    down = np.arange(row_start, row_end)
    total = np.arange(rows.total_start, rows.total_end)
    headers: KnownHeaders = {}
    return Window(
        row_count=len(rows),
        column_count=len(columns),
        outer_depth=header_depth(answer.columns, 0, outside),
        inner_depth=header_depth(answer.columns, outside, len(answer.columns.placements)),
        measures_on="rows" if rows.outside is not None else "columns",
        row_start=row_start,
        column_start=column_start,
        rows=_row_headers(answer, down, headers),
        columns=_column_headers(columns, across),
        values=_cells(answer, down, across),
        row_levels=levels_of(answer.rows),
        total_rows=TotalRows(rows.total_start, _row_headers(answer, total, headers), _cells(answer, total, across))
        if len(total)
        else None,
    )


def lines_of(answer: Answer, rows: range, columns: Sequence[int]) -> tuple[tuple[RowHeader, ...], Cells]:
    """Some rows of an answer with their cells of some columns, as a window has them."""
    down = np.arange(rows.start, rows.stop)
    return _row_headers(answer, down, {}), _cells(answer, down, np.asarray(columns, np.int64))


def levels_of(axis: Axis) -> tuple[RowLevel, ...]:
    """The levels that stand on an axis, outermost first."""
    grains = [each for number, each in enumerate(axis.grains) if np.any(axis.grain == number)]
    return tuple(
        RowLevel(placement.placed.dimension, placement.placed.hierarchy, placement.members.levels[depth].name)
        for place, placement in enumerate(axis.placements)
        for depth in placement.shown_depths
        if any(len(each.depths) > place and each.depths[place] >= depth for each in grains)
    )


def header_depth(axis: Axis, first: int, end: int) -> int:
    """How many headers the deepest entry of an axis has at places `first` to `end`, counting each level of each."""
    depths = [
        sum(
            sum(each <= depth for each in placement.shown_depths)
            for placement, depth in zip(axis.placements[first:end], grain.depths[first:end], strict=False)
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
        says=says_of(placement.members, header.depth, header.code),
        row=_row_of_layout(placement.members, header.code),
        format=RATIO_FORMAT if header.code in ratios(placement.members, header.depth) else None,
        is_part_filled=_is_part_filled(axis, header),
        within=_within(placement, header),
    )


def _within(placement: Placement, header: Header) -> tuple[str, ...]:
    """Told by members of the level that a hierarchy begins at, where that is not its top one."""
    members, level = placement.members, placement.members.levels[header.depth]
    if header.depth != placement.shown_depths[0] or header.depth == 0 or level.keys[header.code] is None:
        return ()
    return () if says_of(members, header.depth, header.code) else members.captions_of(header.depth, header.code)[:-1]


def _is_part_filled(axis: Axis, header: Header) -> bool:
    told = axis.part_filled[header.place] if axis.part_filled else ()
    return bool(told) and header.code < len(told[header.depth]) and bool(told[header.depth][header.code])


def _row_of_layout(members: HierarchyMembers, code: int) -> RowOfLayout | None:
    row = members.row(code) if isinstance(members, LaidOutMembers) else None
    if row is None or not isinstance(members, LaidOutMembers):
        return None
    layout = members.layout
    return RowOfLayout(
        row.kind, row.indent, row.is_strong, row.rule_above, row.rule_below, pattern_of_row(layout, row),
        favour_of_row(layout, row),
    )  # fmt: skip


KnownHeaders = dict[Header, MemberHeader]
"""Members of one axis that were put into a header already: those that others stand in come again and again."""


def member_headers(axis: Axis, chain: list[Header], known: KnownHeaders | None = None) -> tuple[MemberHeader, ...]:
    """The members in which a header stands, outermost first, each with what can be done to it."""
    known = known if known is not None else {}
    headers = []
    for one in chain:
        found = known.get(one)
        if found is None:
            found = known[one] = member_header(axis, one)
        headers.append(found)
    if not any(axis.placements[one.place].opens_into is not None for one in chain):
        return tuple(headers)
    deepest: dict[int, PlacedMember] = {}
    for at, (each, header) in enumerate(zip(chain, headers, strict=True)):
        deepest[each.place] = PlacedMember(dimension=header.dimension, hierarchy=header.hierarchy, path=header.path)
        inner = axis.placements[each.place].opens_into
        is_edge = not header.is_open and not any(one.place == each.place for one in chain[at + 1 :])
        if inner is not None and is_edge and not any(one.is_others for one in chain[: at + 1]):
            into = OpensInto(inner.dimension, inner.hierarchy, tuple(deepest.values()))
            is_open = Under(members=into.members) in (inner.only_under or ())
            headers[at] = replace(header, can_open=True, is_open=is_open, opens_into=into)
    return tuple(headers)


def _row_headers(answer: Answer, rows: np.ndarray, known: KnownHeaders) -> tuple[RowHeader, ...]:
    lines = answer.row_lines
    chains = lines.axis.chains(lines.entry[rows])
    return tuple(_row_header(answer, line, chain, known) for line, chain in zip(rows.tolist(), chains, strict=True))


def _row_header(answer: Answer, line: int, chain: list[Header], known: KnownHeaders) -> RowHeader:
    lines = answer.row_lines
    axis, measure = lines.axis, int(lines.measure[line])
    outside = lines.outside
    outer = chain if outside is None else [each for each in chain if each.place < outside]
    if outside is not None and measure == ALL:
        chain = outer  # a heading above the measures
    members = member_headers(axis, chain, known)
    captions = [each.caption for each in members] or [axis.all_caption]
    indent = max(len(members) - 1, 0)
    if outside is not None and measure != ALL:
        has_top = bool(outer) or outside == len(axis.placements)
        place = len(outer) if members else int(has_top)
        captions = captions if members or has_top else []
        captions.insert(place, answer.measures[measure].caption)
        indent = len(captions) - 1
        if lines.closes[line]:
            captions.append(TOTAL if outer else axis.all_caption)
            indent += 1
    indent += sum(each.row.indent for each in members if each.row is not None)
    own = chain[-1] if chain else None
    is_own = own is not None and (outside is None or measure == ALL or len(chain) > len(outer))
    is_flat = bool(axis.placements) and axis.placements[-1].placed.order.across and own is not None
    return RowHeader(
        members[-1] if is_own else None,
        " › ".join(captions) if is_flat else captions[-1],
        0 if is_flat else indent,
        sum(each.place == own.place for each in chain) - 1 if own is not None else 0,
        own.place if own is not None else 0,
        tuple(captions[:-1]),
        members,
        measure if measure != ALL else None,
        not lines.has_figures[line],
    )


def _column_headers(lines: Lines, columns: np.ndarray) -> tuple[ColumnHeader, ...]:
    chains, known = lines.axis.chains(lines.entry[columns]), KnownHeaders()
    return tuple(
        _column_header(lines, line, chain, known) for line, chain in zip(columns.tolist(), chains, strict=True)
    )


def _column_header(lines: Lines, line: int, chain: list[Header], known: KnownHeaders) -> ColumnHeader:
    members = member_headers(lines.axis, chain, known)
    outer = len(chain) if lines.outside is None else sum(each.place < lines.outside for each in chain)
    measure = int(lines.measure[line])
    caption = members[-1].caption if members else lines.axis.all_caption
    return ColumnHeader(members, caption, outer, measure if measure != ALL else None)


def _cells(answer: Answer, rows: np.ndarray, columns: np.ndarray) -> tuple[tuple[Number, ...], ...]:
    """The cells of some lines, rows by columns."""
    cells, measures = cells_at(answer, rows, columns)
    numbers = np.full(cells.shape, None, object)
    for number, values in enumerate(answer.values):
        own = (cells >= 0) & (measures == number)
        own[own] = values.present[cells[own]]
        numbers[own] = as_numbers(values, cells[own])
    return tuple(tuple(line) for line in numbers.tolist())


def places_of(answer: Answer, rows: np.ndarray, columns: np.ndarray) -> list[list[tuple[int, int] | None]]:
    """Which cell of the answer, of which measure, stands in some lines, rows by columns; None where there is none."""
    cells, measures = cells_at(answer, rows, columns)
    return [
        [(cell, measure) if cell >= 0 else None for cell, measure in zip(*line, strict=True)]
        for line in zip(cells.tolist(), measures.tolist(), strict=True)
    ]


def cells_at(answer: Answer, rows: np.ndarray, columns: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Which cells of the answer, of which measures, stand in some lines: two `(n_rows, n_columns) int64`, -1 for none.

    Cells lie by row, and by column inside a row: all columns are looked for in all rows at a time, by halving.
    """
    row_lines, column_lines = answer.row_lines, answer.column_lines
    entries, wanted = row_lines.entry[rows], column_lines.entry[columns]
    own = row_lines.measure[rows][:, None]
    measures = np.where(own != ALL, own, np.maximum(column_lines.measure[columns], 0)[None, :])
    low = np.searchsorted(answer.cell_rows, entries)
    high = np.where(row_lines.has_figures[rows], np.searchsorted(answer.cell_rows, entries, "right"), low)
    ends = np.broadcast_to(high[:, None], measures.shape)
    starts = np.broadcast_to(low[:, None], measures.shape).copy()
    if not len(answer.cell_columns) or not measures.size:
        return np.full(measures.shape, -1), measures
    last = len(answer.cell_columns) - 1
    beyond = ends.copy()
    for _ in range(int((high - low).max()).bit_length()):
        middle = (starts + beyond) // 2
        is_less = (starts < beyond) & (answer.cell_columns[np.minimum(middle, last)] < wanted)
        starts, beyond = np.where(is_less, middle + 1, starts), np.where(is_less, beyond, np.maximum(middle, starts))
    is_there = (starts < ends) & (answer.cell_columns[np.minimum(starts, last)] == wanted)
    return np.where(is_there, starts, -1), measures


def as_numbers(values: Values, places: np.ndarray) -> list[Number]:
    """Present values for JSON, losing no digit."""
    data = values.data[places]
    if values.scale is None or not len(data):
        return [*data.tolist()]
    if data.max() > _EXACT_IN_FLOAT or data.min() < -_EXACT_IN_FLOAT:
        return [as_number(values, place) for place in places.tolist()]
    return [*(data if values.scale == 0 else data / float(10**values.scale)).tolist()]


def as_number(values: Values, place: int) -> Number:
    """A present value for JSON, losing no digit."""
    value = values.data[place]
    if values.scale is None:
        return float(value)
    if abs(int(value)) > _EXACT_IN_FLOAT:
        return str(values.at(place))
    return int(value) if values.scale == 0 else int(value) / 10**values.scale
