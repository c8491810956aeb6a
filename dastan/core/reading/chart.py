"""An answer as a chart: its innermost headers as categories and series, without subtotals.

Nothing is computed anew but *others*, where there are too many members to draw and the measure may be added up.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dastan.core.analysis.document import AxisName, Chart, ChartForm
from dastan.core.engine.aggregates import reduce_values
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.layout import ALL, Lines
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.financial_layouts import pattern_of_row
from dastan.core.model.joints import JoinedMembers, ratios
from dastan.core.model.reach import is_calendar
from dastan.core.reading.window import OTHERS, MemberHeader, Number, as_numbers, member_headers

MOST_CATEGORIES: dict[ChartForm, int] = {"lines": 400, "areas": 400, "ring": 8, "heat": 120, "points": 400}
MOST_BARS = 60
MOST_SERIES = 12
MOST_HEAT_SERIES = 60
MOST_MEASURES = 3
"""Each measure has a panel and a scale of its own; more could not be read."""
ON_ONE_SCALE: tuple[ChartForm, ...] = ("bars", "stacked", "shares", "lines", "areas")
"""The forms in which measures can stand on one scale."""
STACKS: tuple[ChartForm, ...] = ("stacked", "shares")
FEW = 12
DWARFS = 3
"""So many times the largest of what is drawn, and the rest is not drawn beside it."""


@dataclass(frozen=True, slots=True)
class ChartHeader:
    """A category or a series: its captions from the outermost down, and the members in which it stands."""

    captions: tuple[str, ...]
    members: tuple[MemberHeader, ...]
    lines: tuple[int, ...] = ()
    """The lines of the answer in which its figures stand, one for each panel; none for what is added up here."""
    is_others: bool = False
    measure: int | None = None
    """Of a series: its measure, where several stand on one scale; its caption is the first then."""


@dataclass(frozen=True, slots=True)
class ChartPanel:
    """One measure, or the first of those on one scale: a line of values for each series, one for each category."""

    measure: int
    values: tuple[tuple[Number, ...], ...]


@dataclass(frozen=True, slots=True)
class ChartData:
    """What is drawn. `along` is the axis of the table whose members are the categories; `forms` those that fit,
    the most fitting one first. `notes` say what the drawing leaves out."""

    form: ChartForm
    forms: tuple[ChartForm, ...]
    along: AxisName
    categories: tuple[ChartHeader, ...]
    series: tuple[ChartHeader, ...]
    panels: tuple[ChartPanel, ...]
    notes: tuple[str, ...]
    one_scale: bool | None = None
    """Whether the measures stand on one scale, each a series; None where there is no choice."""


@dataclass(frozen=True, slots=True, eq=False)
class _Side:
    """One axis as the chart takes it. `group` is `(n_entries,) int64`: as which category or series an entry is drawn,
    -1 for none; the last group is the rest where it `has_rest`."""

    axis: Axis
    drawn: np.ndarray
    group: np.ndarray
    has_rest: bool
    note: str

    def __len__(self) -> int:
        return len(self.drawn) + self.has_rest


def chart_of(answer: Answer, chart: Chart, model: SemanticModel) -> ChartData:
    """The answer as the chart asks for it; in the most fitting form where it does not ask."""
    is_time: dict[AxisName, bool] = {"rows": _is_time(answer.rows, model), "columns": _is_time(answer.columns, model)}
    along = chart.along or _along(answer, is_time)
    axes = (answer.rows, answer.columns) if along == "rows" else (answer.columns, answer.rows)
    leaves = [_leaves(axis) for axis in axes]
    left_out = [_of_another_kind(*each) for each in zip(axes, leaves, strict=True)]
    leaves = [
        np.setdiff1d(own, other) if len(other) < len(own) else own for own, other in zip(leaves, left_out, strict=True)
    ]
    lengths = _lengths(axes[0], leaves[0]) if is_time[along] else []
    twice = [_counts_twice(*each) for each in zip(axes, leaves, strict=True)]
    forms = _fitting(answer, len(leaves[0]), len(leaves[1]), is_time[along], len(lengths) > 1, not any(twice))
    form = chart.form if chart.form in forms else forms[0]
    if form == "ring" and axes[1].total is not None:
        leaves[1] = np.array([axes[1].total])  # a ring has one series: the whole of each category
    can_join = _is_of_one_unit(answer) and form in ON_ONE_SCALE
    is_stack = form in STACKS and len(leaves[1]) == 1  # of the measures: nothing else could be stacked
    is_joined = can_join and (chart.one_scale or is_stack)
    most_measures = 2 if form == "points" else MOST_SERIES if is_joined else MOST_MEASURES
    measures = answer.measures[:most_measures]
    most_series = 1 if form == "ring" else MOST_HEAT_SERIES if form == "heat" else MOST_SERIES
    if is_joined:
        most_series = max(most_series // len(measures), 1)
    # Beside one another, a rest that is far larger would leave nothing to be seen of them.
    most = MOST_CATEGORIES.get(form, MOST_BARS)
    bars = ("bars", "lines", "stacked")
    categories = _side(answer, measures, axes[0], leaves, most, is_time[along], form in bars, not twice[0])
    series = _side(answer, measures, axes[1], leaves[::-1], most_series, False, form in bars[:2], not twice[1])
    notes = [each.note for each in (categories, series) if each.note]
    if chart.form is not None and form != chart.form:
        notes.insert(0, "The form that was chosen does not fit what is shown now; it waits.")
    if len(lengths) > 1:
        notes.append(f"{_listed(lengths)} stand side by side: a longer period has more in it than a shorter one.")
    shares = [_caption(axis, each) for axis, own in zip(axes, left_out, strict=True) for each in own.tolist()]
    if shares:
        notes.append(
            f"{_listed(shares)} {'is a number' if len(shares) == 1 else 'are numbers'} of another kind: in the table."
        )
    if len(measures) < len(answer.measures):
        notes.append(
            f"Drawn are {_listed([each.caption for each in measures])}; the table has {len(answer.measures)} measures."
        )
    panels = tuple(ChartPanel(at, _values(answer, at, categories, series)) for at in range(len(measures)))
    heads = [_headers(each, answer, len(measures)) for each in (categories, series)]
    if is_joined:
        heads[1] = _of_each_measure(heads[1], measures)
        panels = (ChartPanel(0, tuple(line for each in panels for line in each.values)),)
    return ChartData(
        form, forms, along, heads[0], heads[1], panels, tuple(notes), is_joined if can_join and not is_stack else None
    )


def _is_of_one_unit(answer: Answer) -> bool:
    """Whether there are several measures, and their numbers can be compared."""
    return len(answer.measures) > 1 and len({(each.unit, "%" in each.format) for each in answer.measures}) == 1


def _of_each_measure(series: tuple[ChartHeader, ...], measures: tuple[Measure, ...]) -> tuple[ChartHeader, ...]:
    """The series of each measure after those of the one before."""
    return tuple(
        replace(each, captions=(measure.caption, *(each.captions if len(series) > 1 else ())), measure=at)
        for at, measure in enumerate(measures)
        for each in series
    )


def innermost(axis: Axis) -> np.ndarray:
    """`(n,) bool`: the entries below which nothing stands."""
    return np.isin(np.arange(len(axis)), _leaves(axis))


def innermost_range(answer: Answer, measure: int) -> tuple[float | None, float | None]:
    """The least and the greatest of a measure's numbers, without totals."""
    rows, columns = (innermost(each) for each in (answer.rows, answer.columns))
    values = answer.values[measure]
    found = values.as_float()[rows[answer.cell_rows] & columns[answer.cell_columns] & values.present]
    return (float(found.min()), float(found.max())) if len(found) else (None, None)


def _along(answer: Answer, is_time: dict[AxisName, bool]) -> AxisName:
    """Time runs along the chart; else what stands on the rows does."""
    if not answer.rows.placements or (is_time["columns"] and not is_time["rows"]):
        return "columns" if answer.columns.placements else "rows"
    return "rows"


def _is_time(axis: Axis, model: SemanticModel) -> bool:
    """Whether a calendar stands innermost."""
    if not axis.placements:
        return False
    return is_calendar(model, model.dimension(axis.placements[-1].placed.dimension))


def _leaves(axis: Axis) -> np.ndarray:
    """The entries below which nothing stands, in order; the grand total's where there is nothing else."""
    has_below = np.zeros(len(axis), np.bool_)
    parents = axis.parents()
    has_below[parents[parents >= 0]] = True
    if axis.total is not None:
        has_below[axis.total] = True
    leaves = np.flatnonzero(~has_below & ~axis.is_heading)
    return leaves if len(leaves) or axis.total is None else np.array([axis.total])


def _lengths(axis: Axis, leaves: np.ndarray) -> list[str]:
    """The levels of the innermost periods, as years and quarters where one year is open."""
    members, place = axis.placements[-1].members, len(axis.placements) - 1
    depths: set[int] = set()
    for entry in leaves.tolist():
        own, code = axis.grains[int(axis.grain[entry])].depths, int(axis.codes[entry, place])
        # What is without a date is no period.
        if len(own) > place and members.levels[own[place]].keys[code] is not None:
            depths.add(own[place])
    return [members.levels[each].caption for each in sorted(depths)]


def _of_another_kind(axis: Axis, leaves: np.ndarray) -> np.ndarray:
    """Of some entries those of rows of a layout, or of joint members, that divide others: on the scale of these they
    would be nothing."""
    found = np.zeros(len(leaves), np.bool_)
    for place, placement in enumerate(axis.placements):
        layout = placement.layout
        if layout is not None:
            shares = [at for at, row in enumerate(layout.rows) if "%" in (pattern_of_row(layout, row) or "")]
            found |= np.isin(axis.codes[leaves, place], shares)
        for number, grain in enumerate(axis.grains):
            if len(grain.depths) > place and place not in grain.others:
                divided = np.isin(axis.codes[leaves, place], ratios(placement.members, grain.depths[place]))
                found |= divided & (axis.grain[leaves] == number)
    return leaves[found]


def _caption(axis: Axis, entry: int) -> str:
    return " › ".join(each.caption for each in member_headers(axis, axis.chain(entry)))


def _counts_twice(axis: Axis, leaves: np.ndarray) -> bool:
    """Whether some records are in several of the entries below which nothing stands: in a joint member, and beside it
    in those that it joins."""
    for place, placement in enumerate(axis.placements):
        members = placement.members
        if placement.layout is not None:
            return True  # a formula over rows has the records of these
        if not isinstance(members, JoinedMembers):
            continue
        depths = np.array([each.depths[place] if len(each.depths) > place else -1 for each in axis.grains])
        own, codes = depths[axis.grain[leaves]], axis.codes[leaves, place]
        is_member = (own >= 0) & (codes < np.array([len(each) for each in members.levels])[own])
        if members.overlap(own[is_member], codes[is_member]):
            return True
    return False


def _fitting(
    answer: Answer, categories: int, series: int, is_time: bool, is_uneven: bool, adds_up: bool
) -> tuple[ChartForm, ...]:
    """The forms that can show it, the most fitting one first. A line through uneven periods would tell of a fall."""
    fitting: list[ChartForm] = []
    if series > MOST_SERIES and categories > 1:
        fitting.append("heat")
    fitting += ["lines", "bars"] if is_time and categories > 2 and not is_uneven else ["bars", "lines"]
    # Parts of a whole add up, and none of them is below zero.
    parts = adds_up and all(
        each and (innermost_range(answer, at)[0] or 0) >= 0 for at, each in enumerate(answer.adds_up)
    )
    if parts and (series > 1 or _is_of_one_unit(answer)):
        fitting += STACKS
    if parts and is_time:
        fitting.append("areas")
    if len(answer.measures) > 1 and categories > 1:
        fitting.append("points")
    if parts and 1 < categories <= FEW:
        fitting.append("ring")
    if "heat" not in fitting and categories > 1 and series > 1:
        fitting.append("heat")
    return tuple(fitting)


def _side(
    answer: Answer,
    measures: tuple[Measure, ...],
    axis: Axis,
    leaves: list[np.ndarray],
    most: int,
    is_time: bool,
    is_beside: bool,
    adds_up: bool,
) -> _Side:
    """As many as can be drawn: the latest of time, the largest of others, in the order of the table.

    Args:
        leaves: the axis's own, then the other axis's.
        is_beside: whether the rest would stand beside the others, so that it must not dwarf them.
        adds_up: whether each record is in one entry only.
    """
    own, count = leaves[0], len(leaves[0])
    drawn, has_rest, note = own, False, ""
    if count > most and is_time:
        drawn, note = own[-most:], f"Drawn are the latest {most} of {count:,}; the table has them all."
    elif count > most:
        is_list = any(each.members.spread is not None for each in axis.placements)
        has_rest = not is_list and adds_up and all(answer.adds_up) and most > 1
        most -= has_rest
        size = _sizes(answer, axis, leaves[1])[own]
        order = np.argsort(-size, kind="stable")
        left = float(size[order[most:]].sum())
        rest = f"the rest is added up as {OTHERS}" if has_rest else "the rest is in the table"
        if has_rest and is_beside and left > DWARFS * size[order[0]]:
            has_rest, most = False, most + 1
            left = float(size[order[most:]].sum())
            share = f"{left / size.sum():.0%}".replace("%", " %")
            rest = f"the rest comes to {share} and would dwarf them: it is in the table"
        drawn = own[np.sort(order[:most])]
        note = f"Drawn are the largest {most} of {count:,}; {rest}."
    group = np.full(len(axis), -1)
    if has_rest:
        group[own] = len(drawn)
    group[drawn] = np.arange(len(drawn))
    return _Side(axis, drawn, group, has_rest, note)


def _sizes(answer: Answer, axis: Axis, across: np.ndarray) -> np.ndarray:
    """How much each entry comes to in the first measure over the other axis's innermost entries."""
    entries, others = answer.cell_rows, answer.cell_columns
    if axis is answer.columns:
        entries, others = others, entries
    if not answer.values:
        return np.zeros(len(axis))
    values = answer.values[0]
    counted = np.isin(others, across) & values.present
    return np.bincount(entries[counted], np.abs(values.as_float()[counted]), minlength=len(axis))


def _values(answer: Answer, at: int, categories: _Side, series: _Side) -> tuple[tuple[Number, ...], ...]:
    """A measure's values, one line for each series; those of a rest are added up, exactly. Raises LimitError where
    these leave 64 bits."""
    row_side, column_side = (categories, series) if categories.axis is answer.rows else (series, categories)
    row, column = row_side.group[answer.cell_rows], column_side.group[answer.cell_columns]
    values = answer.values[at]
    cells = np.flatnonzero((row >= 0) & (column >= 0) & values.present)
    line, place = (column[cells], row[cells]) if row_side is categories else (row[cells], column[cells])
    size = (len(series), len(categories))
    group = (line * len(categories) + place).astype(np.int64)
    flat = reduce_values("sum", values.take(cells), group, size[0] * size[1], answer.measures[at].caption)
    numbers = np.full(flat.present.shape, None, object)
    numbers[flat.present] = as_numbers(flat, np.flatnonzero(flat.present))
    return tuple(tuple(line) for line in numbers.reshape(size).tolist())


def _headers(side: _Side, answer: Answer, measures: int) -> tuple[ChartHeader, ...]:
    found = []
    lines = _lines_of(answer.row_lines if side.axis is answer.rows else answer.column_lines, side.drawn, measures)
    for chain, own in zip(side.axis.chains(side.drawn), lines, strict=True):
        members = member_headers(side.axis, chain)
        captions = tuple(each.caption for each in members) or (side.axis.all_caption,)
        found.append(ChartHeader(captions, members, own, any(each.is_others for each in members)))
    return (*found, ChartHeader((OTHERS,), (), (), True)) if side.has_rest else tuple(found)


def _lines_of(lines: Lines, drawn: np.ndarray, measures: int) -> list[tuple[int, ...]]:
    """In which line the figures of each drawn entry stand, measure by measure."""
    shown = np.flatnonzero(np.isin(lines.entry, drawn) & lines.has_figures)
    places = {(int(lines.entry[at]), int(lines.measure[at])): int(at) for at in shown}
    return [
        tuple(places.get((entry, at), places.get((entry, ALL), -1)) for at in range(measures))
        for entry in drawn.tolist()
    ]


def _listed(captions: list[str]) -> str:
    return " and ".join([", ".join(captions[:-1]), captions[-1]]) if len(captions) > 1 else captions[0]
