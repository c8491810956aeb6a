"""The way in: a document becomes an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import product

import numpy as np

from dastan.core.analysis.document import Analysis, AxisName
from dastan.core.analysis.resolve import check_document, find_dimension, find_measure, grain_of_question
from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.axes import Axis, build_axis
from dastan.core.engine.grains import AxisGrain, Placement, axis_grains, see
from dastan.core.engine.measures import base_aggregates, measure_values
from dastan.core.engine.openings import open_masks
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs
from dastan.core.engine.waist import Condition, Groups, MemberSet, Request, Rights, Source
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.values import Values, empty_values

COUNT = BaseAggregate("count")
_TOTAL = AxisGrain(())


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


def answer(
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    group: Callable[[Request], Groups] | None = None,
) -> Answer:
    """Answers a document: resolve, plan, group, calculate, lay out.

    Args: `group` may stand in for the source's own, as a cache of groups does.
    Raises: NotFoundError, InputError (the document does not fit the model), LimitError.
    """
    check_document(document, model)
    measures = tuple(find_measure(model, each.measure) for each in document.question.measures)
    rows, columns = (_placements(document, source, axis) for axis in ("rows", "columns"))
    row_grains, column_grains = axis_grains(rows), axis_grains(columns)
    grain = grain_of_question(document, model)
    if grain is None:
        return _unmeasured(document, model, rows, columns)
    aggregates = tuple(dict.fromkeys([COUNT, *(base for each in measures for base in base_aggregates(each))]))
    asked = Asked(grain, aggregates, _condition(document), rights)
    pairs = [PairOfGrains(*each) for each in product(row_grains, column_grains)]
    groups = group_pairs(pairs, Shape(rows, columns), asked, group or source.group)
    row_codes = {each: groups[PairOfGrains(each, _TOTAL)].codes for each in row_grains}
    column_codes = {each: groups[PairOfGrains(_TOTAL, each)].codes for each in column_grains}
    row_axis = build_axis(rows, row_grains, row_codes, True, _all_caption(document, model, "rows"))
    column_axis = build_axis(columns, column_grains, column_codes, False, _all_caption(document, model, "columns"))
    cells = [_cells(pair, groups[pair], measures, aggregates, row_axis, column_axis) for pair in pairs]
    return _laid_out(measures, row_axis, column_axis, cells, source.newest(grain))


def _placements(document: Analysis, source: Source, axis: AxisName) -> tuple[Placement, ...]:
    placements = []
    for placed in document.question.axis(axis):
        members = source.members(placed.dimension, placed.hierarchy)
        opening = document.opening(placed.dimension, placed.hierarchy)
        placements.append(see(placed, members, open_masks(opening, members)))
    return tuple(placements)


def _condition(document: Analysis) -> Condition:
    return tuple(
        MemberSet(each.dimension, each.hierarchy, each.members, each.action == "keep")
        for each in document.question.filters
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Cells:
    rows: np.ndarray
    columns: np.ndarray
    values: tuple[Values, ...]


def _cells(
    pair: PairOfGrains,
    groups: Groups,
    measures: tuple[Measure, ...],
    aggregates: tuple[BaseAggregate, ...],
    rows: Axis,
    columns: Axis,
) -> _Cells:
    """The cells of one pair of grains that are seen."""
    width = len(pair.rows.depths)
    row = rows.entry_of(rows.grains.index(pair.rows), groups.codes[:width], len(groups))
    column = columns.entry_of(columns.grains.index(pair.columns), groups.codes[width:], len(groups))
    # Without levels there is one group even when no record is in scope: a cell over nothing is empty.
    seen = np.flatnonzero((row >= 0) & (column >= 0) & (groups.values[0].data > 0))
    values = tuple(measure_values(each, aggregates, groups).take(seen) for each in measures)
    return _Cells(row[seen], column[seen], values)


def _laid_out(
    measures: tuple[Measure, ...], rows: Axis, columns: Axis, cells: list[_Cells], newest: str | None
) -> Answer:
    row = np.concatenate([each.rows for each in cells])
    column = np.concatenate([each.columns for each in cells])
    order = np.lexsort([column, row])
    values = tuple(_concatenated([each.values[place] for each in cells]).take(order) for place in range(len(measures)))
    return Answer(measures, rows, columns, row[order], column[order], values, newest)


def _concatenated(parts: list[Values]) -> Values:
    """Joins a measure's values from all grains; they have one scale wherever there are any."""
    filled = [each for each in parts if len(each)] or [empty_values(0, 0)]
    return Values(
        np.concatenate([each.data for each in filled]),
        filled[0].scale,
        np.concatenate([each.present for each in filled]),
    )


def _all_caption(document: Analysis, model: SemanticModel, axis: AxisName) -> str:
    """What an axis's grand total is called: after its outermost dimension, or plainly "Total"."""
    placed = document.question.axis(axis)
    return find_dimension(model, placed[0].dimension).all_caption if placed else "Total"


def _unmeasured(
    document: Analysis, model: SemanticModel, rows: tuple[Placement, ...], columns: tuple[Placement, ...]
) -> Answer:
    """Without a measure there are no records to ask: each axis shows the members of its outermost dimension."""
    axes = []
    shown: tuple[tuple[AxisName, tuple[Placement, ...]], ...] = (("rows", rows[:1]), ("columns", columns[:1]))
    for axis, placements in shown:
        grains = axis_grains(placements)
        existing = {each: (_without_nowhere(placements[0], each.depths[0]),) if each.depths else () for each in grains}
        axes.append(build_axis(placements, grains, existing, axis == "rows", _all_caption(document, model, axis)))
    nothing = np.empty(0, np.int64)
    return Answer((), axes[0], axes[1], nothing, nothing, (), None)


def _without_nowhere(placement: Placement, depth: int) -> np.ndarray:
    level = placement.members.levels[depth]
    return np.array([code for code in range(len(level)) if level.keys[code] is not None], np.int32)
