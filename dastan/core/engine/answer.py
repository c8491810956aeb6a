"""The way in: a document becomes an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import product

import numpy as np

from dastan.core.analysis.document import Analysis, AxisName
from dastan.core.analysis.resolve import check_document, find_dimension, find_measure
from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.axes import Axis, build_axis, is_seen
from dastan.core.engine.grains import AxisGrain, Placement, axis_grains, see
from dastan.core.engine.measures import base_aggregates, measure_values
from dastan.core.engine.openings import open_masks
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs
from dastan.core.engine.waist import Condition, Groups, MemberSet, Request, Rights, Source
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.reach import Grain, grain_of, reaches
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
    if not measures:
        return _unmeasured(document, model, rows, columns)
    pairs = [PairOfGrains(*each) for each in product(axis_grains(rows), axis_grains(columns))]
    shape = Shape(rows, columns)
    # What is open exists in periods in which nothing began, so its groups are its own.
    alike: dict[tuple[Grain, Condition, str], list[Measure]] = {}
    for each in measures:
        alone = each.name if each.aggregate == "open" else ""
        alike.setdefault((grain_of(each), _own_condition(each), alone), []).append(each)
    facts = [
        _ask(grain, own, found, document, model, rights, pairs, shape, group or source.group)
        for (grain, own, _), found in alike.items()
    ]
    row_axis = build_axis(
        rows, axis_grains(rows), _existing(facts, "rows", shape), True, _all_caption(document, model, "rows")
    )
    column_axis = build_axis(
        columns,
        axis_grains(columns),
        _existing(facts, "columns", shape),
        False,
        _all_caption(document, model, "columns"),
    )
    cells = [_cells(fact, model, row_axis, column_axis) for fact in facts]
    newest = max((day for fact in facts if (day := source.newest(fact.grain))), default=None)
    return Answer(measures, row_axis, column_axis, *_side_by_side(measures, cells, len(column_axis)), newest)


@dataclass(frozen=True, slots=True, eq=False)
class _Fact:
    """What was asked of one fact, by one set of roles and under one condition of the measures' own, and the groups
    of every pair of grains that reaches it."""

    grain: Grain
    measures: list[Measure]
    aggregates: tuple[BaseAggregate, ...]
    groups: dict[PairOfGrains, Groups]

    @property
    def is_open(self) -> bool:
        """Whether it counts what is open at a date."""
        return self.aggregates[0].kind == "open"


def _ask(
    grain: Grain,
    own_condition: Condition,
    measures: list[Measure],
    document: Analysis,
    model: SemanticModel,
    rights: Rights,
    pairs: list[PairOfGrains],
    shape: Shape,
    group: Callable[[Request], Groups],
) -> _Fact:
    """Groups one fact. Where a placed dimension does not reach it, only the totals above are asked; a filter
    on a dimension that does not reach it leaves it alone."""
    wanted = [base for each in measures for base in base_aggregates(each, model)]
    aggregates = tuple(dict.fromkeys(wanted if wanted[0].kind == "open" else [COUNT, *wanted]))

    def is_reached(dimension: str) -> bool:
        return reaches(model, grain, model.dimension(dimension))

    reached = [
        pair for pair in pairs if all(is_reached(placement.placed.dimension) for placement, _ in shape.parts(pair))
    ]
    condition = tuple(each for each in _condition(document) if is_reached(each.dimension))
    asked = Asked(grain, aggregates, own_condition + condition, rights)
    return _Fact(grain, measures, aggregates, group_pairs(reached, shape, asked, group))


def _existing(facts: list[_Fact], axis: AxisName, shape: Shape) -> dict[AxisGrain, tuple[np.ndarray, ...]]:
    """Per grain of an axis, the member codes for which any of the facts has a cell.

    Whatever has records somewhere has them in the total as well; but what is open somewhere may not be open on
    the total's last day, so there every seen cell counts.
    """
    found: dict[AxisGrain, list[np.ndarray]] = {}
    for fact in facts:
        for pair, groups in fact.groups.items():
            width = len(pair.rows.depths)
            rows, columns = groups.codes[:width], groups.codes[width:]
            own, codes = (pair.rows, rows) if axis == "rows" else (pair.columns, columns)
            other, across = (pair.columns, columns) if axis == "rows" else (pair.rows, rows)
            if own == _TOTAL or (other != _TOTAL and not fact.is_open):
                continue
            stacked = np.stack(codes, axis=1)
            if other != _TOTAL:
                stacked = stacked[is_seen(shape.columns if axis == "rows" else shape.rows, other, across)]
            found.setdefault(own, []).append(stacked)
    return {
        grain: tuple(np.unique(np.concatenate(codes), axis=0).T) if len(codes) > 1 else tuple(codes[0].T)
        for grain, codes in found.items()
    }


def _placements(document: Analysis, source: Source, axis: AxisName) -> tuple[Placement, ...]:
    placements = []
    for placed in document.question.axis(axis):
        members = source.members(placed.dimension, placed.hierarchy)
        opening = document.opening(placed.dimension, placed.hierarchy)
        placements.append(see(placed, members, open_masks(opening, members)))
    return tuple(placements)


def _own_condition(measure: Measure) -> Condition:
    return tuple(
        MemberSet(each.dimension, each.hierarchy, each.members, each.action == "keep") for each in measure.where
    )


def _condition(document: Analysis) -> Condition:
    return tuple(
        MemberSet(each.dimension, each.hierarchy, each.members, each.action == "keep")
        for each in document.question.filters
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Cells:
    """The cells of one fact that are seen: entries of both axes, and values by measure."""

    rows: np.ndarray
    columns: np.ndarray
    values: dict[str, Values]


def _cells(fact: _Fact, model: SemanticModel, rows: Axis, columns: Axis) -> _Cells:
    parts = []
    for pair, groups in fact.groups.items():
        width = len(pair.rows.depths)
        row = rows.entry_of(rows.grains.index(pair.rows), groups.codes[:width], len(groups))
        column = columns.entry_of(columns.grains.index(pair.columns), groups.codes[width:], len(groups))
        # Without levels there is one group even when no record is in scope: a cell over nothing is empty.
        seen = np.flatnonzero((row >= 0) & (column >= 0) & (groups.values[0].data > 0))
        values = {each.name: measure_values(each, model, fact.aggregates, groups).take(seen) for each in fact.measures}
        parts.append(_Cells(row[seen], column[seen], values))
    return _Cells(
        np.concatenate([each.rows for each in parts]),
        np.concatenate([each.columns for each in parts]),
        {each.name: _concatenated([part.values[each.name] for part in parts]) for each in fact.measures},
    )


def _side_by_side(
    measures: tuple[Measure, ...], facts: list[_Cells], column_count: int
) -> tuple[np.ndarray, np.ndarray, tuple[Values, ...]]:
    """The cells of all facts in one list, in order of row and column; a measure is empty where its fact has none."""
    places = [fact.rows * column_count + fact.columns for fact in facts]
    cells = np.unique(np.concatenate(places))
    found: dict[str, Values] = {}
    for fact, place in zip(facts, places, strict=True):
        at = np.searchsorted(cells, place)
        for name, values in fact.values.items():
            data, present = np.zeros(len(cells), values.data.dtype), np.zeros(len(cells), np.bool_)
            data[at], present[at] = values.data, values.present
            found[name] = Values(data, values.scale, present)
    return cells // column_count, cells % column_count, tuple(found[each.name] for each in measures)


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
