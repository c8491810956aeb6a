"""The way in: a document becomes an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from itertools import zip_longest

import numpy as np

from dastan.core.analysis.checks import check_document
from dastan.core.analysis.document import AXES, Analysis, AxisName, HeaderPath, Order, PlacedDimension
from dastan.core.analysis.placed import shown_measure
from dastan.core.analysis.resolve import find_dimension
from dastan.core.analysis.ways import leads_on
from dastan.core.engine.axes import Axis, build_axis
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.emptiness import without_empty
from dastan.core.engine.facts import Fact, ask_facts, plan_facts, seen_in, size_of_plans
from dastan.core.engine.grains import AxisGrain, Placement, axis_grains, see
from dastan.core.engine.layout import Lines, lay_out
from dastan.core.engine.limits import AxisLimits, find_limits
from dastan.core.engine.measures import grouped_values, measure_values
from dastan.core.engine.order import Totals, arrange
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.repeated import Along, repeated_totals
from dastan.core.engine.size import Budget, refuse_beyond, shown_levels
from dastan.core.engine.waist import Groups, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.reach import parts_of
from dastan.core.values import Values, joined, widened


@dataclass(frozen=True, slots=True, eq=False)
class Answer:
    """Two axes and the cells that exist, in order of row and then column.

    `cell_rows` and `cell_columns` are `(n_cells,) int64` entries of the axes; `values` holds one `Values`
    of that length per measure. A cell that is not listed is empty.
    """

    measures: tuple[Measure, ...]
    rows: Axis
    columns: Axis
    cell_rows: np.ndarray
    cell_columns: np.ndarray
    values: tuple[Values, ...]
    newest: str | None
    row_lines: Lines
    column_lines: Lines
    """How the headers stand in the table, the measures among them."""

    @property
    def size_bytes(self) -> int:
        """How much memory it takes, but for what it shares with others."""
        arrays = [self.cell_rows, self.cell_columns]
        arrays += [array for each in (self.rows, self.columns) for array in (each.grain, each.codes, each.is_heading)]
        arrays += [array for each in self.values for array in (each.data, each.present)]
        return sum(each.nbytes for each in arrays) + self.row_lines.size_bytes + self.column_lines.size_bytes


def answer(
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    today: date,
    group: Callable[[Request], Groups] | None = None,
    *,
    budget: Budget = Budget(),
    watch: Watch | None = None,
) -> Answer:
    """Answers a document: filters, conditions on measures, limits; then group, calculate, order, lay out.

    Args:
        today: what moving periods are counted from.
        group: answers requests, as a cache does that outlives the question; one is made for it without.
        budget: the largest question that is answered.
        watch: follows the question, and may take it back.
    Raises: NotFoundError, InputError (the document does not fit the model), LimitError (before anything is
        grouped, where the question is too large), CancelledError.
    """
    check_document(document, model)
    measures = tuple(shown_measure(each, model) for each in document.question.measures)
    group = group or GroupCache(source.group, source.members).group
    questioner = Questioner(document, model, source, rights, today, group, budget, watch or Watch())
    over = document.question.totals_over
    bare = Shape(*(AxisLimits(_placements(document, source, axis), over) for axis in AXES))
    plans = plan_facts(questioner, measures, bare)
    size = size_of_plans(plans, bare, questioner)
    refuse_beyond(size, budget, shown_levels(bare), questioner.seen.is_all)
    questioner.watch.admit(size.memory_bytes)
    limited = [find_limits(each, questioner.table) for each in (bare.rows, bare.columns)]
    shape = bare if limited == [bare.rows, bare.columns] else Shape(*limited)
    facts = ask_facts(plans, shape, questioner)
    questioner.watch.check()
    rows, columns = (_axis(axis, facts, shape, questioner) for axis in AXES)
    cells = [_cells(fact, rows, columns) for fact in facts]
    questioner.watch.check()
    values = _Valued(model, document, cells, rows, columns)
    question = document.question
    of_one = question.totals_of_one == "shown"
    rows, row_places = arrange(
        rows, Totals("rows", question.row_total, of_one), values.along_columns, values.repeated_rows
    )
    columns, column_places = arrange(
        columns, Totals("columns", question.column_total, of_one), values.along_rows, values.repeated_columns
    )
    questioner.watch.check()
    kept = [each.moved(row_places, column_places, rows.is_heading) for each in cells]
    newest = max((day for fact in facts if (day := questioner.seen.newest(fact.grain))), default=None)
    cell_rows, cell_columns, found = _side_by_side(measures, model, kept, len(rows), len(columns))
    hides_rows, hides_columns = map(question.hides_empty, AXES)
    if measures and (hides_rows or hides_columns):
        has_value = np.any([each.present for each in found], axis=0)
        if hides_rows:
            rows, places = without_empty(rows, np.bincount(cell_rows[has_value], minlength=len(rows)) > 0)
            cell_rows = places[cell_rows]
        if hides_columns:
            columns, places = without_empty(columns, np.bincount(cell_columns[has_value], minlength=len(columns)) > 0)
            cell_columns = places[cell_columns]
        stands = np.flatnonzero((cell_rows >= 0) & (cell_columns >= 0))
        cell_rows, cell_columns = cell_rows[stands], cell_columns[stands]
        found = tuple(each.take(stands) for each in found)
    lines = [lay_out(each, axis, question) for each, axis in ((rows, AXES[0]), (columns, AXES[1]))]
    return Answer(measures, rows, columns, cell_rows, cell_columns, found, newest, *lines)


def questioner_of(
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    today: date,
    group: Callable[[Request], Groups],
    budget: Budget,
) -> tuple[Questioner, Shape]:
    """What a document asks with, and its two axes with their limits: to look at one cell of its answer again."""
    questioner = Questioner(document, model, source, rights, today, group, budget, Watch())
    over = document.question.totals_over
    bare = [AxisLimits(_placements(document, source, axis), over) for axis in AXES]
    return questioner, Shape(*(find_limits(each, questioner.table) for each in bare))


def _placements(document: Analysis, source: Source, axis: AxisName) -> tuple[Placement, ...]:
    """What is seen of the hierarchies on an axis."""
    placements = []
    placed = document.question.axis(axis)
    for outer, inner in zip_longest(placed, placed[1:]):
        members = source.members(outer.dimension, outer.hierarchy)
        opening = document.opening(outer.dimension, outer.hierarchy)
        into = inner if inner is not None and leads_on(document, outer, inner) else None
        placements.append(see(outer, members, opening, into))
    return tuple(placements)


def _axis(axis: AxisName, facts: list[Fact], shape: Shape, questioner: Questioner) -> Axis:
    limits = shape.rows if axis == "rows" else shape.columns
    placements, question = limits.placements, questioner.document.question
    existing = seen_in(facts, axis, shape)
    if not question.measures:
        # Without a measure there are no records to ask: the outermost dimension shows its members.
        existing = _with_all_members({}, limits, 0, questioner)
    for place, placement in enumerate(placements):
        if placement.placed.all_members:
            existing = _with_all_members(existing, limits, place, questioner)
    placed = question.axis(axis)
    caption = find_dimension(questioner.model, placed[0].dimension).all_caption if placed else "Total"
    return build_axis(limits, existing, caption)


def _with_all_members(
    existing: dict[AxisGrain, np.ndarray], limits: AxisLimits, place: int, questioner: Questioner
) -> dict[AxisGrain, np.ndarray]:
    """The headers with every member of one place that the filters on its own dimension leave, blank ones left out."""
    placements = limits.placements
    if place >= len(placements):
        return existing
    placement = placements[place]
    allowed = _allowed_rows(placement.placed, questioner)
    visible = questioner.seen.members(placement.placed.dimension, placement.placed.hierarchy).visible
    found = dict(existing)
    for grain in axis_grains(placements[: place + 1]):
        if len(grain.depths) <= place or place in grain.others:
            continue
        depth = grain.depths[place]
        level = placement.members.levels[depth]
        codes = placement.members.codes_in(allowed, depth)
        codes = codes[visible[depth][codes]] if visible else codes
        codes = codes[[level.keys[code] is not None for code in codes]] if len(codes) else codes
        outer = found.get(grain.upto(place), np.empty((0, place), np.int32)) if place else np.empty((1, 0), np.int32)
        headers = np.column_stack([np.repeat(outer, len(codes), axis=0), np.tile(codes, len(outer))]).astype(np.int32)
        headers = headers[limits.stands(grain, headers)]
        # A member that stands brings in what it stands under, which may be a blank without records of its own.
        for upper in [each for each in placement.shown_depths if each <= depth]:
            above = headers.copy()
            above[:, place] = placement.members.at_depth(headers[:, place], depth, upper)
            at = grain.at(place, upper)
            both = [each for each in (found.get(at), above) if each is not None]
            found[at] = np.unique(np.concatenate(both), axis=0)
    return found


def _allowed_rows(placed: PlacedDimension, questioner: Questioner) -> np.ndarray:
    allowed = questioner.seen.allowed_rows(placed.dimension, questioner.filters).copy()
    allowed[-2:] = False
    return allowed


@dataclass(frozen=True, slots=True, eq=False)
class _Cells:
    """The cells of one fact that are seen: entries of both axes, and values by part of a measure."""

    rows: np.ndarray
    columns: np.ndarray
    values: dict[str, Values]

    def moved(self, row_places: np.ndarray, column_places: np.ndarray, is_heading: np.ndarray) -> _Cells:
        """The cells at the new places of their headers, without those that have no figures or are gone."""
        rows, columns = row_places[self.rows], column_places[self.columns]
        is_kept = (rows >= 0) & (columns >= 0)
        if is_heading.any():
            is_kept &= ~np.append(is_heading, False)[rows]
        return _Cells(rows, columns, self.values).only(is_kept)

    def only(self, is_kept: np.ndarray) -> _Cells:
        """Those cells."""
        if is_kept.all():
            return self
        kept = np.flatnonzero(is_kept)
        return _Cells(
            self.rows[kept], self.columns[kept], {name: each.take(kept) for name, each in self.values.items()}
        )


def _cells(fact: Fact, rows: Axis, columns: Axis) -> _Cells:
    pairs = list(fact.groups)
    row = np.concatenate([rows.entries_of(each.rows, fact.row_codes[each]) for each in pairs])
    column = np.concatenate([columns.entries_of(each.columns, fact.column_codes[each]) for each in pairs])
    count = np.concatenate([each.values[0].data for each in fact.groups.values()])
    values = {
        each.name: joined([grouped_values(each, fact.aggregates, groups) for groups in fact.groups.values()])
        for each in fact.measures
    }
    # Without levels there is one group even when no record is in scope: a cell over nothing is empty.
    return _Cells(row, column, values).only((row >= 0) & (column >= 0) & (count > 0))


@dataclass(frozen=True, slots=True, eq=False)
class _Valued:
    """The cells before they are put in order, asked for one header of an axis at a time."""

    model: SemanticModel
    document: Analysis
    cells: list[_Cells]
    rows: Axis
    columns: Axis

    def along_columns(self, order: Order) -> Values | None:
        """A measure's value for each row at one column."""
        return self._at(order, self.columns, len(self.rows), lambda each: (each.columns, each.rows))

    def along_rows(self, order: Order) -> Values | None:
        """A measure's value for each column at one row."""
        return self._at(order, self.rows, len(self.columns), lambda each: (each.rows, each.columns))

    def repeated_rows(self, has_figures: np.ndarray) -> np.ndarray:
        """Which rows say what their only child says, `(n,) bool`."""
        along = [Along(each.rows, each.columns, each.values) for each in self.cells]
        return repeated_totals(self.rows, has_figures, along, len(self.columns))

    def repeated_columns(self, has_figures: np.ndarray) -> np.ndarray:
        """Which columns say what their only child says, `(n,) bool`."""
        along = [Along(each.columns, each.rows, each.values) for each in self.cells]
        return repeated_totals(self.columns, has_figures, along, len(self.rows))

    def _at(
        self, order: Order, other: Axis, size: int, sides: Callable[[_Cells], tuple[np.ndarray, np.ndarray]]
    ) -> Values | None:
        entry = _entry_at(order.column, other)
        if entry is None or order.measure is None:
            return None
        measure = shown_measure(order.measure, self.model)
        if measure not in (shown_measure(each, self.model) for each in self.document.question.measures):
            return None  # the order waits until its measure is shown again
        found: dict[str, Values] = {}
        for each in self.cells:
            across, along = sides(each)
            here = np.flatnonzero(across == entry)
            for part in parts_of(measure, self.model):
                if part.name in each.values:
                    found[part.name] = widened(each.values[part.name].take(here), along[here], size)
        if any(part.name not in found for part in parts_of(measure, self.model)):
            return None
        return measure_values(measure, self.model, found)


def _entry_at(path: HeaderPath, axis: Axis) -> int | None:
    """The entry of a header, None where it does not stand on the axis now."""
    codes, depths = [], []
    for placement, members in zip(axis.placements, path.members, strict=False):
        code = placement.members.find(members)
        if code is None:
            return None
        codes.append(code)
        depths.append(len(members) - 1)
    if len(codes) < len(path.members):
        return None
    grain = AxisGrain(tuple(depths))
    entry = int(axis.entries_of(grain, np.array([codes], np.int32).reshape(1, -1))[0])
    return entry if entry >= 0 else None


def _side_by_side(
    measures: tuple[Measure, ...], model: SemanticModel, facts: list[_Cells], row_count: int, column_count: int
) -> tuple[np.ndarray, np.ndarray, tuple[Values, ...]]:
    """The cells of all facts in one list, in order of row and column; a measure is empty where its fact has none."""
    if not facts:
        nothing = np.empty(0, np.int64)
        return nothing, nothing, ()
    places = [fact.rows * column_count + fact.columns for fact in facts]
    parts: dict[str, Values] = {}
    if len(facts) == 1:
        # A fact has each cell once: it only needs to be put in order.
        order = _order(places[0], row_count * column_count)
        parts = {name: values.take(order) for name, values in facts[0].values.items()}
        rows, columns = facts[0].rows[order], facts[0].columns[order]
    else:
        cells, found_at = _numbered(places, row_count * column_count)
        for fact, at in zip(facts, found_at, strict=True):
            parts |= {name: widened(values, at, len(cells)) for name, values in fact.values.items()}
        rows, columns = cells // max(column_count, 1), cells % max(column_count, 1)
    return rows, columns, tuple(measure_values(each, model, parts) for each in measures)


def _order(places: np.ndarray, room: int) -> np.ndarray:
    """What puts different places in ascending order. Args: `room` is above every place."""
    if room > max(1 << 16, 8 * len(places)):
        return np.argsort(places)
    at = np.full(room, -1)
    at[places] = np.arange(len(places))
    return at[at >= 0]


def _numbered(places: list[np.ndarray], room: int) -> tuple[np.ndarray, list[np.ndarray]]:
    """The different places in ascending order, and which of them each one is. Args: `room` is above every place."""
    if room <= max(1 << 16, 8 * sum(len(each) for each in places)):
        number = np.zeros(room, np.int64)
        for each in places:
            number[each] = 1
        different = np.flatnonzero(number)
        number[different] = np.arange(len(different))
        return different, [number[each] for each in places]
    # Sorted by hand: NumPy's own `unique` hashes whole numbers, which is ten times slower for many.
    ordered = np.sort(np.concatenate(places))
    different = ordered[np.append(True, ordered[1:] != ordered[:-1])]
    return different, [np.searchsorted(different, each) for each in places]
