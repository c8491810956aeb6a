"""Quiet warnings: numbers that can be computed and say nothing, each with the better choice."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from dastan.core.analysis.alternatives import added_up, ranked_over
from dastan.core.analysis.captions import hierarchy_caption
from dastan.core.analysis.document import AXES, Analysis, PlacedMeasure
from dastan.core.analysis.gestures import (
    FilterMembers,
    Gesture,
    PutMeasure,
    SetAggregate,
)
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import argument_of, shown_measure
from dastan.core.analysis.resolve import find_hierarchy, find_measure
from dastan.core.errors import FormulaError
from dastan.core.formula.rows import ColumnRef, Operation, RowFormula, parse_rows
from dastan.core.model.document import Aggregate, Measure, SemanticModel
from dastan.core.model.meaning import parts_of
from dastan.core.model.reach import grain_of, reaches

_OF_NUMBERS: tuple[Aggregate, ...] = (
    "sum", "average", "weighted_average", "variance", "deviation", "median", "percentile", "debit", "credit",
)  # fmt: skip
_OF_AVERAGES: tuple[Aggregate, ...] = ("average", "sum")


@dataclass(frozen=True, slots=True)
class Warning:
    """What makes no sense, why, and the better choice with the gesture that makes it."""

    measure: str
    text: str
    better: str
    gesture: Gesture | None
    key: str
    """By which it is silenced."""


def warning_key(kind: str, of: str) -> str:
    """By what a warning is silenced: what it is about, whatever the numbers."""
    return f"{kind}/{of}"


def warnings_of(document: Analysis, model: SemanticModel) -> tuple[Warning, ...]:
    """The warnings about the measures of a document, in their order."""
    model = with_made(model, document)
    senseless = (makes_no_sense(each, model) for each in document.question.measures)
    found = (
        *(each for each in senseless if each is not None),
        *_unreached(document, model),
        *_alternatives(document, model),
    )
    return tuple(each for each in found if each.key not in document.dress.silenced)


def _alternatives(document: Analysis, model: SemanticModel) -> Iterator[Warning]:
    """Alternatives, such as actual and plan, that are added up."""
    for dimension, measure in added_up(document, model):
        hierarchy = dimension.hierarchies[0].name
        kept = FilterMembers(
            dimension=dimension.name, hierarchy=hierarchy, action="keep", members=dimension.default[:1]
        )  # fmt: skip
        yield Warning(
            measure.name,
            f"{measure.caption} adds up all of {dimension.caption}, where each stands in place of the others.",
            "Keep the usual one" if dimension.default else "",
            kept if dimension.default else None,
            warning_key("alternatives", dimension.name),
        )
    for dimension, measure in ranked_over(document, model):
        yield Warning(
            measure.name,
            f"What ranks by {measure.caption} adds up all of {dimension.caption}, where each stands in place of the "
            "others.",
            "", None, warning_key("alternatives ranked", dimension.name),
        )  # fmt: skip


def _unreached(document: Analysis, model: SemanticModel) -> Iterator[Warning]:
    """What a measure counts and something in the table does not tell: it counts in the totals over that alone."""
    told: set[tuple[str, str]] = set()
    for placed in document.question.measures:
        for part in parts_of(find_measure(model, placed.measure), model):
            for each in (each for axis in AXES for each in document.question.axis(axis)):
                dimension = model.dimension(each.dimension)
                key = (part.caption, each.dimension)
                if key in told or reaches(model, grain_of(part), dimension):
                    continue
                told.add(key)
                caption = hierarchy_caption(dimension, find_hierarchy(dimension, each.hierarchy))
                yield Warning(
                    part.name,
                    f"{part.caption} is not recorded by {caption}: it counts only where {caption} is added up.",
                    "", None, warning_key("not recorded", f"{part.name}/{each.dimension}"),
                )  # fmt: skip


def makes_no_sense(placed: PlacedMeasure, model: SemanticModel) -> Warning | None:
    """Why a measure by this aggregate says nothing; None where it does say something."""
    measure, shown = find_measure(model, placed.measure), shown_measure(placed, model)
    if shown.aggregate in _OF_NUMBERS and (column := _key_column(shown, measure, model)):
        return Warning(
            shown.name,
            f"{shown.caption} treats {column} as an amount, but it names things: added up, it says nothing.",
            "Count the different ones",
            SetAggregate(placed=placed, aggregate="distinct"),
            warning_key("key added up", shown.name),
        )
    if measure.aggregate == "balance" and placed.aggregate == "sum":
        return Warning(
            shown.name,
            f"{measure.caption} is a balance: added over time, each day counts what was there the day before as well.",
            f"Show {measure.caption} at the end of the period",
            SetAggregate(placed=placed),
            warning_key("balance added up", shown.name),
        )
    if shown.aggregate in _OF_AVERAGES and _is_quotient(shown):
        better = measure if measure.aggregate == "ratio" else _ratio_of(shown, model)
        gesture: Gesture | None = None
        if better is not None:
            gesture = SetAggregate(placed=placed) if better == measure else PutMeasure(measure=better.name)
        return Warning(
            shown.name,
            f"{shown.caption} averages a quotient of each record: a small record weighs as much as a large one.",
            f"Divide the sums: {better.caption}" if better is not None else "Divide two sums by a ratio in the model",
            gesture,
            warning_key("average of averages", shown.name),
        )
    return None


def _key_column(measure: Measure, own: Measure, model: SemanticModel) -> str | None:
    """The column of a measure's argument, where it holds keys and not amounts: it is declared so, records point by
    it, or the model's own measure counts the different ones."""
    formula = _formula(measure)
    if not isinstance(formula, ColumnRef):
        return None
    declared = model.tables[measure.table].columns.get(formula.name)
    ends = {(each.from_table, each.from_column) for each in model.relationships}
    ends |= {(each.to_table, each.to_column) for each in model.relationships}
    is_key = own.aggregate == "distinct" or (declared is not None and declared.is_key)
    is_key = is_key or (measure.table, formula.name) in ends
    return formula.name if is_key else None


def _is_quotient(measure: Measure) -> bool:
    formula = _formula(measure)
    return isinstance(formula, Operation) and formula.operator == "/"


def _ratio_of(measure: Measure, model: SemanticModel) -> Measure | None:
    """The model's ratio of the same two arguments, where it has one."""
    for each in model.measures:
        argument = argument_of(each, model) if each.aggregate == "ratio" else None
        if argument is not None and argument.table == measure.table and _formula(argument) == _formula(measure):
            return each
    return None


def _formula(measure: Measure) -> RowFormula | None:
    try:
        return parse_rows(measure.expression) if measure.expression is not None else None
    except FormulaError:
        return None
