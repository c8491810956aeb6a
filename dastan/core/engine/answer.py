"""The way in: a document becomes an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dastan.core.analysis.document import Analysis, AxisName
from dastan.core.analysis.resolve import check_document, find_dimension, find_measure
from dastan.core.engine.axes import Axis, build_axis
from dastan.core.engine.facts import Fact, ask_facts, seen_in
from dastan.core.engine.grains import Placement, axis_grains, see
from dastan.core.engine.measures import measure_values
from dastan.core.engine.openings import open_masks
from dastan.core.engine.plan import Shape
from dastan.core.engine.waist import Groups, Request, Rights, Source
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.values import Values, empty_values


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
    shape = Shape(_placements(document, source, "rows"), _placements(document, source, "columns"))
    if not measures:
        return _unmeasured(document, model, shape)
    facts = ask_facts(document, model, measures, shape, rights, group or source.group)
    rows = build_axis(shape.rows, seen_in(facts, "rows", shape), True, _all_caption(document, model, "rows"))
    columns = build_axis(
        shape.columns, seen_in(facts, "columns", shape), False, _all_caption(document, model, "columns")
    )
    cells = [_cells(fact, model, rows, columns) for fact in facts]
    newest = max((day for fact in facts if (day := source.newest(fact.grain))), default=None)
    return Answer(measures, rows, columns, *_side_by_side(measures, cells, len(columns)), newest)


def _placements(document: Analysis, source: Source, axis: AxisName) -> tuple[Placement, ...]:
    placements = []
    for placed in document.question.axis(axis):
        members = source.members(placed.dimension, placed.hierarchy)
        opening = document.opening(placed.dimension, placed.hierarchy)
        placements.append(see(placed, members, open_masks(opening, members)))
    return tuple(placements)


@dataclass(frozen=True, slots=True, eq=False)
class _Cells:
    """The cells of one fact that are seen: entries of both axes, and values by measure."""

    rows: np.ndarray
    columns: np.ndarray
    values: dict[str, Values]


def _cells(fact: Fact, model: SemanticModel, rows: Axis, columns: Axis) -> _Cells:
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


def _unmeasured(document: Analysis, model: SemanticModel, shape: Shape) -> Answer:
    """Without a measure there are no records to ask: each axis shows the members of its outermost dimension."""
    axes = []
    shown: tuple[tuple[AxisName, tuple[Placement, ...]], ...] = (
        ("rows", shape.rows[:1]),
        ("columns", shape.columns[:1]),
    )
    for axis, placements in shown:
        existing = {
            each: (_without_nowhere(placements[0], each.depths[0]),) for each in axis_grains(placements) if each.depths
        }
        axes.append(build_axis(placements, existing, axis == "rows", _all_caption(document, model, axis)))
    nothing = np.empty(0, np.int64)
    return Answer((), axes[0], axes[1], nothing, nothing, (), None)


def _without_nowhere(placement: Placement, depth: int) -> np.ndarray:
    level = placement.members.levels[depth]
    return np.array([code for code in range(len(level)) if level.keys[code] is not None], np.int32)
