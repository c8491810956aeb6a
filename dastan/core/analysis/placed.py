"""A measure as it is placed: by its own aggregate, or by another that was chosen for it."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import PlacedMeasure
from dastan.core.analysis.resolve import find_measure
from dastan.core.analysis.view_words import plain_names, view_words
from dastan.core.analysis.views import (
    Balance,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    Share,
    Step,
    View,
    check_view,
    formula_with,
    is_change,
)
from dastan.core.errors import InputError
from dastan.core.formula.formula import Formula, OnRows, along_of
from dastan.core.model.document import Aggregate, Measure, SemanticModel
from dastan.core.model.meaning import formula_of

CHOICES: tuple[Aggregate, ...] = (
    "sum", "average", "min", "max", "median", "percentile", "count_values", "distinct", "variance", "deviation",
    "first", "last",
)  # fmt: skip
"""The aggregates that a person can choose for a measure with an argument."""

_WORDS: dict[str, str] = {
    "sum": "sum of", "average": "average of", "min": "least", "max": "greatest", "median": "median of",
    "count_values": "count of", "distinct": "different values of", "variance": "variance of",
    "deviation": "deviation of", "first": "first", "last": "last",
}  # fmt: skip
DATED: tuple[Aggregate, ...] = ("first", "last")
_COUNTS = {"count_values": "records", "distinct": "distinct"}
"""The aggregates that count, and what their numbers are of."""
_NEEDS_FRACTIONS = ("average", "median", "percentile", "variance", "deviation")


def shown_measure(placed: PlacedMeasure, model: SemanticModel, members: Members | None = None) -> Measure:
    """The measure that a placement shows, under a name of its own where its aggregate or a view of it was chosen.

    Args: `members` tell what a view calls the member that it is a change on; its key does without.
    Raises: NotFoundError; InputError for an aggregate or view that the measure cannot have.
    """
    measure = viewed_measure(placed, model)
    return measure if placed.view is None else _with_view(measure, placed.view, model, members)


def _with_view(measure: Measure, view: View, model: SemanticModel, members: Members | None) -> Measure:
    """The measure as a view shows it: under a name and caption of its own, and written as such numbers are."""
    check_view(view, measure, model)
    name, caption = (view_words(view, plain_names(model, each)) for each in (None, members))
    shown = replace(measure, name=f"{measure.name}|{name}", caption=f"{measure.caption}, its {caption}")
    match view:
        case Share() | CumulativeShare() | Change(shows="percent") | Step(shows="percent"):
            pattern = "+0.0 %;−0.0 %" if is_change(view) else "0.0 %"
            return replace(shown, unit="%", format=pattern)
        case Change(shows="difference") | Step(shows="difference") | Balance(shows="movement"):
            positive = measure.format.split(";")[0]
            return replace(shown, format=f"+{positive};−{positive}")
        case Beside(shows="percent"):
            return replace(shown, unit="%", format="0.0 %", favourable=None)
        case Beside(shows="ratio"):
            below = find_measure(model, view.measure)
            unit = f"{measure.unit} / {below.unit}" if measure.unit != below.unit else ""
            return replace(shown, unit=unit, format="#,##0.00", favourable=None)
        case Rank():
            return replace(shown, unit="", format="#,##0")
        case Index():
            return replace(shown, unit="first = 100", format="#,##0.0")
        case Moving(shows="average") if "." not in measure.format:
            return replace(shown, format=f"{measure.format}.0")
        case _:
            return shown


def shown_formula(placed: PlacedMeasure, model: SemanticModel, is_laid_out: bool = False) -> Formula:
    """What the values of a placement are worked out from. Raises as `shown_measure` does.

    Args: `is_laid_out`: whether rows of a financial layout stand in the table.
    """
    measure = viewed_measure(placed, model)
    formula = formula_of(measure, model)
    formula = OnRows(formula) if is_laid_out else formula
    return formula if placed.view is None else formula_with(placed.view, formula, measure, model)


def check_ranks(placed: PlacedMeasure, caption: str, model: SemanticModel) -> None:
    """Raises InputError for a measure by which nothing can be ranked or compared, for it has none alone."""
    if along_of(shown_formula(placed, model)):
        raise InputError(
            f"“{caption}” runs along a table, so nothing can be ranked or compared by it.",
            "Take a measure that it is made of.",
        )


def viewed_measure(placed: PlacedMeasure, model: SemanticModel) -> Measure:
    """The measure that a placement shows before any view of it. Raises as `shown_measure` does."""
    measure = find_measure(model, placed.measure)
    if placed.aggregate is None or (placed.aggregate == measure.aggregate and placed.percentile is None):
        return measure
    argument = argument_of(measure, model)
    if argument is None or placed.aggregate not in CHOICES:
        raise InputError(
            f"“{measure.caption}” cannot be shown as {aggregate_words(placed.aggregate)}.",
            "Only measures of a column or row formula can be aggregated in another way.",
        )
    if placed.aggregate in DATED and measure.time is None:
        raise InputError(
            f"“{measure.caption}” does not say by which calendar there is a first and a last.",
            "Give the measure `time` in the model.",
        )
    percentile = placed.percentile if placed.percentile is not None else 50.0
    if not 0 <= percentile <= 100:
        raise InputError(f"There is no {percentile:g}th percentile.", "Take one from 0 to 100.")
    suffix = f":{percentile:g}" if placed.aggregate == "percentile" else ""
    words = f"{_ordinal(percentile)} percentile of" if placed.aggregate == "percentile" else _WORDS[placed.aggregate]
    return replace(
        argument,
        name=f"{measure.name}:{placed.aggregate}{suffix}",
        caption=f"{words[:1].upper()}{words[1:]} {measure.caption[:1].lower()}{measure.caption[1:]}",
        aggregate=placed.aggregate,
        percentile=percentile if placed.aggregate == "percentile" else None,
        unit=_unit(measure, placed.aggregate),
        format=_format(measure.format, placed.aggregate),
        description=f"{measure.description} Here: {words} each record's value.".strip(),
    )


def _unit(measure: Measure, aggregate: Aggregate) -> str:
    """What numbers of another aggregate are of: the unit of a count says nothing of the values that were counted."""
    if aggregate in _COUNTS:
        return _COUNTS[aggregate]
    return "" if measure.aggregate in _COUNTS else measure.unit


def argument_of(measure: Measure, model: SemanticModel) -> Measure | None:
    """The measure whose expression is its argument record by record; of a ratio, one operand over the other.

    None where there is nothing to aggregate in another way.
    """
    if measure.aggregate != "ratio":
        return measure if measure.expression is not None else None
    above, below = model.measure(measure.numerator or ""), model.measure(measure.denominator or "")
    same_records = (above.table, above.roles, above.where) == (below.table, below.roles, below.where)
    if not same_records or above.aggregate != "sum" or below.aggregate != "sum":
        return None
    return replace(
        above, name=measure.name, caption=measure.caption, unit=measure.unit, format=measure.format,
        expression=f"({above.expression}) / ({below.expression})", description=measure.description,
    )  # fmt: skip


def aggregate_words(aggregate: str) -> str:
    """An aggregate as people say it: "an average", "different values"."""
    return {
        "sum": "a sum", "average": "an average", "min": "its least value", "max": "its greatest value",
        "median": "a median", "percentile": "a percentile", "count_values": "a count of values",
        "distinct": "a count of different values", "variance": "a variance", "deviation": "a deviation",
        "first": "its first value", "last": "its last value",
    }.get(aggregate, aggregate.replace("_", " "))  # fmt: skip


def _ordinal(number: float) -> str:
    """ "90th", "1st", "99.5th"."""
    ending = {1: "st", 2: "nd", 3: "rd"}.get(int(number) % 10, "th")
    return f"{number:g}{'th' if int(number) in (11, 12, 13) or number % 1 else ending}"


def _format(own: str, aggregate: Aggregate) -> str:
    if aggregate in _COUNTS:
        return "#,##0"
    return own + ".0" if aggregate in _NEEDS_FRACTIONS and "." not in own else own
