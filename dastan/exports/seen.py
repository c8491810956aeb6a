"""A table as it is seen, line by line: for copies and files that look as the screen does, with every digit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from functools import cached_property
from typing import Literal, Protocol

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis, AxisName, Dress, NumberDress, PlacedMeasure, PlacedMember
from dastan.core.analysis.dress import Written, written
from dastan.core.analysis.made import with_made
from dastan.core.analysis.made_members import with_made_members
from dastan.core.analysis.sentence import dimension_words
from dastan.core.analysis.view_captions import heading_of
from dastan.core.analysis.views import is_difference, is_itself
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.waist import Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.model.document import SemanticModel
from dastan.core.model.parts import MemberPath
from dastan.core.model.pattern import MONEY
from dastan.core.reading.chart import ChartData, chart_of, innermost, innermost_range
from dastan.core.reading.marks import Mark, marks_of
from dastan.core.reading.window import ColumnHeader, MemberHeader, Number, RowHeader, lines_of, window_of
from dastan.exports.flat import FlatTable

BLOCK = 400
BLOCK_CELLS = 100_000
"""So many rows, and cells, are looked at together."""
STEP = "  "
"""What a row is stepped in by, for each header that it stands under."""
MEASURES = "Measures"
IN_PART = ", in part"


class Headed(Protocol):
    """A row or a column, by the members that it stands in."""

    @property
    def members(self) -> tuple[MemberHeader, ...]: ...


@dataclass(frozen=True)
class Selected:
    """Some members of one axis: the rows or columns that stand in one of them."""

    axis: AxisName
    members: tuple[PlacedMember, ...]

    @cached_property
    def _wanted(self) -> set[tuple[str, str, MemberPath]]:
        return {(each.dimension, each.hierarchy, each.path) for each in self.members}

    def has_row(self, _at: int, header: Headed) -> bool:
        return self._holds(header, "rows")

    def has_column(self, _at: int, header: Headed) -> bool:
        return self._holds(header, "columns")

    def rows_of(self, count: int) -> range:
        """Where its rows may be."""
        return range(count)

    def _holds(self, header: Headed, axis: AxisName) -> bool:
        """Whether a header is selected; every one of the other axis is."""
        return axis != self.axis or any(
            (each.dimension, each.hierarchy, each.path) in self._wanted and not each.is_others
            for each in header.members
        )


@dataclass(frozen=True, slots=True)
class Block:
    """Some rows and columns beside each other, by their place in the table."""

    rows: range
    columns: range

    def has_row(self, at: int, _header: Headed) -> bool:
        return at in self.rows

    def has_column(self, at: int, _header: Headed) -> bool:
        return at in self.columns

    def rows_of(self, count: int) -> range:
        return range(max(self.rows.start, 0), min(self.rows.stop, count))


@dataclass(frozen=True, slots=True)
class SeenRow:
    """A row: what it is of, what stands in its labels, and its values, one for each column. Below an innermost one
    nothing stands."""

    header: RowHeader
    labels: list[str]
    values: tuple[Number, ...]
    is_innermost: bool


class SeenTable:
    """An answer as a document shows it: rows of column heads, then each row's labels and figures.

    Args: `dress` is how the table looks now; the answer itself knows none. `only` are the lines that are wanted.
    """

    def __init__(
        self, answer: Answer, document: Analysis, dress: Dress, model: SemanticModel, members: Members,
        only: Selected | Block | None = None,
    ) -> None:  # fmt: skip
        self._answer, self._dress, self._only, self._model = answer, dress, only, model
        self._whole = window_of(answer, 0, 0, 0, len(answer.column_lines))
        self._columns = [at for at, each in enumerate(self._whole.columns) if only is None or only.has_column(at, each)]
        question = document.question
        self._placed = question.measures
        by_measure = {each.measure: each for each in dress.numbers}
        self._looks = [written(by_measure.get(each, document.dress_of(each)), model) for each in question.measures]
        # A view that has a unit of its own is written so in every row.
        self._is_like_rows = [is_itself(each.view) or is_difference(each.view) for each in question.measures]
        self._measures = [
            _headed(heading_of(at, question, model, members), look, answer.measures[at].unit)
            for at, look in enumerate(self._looks)
        ]
        self._innermost_rows = innermost(answer.rows)[answer.row_lines.entry]
        self._innermost_columns = innermost(answer.columns)[answer.column_lines.entry]
        self.sums_below = any(each.totals == "after" for each in question.rows)
        """Whether what some rows come to stands below them."""
        rows = answer.rows.placements
        self._is_flat = bool(rows) and rows[-1].placed.order.across
        self._corner = " › ".join(dimension_words(document, each, model) for each in question.rows)

    @property
    def column_count(self) -> int:
        """How many columns of figures it has."""
        return len(self._columns)

    def heads(self) -> list[list[str]]:
        """The rows above the figures: the labels' own names, then what each column is of."""
        columns = [self._whole.columns[at] for at in self._columns]
        found = [self._head(each) for each in columns]
        depth = max([1, *(len(each) for each in found)])
        labels = self._label_names()
        return [
            [
                *(labels if at == depth - 1 else [""] * len(labels)),
                *(each[at] if at < len(each) else "" for each in found),
            ]
            for at in range(depth)
        ]

    @property
    def size_bytes(self) -> int:
        """How much memory its numbers take."""
        return self._answer.size_bytes

    @property
    def newest(self) -> str | None:
        """The last day that its facts have records of."""
        return self._answer.newest

    def flat(self) -> FlatTable:
        """The same numbers flat, each measure under its whole name."""
        return FlatTable(self._answer, [each.caption for each in self._answer.measures])

    @property
    def columns(self) -> list[ColumnHeader]:
        """What each column of figures is of."""
        return [self._whole.columns[at] for at in self._columns]

    @property
    def row_count(self) -> int:
        """How many rows of figures it has, selected or not."""
        return len(self._answer.row_lines)

    @property
    def total_rows(self) -> range:
        """Which rows are the grand total's."""
        return range(self._answer.row_lines.total_start, self._answer.row_lines.total_end)

    def lines(self, watch: Watch | None = None) -> Iterator[tuple[list[str], list[str]]]:
        """Each row as texts: its labels and its figures, blank where there is none. As `rows`, of its watch too."""
        columns = self.columns
        for row in self.rows(watch):
            figures = [self._figure(value, row.header, each) for value, each in zip(row.values, columns, strict=True)]
            yield row.labels, figures

    def rows(self, watch: Watch | None = None) -> Iterator[SeenRow]:
        """Each row. Its progress is told to a watch, which may take it back: raises CancelledError then."""
        before: list[str] = []
        count = self.row_count
        wanted = self._only.rows_of(count) if self._only is not None else range(count)
        step = max(1, min(BLOCK, BLOCK_CELLS // max(len(self._columns), 1)))
        if watch is not None:
            watch.expect(-(-len(wanted) // step))
        for start in range(wanted.start, wanted.stop, step):
            if watch is not None:
                watch.check()
                watch.note_done()
            rows, cells = lines_of(self._answer, range(start, min(start + step, wanted.stop)), self._columns)
            for at, (row, values) in enumerate(zip(rows, cells, strict=True), start=start):
                if self._only is not None and not self._only.has_row(at, row):
                    continue
                labels = self._labels(row)
                shown = labels
                if self._dress.rows == "levels" and not self._dress.repeats_labels:
                    own = next(
                        (at for at, each in enumerate(labels) if labels[: at + 1] != before[: at + 1]), len(labels)
                    )
                    shown = [*("" for _ in labels[:own]), *labels[own:]] if own < len(labels) else labels
                before = labels
                yield SeenRow(row, shown, values, bool(self._innermost_rows[at]))

    def marked_rows(self, watch: Watch | None = None) -> Iterator[tuple[SeenRow, tuple[Mark | None, ...] | None]]:
        """Each row with the marks of its numbers; None where nothing is marked. Of the whole table alone."""
        block, marks = range(0), None
        for at, row in enumerate(self.rows(watch)):
            if at not in block:
                block = range(at, min(at + BLOCK, self.row_count))
                marks = marks_of(
                    self._answer, self._placed, self._dress.numbers, block, range(len(self._answer.column_lines))
                )
            yield row, marks.cells[at - block.start] if marks is not None else None

    @property
    def view(self) -> Literal["table", "chart", "both"]:
        """What of it is looked at."""
        return self._dress.view

    def chart(self) -> ChartData:
        """The same drawn, as the dress asks."""
        return chart_of(self._answer, self._dress.chart, self._model)

    def heading(self, measure: int) -> str:
        """What a measure is called, with the unit of its figures."""
        return self._measures[measure]

    def look_of(self, measure: int) -> tuple[Written, str]:
        """How a measure's numbers are written, and the unit of their money."""
        return self._looks[measure], self._answer.measures[measure].unit

    def look(self, row: RowHeader, column: ColumnHeader) -> Written:
        """How the number is written where a row and a column meet."""
        at = (row.measure if row.measure is not None else column.measure) or 0
        said = _said_by(row, column) if self._is_like_rows[at] else None
        return Written(said, 1, False, "") if said else self._looks[at]

    def placed_in(self, column: ColumnHeader) -> PlacedMeasure | None:
        """The measure of a column's numbers; None where it is another in each row."""
        if self._whole.measures_on == "rows" and len(self._placed) > 1:
            return None
        return self._placed[column.measure or 0] if self._placed else None

    def numbers_of(self, column: ColumnHeader) -> NumberDress | None:
        """How the numbers of a column are dressed; None where nothing is said of them, or it is another in each row."""
        placed = self.placed_in(column)
        return next((each for each in self._dress.numbers if each.measure == placed), None)

    def ground_of(self, at: int) -> tuple[float, float] | None:
        """From what to what bars behind a column's numbers go: of all innermost numbers of its measure, as on screen.
        None where it is a total, which has none, or another measure's in each row."""
        column = self._whole.columns[self._columns[at]]
        if self.placed_in(column) is None or not self._innermost_columns[self._columns[at]]:
            return None
        found = [each for each in innermost_range(self._answer, column.measure or 0) if each is not None]
        far = max((abs(each) for each in found), default=0.0)
        ends = (-far if min(found, default=0.0) < 0 else 0.0, far)
        return (-ends[1], -ends[0]) if self.is_turned(column) else ends

    def is_turned(self, column: ColumnHeader) -> bool:
        """Whether a column's numbers are written with the other sign."""
        numbers = self.numbers_of(column)
        return numbers is not None and numbers.is_turned

    def money(self, row: RowHeader, column: ColumnHeader) -> str:
        """The unit of money of the number where a row and a column meet."""
        at = (row.measure if row.measure is not None else column.measure) or 0
        return self._answer.measures[at].unit if self._answer.measures else ""

    def _head(self, column: ColumnHeader) -> list[str]:
        """What a column is of, from the outermost down: members, its measure among them, and where it is a total."""
        outer = [self._label(each) for each in column.members[: column.outer]]
        inner = [self._label(each) for each in column.members[column.outer :]]
        outer_depth, inner_depth = self._whole.outer_depth, self._whole.inner_depth
        if not column.members and outer_depth + inner_depth:
            (outer if outer_depth else inner).append(column.caption)
        is_measured = self._whole.measures_on == "columns" and bool(self._measures)
        measure = [self._measures[column.measure or 0]] if is_measured else []
        return [*_filled(outer, outer_depth), *measure, *_filled(inner, inner_depth)]

    def _label_names(self) -> list[str]:
        if self._dress.rows != "levels":
            return [self._corner]
        names = [self._level_caption(each.dimension, each.hierarchy, each.level) for each in self._whole.row_levels]
        return [*names, *([MEASURES] if self._whole.measures_on == "rows" else [])] or [""]

    def _level_caption(self, dimension: str, hierarchy: str, level: str) -> str:
        for placement in self._answer.rows.placements:
            if (placement.placed.dimension, placement.placed.hierarchy) == (dimension, hierarchy):
                return next(each.caption for each in placement.members.levels if each.name == level)
        return level

    def _labels(self, row: RowHeader) -> list[str]:
        own = self._label(row.member) if row.member is not None else self._named(row)
        match self._dress.rows:
            case "stepped":
                # Rows that stand in one order across their parents are called by all of their path.
                return [row.caption if self._is_flat else f"{STEP * row.indent}{own}"]
            case "full_paths":
                return [" › ".join(self._path(row, own))]
            case _:
                levels = self._whole.row_levels
                found = [""] * len(self._label_names())
                for each in row.members:
                    at = next((at for at, one in enumerate(levels) if _is_of(each, one)), None)
                    if at is not None:
                        found[at] = self._label(each)
                if row.member is None:
                    found[
                        -1 if self._whole.measures_on == "rows" and (row.members or row.measure is not None) else 0
                    ] = own
                return found

    def _path(self, row: RowHeader, own: str) -> list[str]:
        """All that a row stands in, also above the level that a hierarchy begins at; measures among it."""
        found: list[str] = []
        members = list(row.members)
        for caption in (*row.above, None):
            named = bool(members) and (row.member is not None if caption is None else caption == members[0].caption)
            member = members.pop(0) if named else None
            found += [*member.within, self._label(member)] if member is not None else [caption or own]
        return found

    def _named(self, row: RowHeader) -> str:
        """What a row of no member is called: a measure, where the measures stand on the rows, or a total."""
        is_measure = row.measure is not None and row.caption == self._answer.measures[row.measure].caption
        return self._measures[row.measure or 0] if is_measure else row.caption

    def _label(self, member: MemberHeader) -> str:
        """What a member is called, as the dress says; of a period also that it is filled in part."""
        return f"{self._called(member)}{IN_PART if member.is_part_filled else ''}"

    def _called(self, member: MemberHeader) -> str:
        own = (member.dimension, member.hierarchy)
        shows = next((each.shows for each in self._dress.labels if (each.dimension, each.hierarchy) == own), "captions")
        key = member.path[-1] if member.path else None
        if shows == "captions" or member.is_others or member.says or key is None or str(key) == member.caption:
            return member.caption
        return str(key) if shows == "keys" else f"{member.caption} ({key})"

    def _figure(self, value: Number, row: RowHeader, column: ColumnHeader) -> str:
        return "" if value is None else figure(value, self.look(row, column))


def seen_by_all(document: Analysis, model: SemanticModel, source: Source, who: str) -> SeenTable:
    """The table of a document as it is seen, now, by whoever may see everything. Raises AppError."""
    result = answer(document, model, source, Rights(who), date.today())
    members = with_made_members(source.members, document)
    return SeenTable(result, document, document.dress, with_made(model, document), members)


def as_written(value: int | float | str, look: Written) -> Decimal:
    """A number as its dress scales and turns it, with all its digits."""
    return Decimal(str(value)) / look.divisor * (-1 if look.is_turned else 1)


def figure(value: int | float | str, look: Written) -> str:
    """A number with all its digits, as its dress scales and turns it; a share with its sign of per cent.

    >>> figure(1234.5, Written("#,##0", 1000, True, "")), figure(0.125, Written("0.0 %", 1, False, "%"))
    ('-1.2345', '12.5%')
    """
    number = as_written(value, look)
    is_share = "%" in look.pattern
    text = format((number * 100 if is_share else number).normalize(), "f")
    text = "0" if text == "-0" else text
    return f"{text}%" if is_share else text


def _headed(heading: str, look: Written, unit: str) -> str:
    """A measure's name with the unit of its figures, that of money too, which the screen has beside each number."""
    shown = look.unit or (unit if MONEY in look.pattern else "")
    return f"{heading}, {shown}" if shown and "%" not in look.pattern else heading


def _said_by(*headers: Headed) -> str | None:
    """How the innermost member that says anything of its numbers has them written, of the first header with one."""
    for header in headers:
        for each in reversed(header.members):
            if each.row is not None or each.format is not None:
                return each.row.format if each.row is not None else each.format
    return None


def _is_of(member: MemberHeader, level: object) -> bool:
    names = ("dimension", "hierarchy", "level")
    return all(getattr(member, each) == getattr(level, each) for each in names)


def _filled(captions: list[str], depth: int) -> list[str]:
    """Captions of a column that has fewer headers than others: the next one says that it is a total."""
    missing = depth - len(captions)
    if missing > 0 and captions:
        return [*captions, "total", *[""] * (missing - 1)]
    return [*captions, *[""] * max(missing, 0)]
