"""The records behind a cell: exactly those from which it is computed, and the value that they come to by themselves."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from math import fsum, isclose

import numpy as np

from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.view_terms import Exact, Term, view_terms
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.elsewhere import Elsewhere
from dastan.core.engine.grains import AxisGrain, header_sets
from dastan.core.engine.plan import PairOfGrains, Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.waist import (
    Condition,
    Conditions,
    DayRange,
    MemberSet,
    OpenAt,
    RecordsRequest,
    Source,
    dimensions_of,
)
from dastan.core.errors import InputError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.document import Measure
from dastan.core.model.formulas import base_aggregates, counted_among, counted_by
from dastan.core.model.meaning import Leaf, leaves_of_measure
from dastan.core.model.reach import Grain

_CLOSE = 1e-9


@dataclass(frozen=True, slots=True)
class CellPlace:
    """A cell of an answer: its entries on both axes, and which of the measures it shows."""

    row: int
    column: int
    measure: int


@dataclass(frozen=True, slots=True)
class Backing:
    """The records that one part of a measure counts in a cell, or in the scope that a term of a view looks at.

    `name` tells the parts of one cell apart. `request` is None where the headers do not reach the part's records, or
    there is no such scope: it is empty there. `days` are the loaded days of its period, of a balance; `day` is the one
    that it is taken at, or at whose end it is open. `among` are those of which it counts some, of a count under a
    condition of its own.
    """

    name: str
    caption: str
    part: Measure
    request: RecordsRequest | None
    day: str | None = None
    days: int = 0
    among: RecordsRequest | None = None


def place_of(answer: Answer, row: int, column: int) -> CellPlace:
    """The cell at a line of rows and one of columns. Raises InputError where there is none."""
    rows, columns = answer.row_lines, answer.column_lines
    if not answer.measures or not (0 <= row < len(rows) and 0 <= column < len(columns)):
        raise InputError("There is no such number in the table.", "Choose one that is shown.")
    if not rows.has_figures[row]:
        raise InputError("A heading has no numbers.", "Choose a number below it.")
    # The axis without measures has none on its lines; where neither tells them apart there is one.
    measure = max(int(rows.measure[row]), int(columns.measure[column]), 0)
    return CellPlace(int(rows.entry[row]), int(columns.entry[column]), measure)


def cell_at(answer: Answer, place: CellPlace) -> int | None:
    """A cell's place in the answer; None where no measure of the table has a record."""
    low, high = np.searchsorted(answer.cell_rows, [place.row, place.row + 1])
    at = int(low + np.searchsorted(answer.cell_columns[low:high], place.column))
    return at if at < high and answer.cell_columns[at] == place.column else None


def cell_value(answer: Answer, place: CellPlace) -> Exact:
    """The number that a cell shows, exact."""
    at = cell_at(answer, place)
    return None if at is None else answer.values[place.measure].at(at)


def backings_of_all(questioner: Questioner, shape: Shape) -> tuple[Backing, ...]:
    """The records of a whole table, each kind once: what its measures count over everything that it asks for, and what
    views of them look at besides."""
    everything = PairOfGrains(AxisGrain(()), AxisGrain(()))
    none = np.zeros((1, 0), np.int32)
    found: dict[tuple[Grain, frozenset[Condition], OpenAt | None], Backing] = {}
    for placed in questioner.document.question.measures:
        for term in view_terms(placed, questioner.model, questioner.seen.members):
            for leaf in leaves_of_measure(term.measure, questioner.model):
                own = _backing(leaf, term, leaf.measure.name, everything, (none, none), questioner, shape)
                if own.request is not None:
                    key = (own.request.grain, frozenset(own.request.condition), own.request.open_at)
                    found.setdefault(key, own)
    return tuple(found.values())


def header_conditions(axis: Axis, entry: int) -> tuple[MemberSet, ...]:
    """What it takes to belong to a header, hierarchy by hierarchy."""
    return header_sets(axis.placements, axis.grains[int(axis.grain[entry])], axis.codes[entry])


def limit_conditions(answer: Answer, place: CellPlace, shape: Shape) -> Conditions:
    """What limits hide from a cell: of the rest of a level, and of totals over what is shown."""
    pair, _ = _header_codes(answer, place)
    return shape.rows.condition(pair.rows) + shape.columns.condition(pair.columns)


def _header_codes(answer: Answer, place: CellPlace) -> tuple[PairOfGrains, tuple[np.ndarray, np.ndarray]]:
    """The grains of a cell's headers, and the codes of its row's and its column's, `(1, n_places)` each."""
    found = []
    for axis, entry in ((answer.rows, place.row), (answer.columns, place.column)):
        grain = axis.grains[int(axis.grain[entry])]
        found.append((grain, axis.codes[entry : entry + 1, : len(grain.depths)]))
    (rows, row_codes), (columns, column_codes) = found
    return PairOfGrains(rows, columns), (row_codes, column_codes)


def backings_by_term(
    answer: Answer, place: CellPlace, questioner: Questioner, shape: Shape
) -> tuple[tuple[Backing, ...], ...]:
    """The records of a cell's measure, of each of its terms where it is a view: one part for each that it stands on."""
    placed, model = questioner.document.question.measures[place.measure], questioner.model
    pair, codes = _header_codes(answer, place)
    found: list[tuple[Backing, ...]] = []
    names: set[str] = set()
    for term in view_terms(placed, model, questioner.seen.members):
        own = []
        for leaf in leaves_of_measure(term.measure, model):
            name, number = leaf.measure.name, 1
            while name in names:
                name, number = f"{leaf.measure.name}|{number}", number + 1
            names.add(name)
            own.append(_backing(leaf, term, name, pair, codes, questioner, shape))
        found.append(tuple(own))
    return tuple(found)


def backings_of(answer: Answer, place: CellPlace, questioner: Questioner, shape: Shape) -> tuple[Backing, ...]:
    """The records of each part of the cell's measure, of all its terms."""
    return tuple(each for term in backings_by_term(answer, place, questioner, shape) for each in term)


def _among(
    leaf: Leaf, term: Term, pair: PairOfGrains, codes: tuple[np.ndarray, np.ndarray], questioner: Questioner,
    shape: Shape,
) -> RecordsRequest | None:  # fmt: skip
    counted = counted_among(leaf.measure, leaf.sliced)
    if counted is None:
        return None
    scope = leaf.scope if leaf.scope is not None else term.scope
    records = questioner.records_of(counted)
    condition = Elsewhere(records, (), shape, questioner).behind(scope, pair, *codes)
    return None if condition is None else RecordsRequest(records.grain, condition, questioner.rights)


def _backing(
    leaf: Leaf, term: Term, name: str, pair: PairOfGrains, codes: tuple[np.ndarray, np.ndarray], questioner: Questioner,
    shape: Shape,
) -> Backing:  # fmt: skip
    part, scope = leaf.measure, leaf.scope if leaf.scope is not None else term.scope
    part = replace(part, over_time="last") if term.at_end else part
    caption = part.caption
    if term.measure.is_of_others and leaf.said is not None:
        caption = aloud(leaf.said, questioner.model, questioner.seen.members)
    nothing = Backing(name, f"{caption} {term.where}".strip(), part, None)
    records = questioner.records_of(counted_by(part))
    condition = Elsewhere(records, (), shape, questioner).behind(scope, pair, *codes)
    if condition is None:
        return nothing
    request = RecordsRequest(records.grain, condition, questioner.rights)
    found = replace(nothing, request=request, among=_among(leaf, term, pair, codes, questioner, shape))
    time = part.time or ""
    in_time = tuple(each for each in condition if dimensions_of(each) == {time})
    if part.aggregate == "balance":
        days = questioner.source.loaded_days(records.grain, time, in_time)
        if days is None:
            return found
        first, last = {"first": (days.first, days.first), "last": (days.last, days.last)}.get(
            part.over_time, (days.first, days.last)
        )
        own: Condition = DayRange(time, first, last)
        day = first if first == last and part.over_time != "average" else None
        return replace(found, request=replace(request, condition=(*condition, own)), day=day, days=days.count)
    if part.aggregate == "open":
        last_day = questioner.source.last_day(time, in_time)
        if last_day is None:
            return nothing
        others = tuple(each for each in condition if time not in dimensions_of(each))
        at = OpenAt(part.started or "", part.ended or "", last_day)
        return replace(found, request=replace(request, condition=others, open_at=at), day=last_day)
    return found


def record_count(backing: Backing, source: Source) -> int:
    """How many records stand behind a cell."""
    if backing.request is None:
        return 0
    return source.records(replace(backing.request, count=0)).total


def value_of_records(backing: Backing, count: int, source: Source) -> Exact:
    """What the records come to, worked out from their own values and not by the engine's way of grouping.

    None where there are none, but zero where it counts some of those that there are; and for first and last, which are
    one record's.
    """
    request, part = backing.request, backing.part
    if request is None or not count:
        has_others = backing.among is not None and source.records(replace(backing.among, count=0)).total > 0
        return 0 if has_others else None
    found = [_plain(each, request, count, source) for each in _values_needed(part)]
    if part.aggregate in ("average", "weighted_average"):
        above, below = found
        return None if above is None or not below else float(above) / float(below)
    if part.aggregate == "deviation":
        return None if found[0] is None else float(found[0]) ** 0.5
    if part.aggregate == "balance" and part.over_time == "average":
        return None if found[0] is None else float(found[0]) / max(backing.days, 1)
    return found[0]


def _values_needed(part: Measure) -> Iterator[BaseAggregate]:
    for each in base_aggregates(part):
        yield each._replace(kind="sum") if each.kind == "balance" else each


def _plain(aggregate: BaseAggregate, request: RecordsRequest, count: int, source: Source) -> Exact:
    if aggregate.kind in ("count", "open"):
        return count
    values = source.record_values(request, aggregate)
    data = values.data[values.present]
    if aggregate.kind == "count_values":
        return len(data)
    if aggregate.kind == "distinct":
        return len(np.unique(data))
    if not len(data):
        return None
    floats = values.as_float()[values.present]
    match aggregate.kind:
        case "percentile":
            return float(np.percentile(floats, aggregate.fraction * 100))
        case "variance":
            return float(np.var(floats, ddof=1)) if len(floats) > 1 else None
        case "sum":
            whole: int | float = int(np.sum(data, dtype=object)) if values.scale is not None else fsum(floats)
        case "min" | "max" as kind:
            best = data.min() if kind == "min" else data.max()
            whole = int(best) if values.scale is not None else float(best)
        case _:
            return None
    return Decimal(int(whole)).scaleb(-values.scale) if values.scale else whole


def is_comparable(measure_parts: tuple[Backing, ...]) -> bool:
    """Whether the records can be worked out by themselves to compare with the cell."""
    return all(each.part.aggregate not in ("first", "last") for each in measure_parts)


def agree(one: Exact, other: Exact) -> bool:
    """Whether two numbers are the same: exact ones to the last digit, floats within 1e-9."""
    if one is None or other is None:
        return one is other
    if isinstance(one, float) or isinstance(other, float):
        return isclose(float(one), float(other), rel_tol=_CLOSE, abs_tol=_CLOSE)
    return one == other
