"""Whether an expression makes sense: its kinds, its units, and what each part says of the model."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.formula.formula import rolls_up
from dastan.core.formula.units import PLAIN, Unit, times, unit_of
from dastan.core.model.condition_faults import condition_faults
from dastan.core.model.conditions import MeasureFilter, ReadyFilter, leaves_of
from dastan.core.model.document import SemanticModel
from dastan.core.model.expression import (
    MOST_DEPTH,
    MOST_PARTS,
    Arithmetic,
    Before,
    Brought,
    Call,
    Case,
    Comparison,
    Expression,
    IsNull,
    Logic,
    MeasureOf,
    Negative,
    NumberOf,
    Only,
    Opposite,
    Runs,
    StandsAt,
    UpToDate,
    all_parts,
    measures_named,
    parts_of_expression,
)
from dastan.core.model.expression_shape import ExpressionError, check_shape, measure_of
from dastan.core.model.formulas import formula_of_part
from dastan.core.model.meaning import formula_of_leaf, leaves_of_expression, worked_out
from dastan.core.model.reach import grain_of, is_calendar, reaches

_KEEPS_UNIT = ("abs", "round", "floor", "ceiling", "mod", "coalesce", "nullif", "least", "greatest")
_ALIKE = ("mod", "coalesce", "nullif", "least", "greatest")


def check_expression(expression: Expression, model: SemanticModel, name: str = "") -> Unit:
    """The unit of a measure that an expression defines. Args: `name` is the measure's.

    Raises: ExpressionError for the first thing in it that has no meaning.
    """
    parts = list(all_parts(expression))
    if len(parts) > MOST_PARTS:
        raise ExpressionError(expression, f"More than {MOST_PARTS} parts.", "Make a measure of some of them.")
    if _depth(expression) > MOST_DEPTH:
        raise ExpressionError(
            expression, f"More than {MOST_DEPTH} steps inside one another.", "Make a measure of some of them."
        )
    unit = unit_of_expression(expression, model)
    if is_truth(expression):
        raise ExpressionError(
            expression, "This is true or false, and a measure is a number.", "Choose one: case when … then … end."
        )
    if not any(isinstance(each, MeasureOf) for each in parts):
        raise ExpressionError(expression, "A formula stands on at least one measure.", "Name one.")
    worked_out(expression, model, formula_of_leaf, name)
    for each in parts:
        for fault in _part_faults(each, model):
            raise fault
    return unit


def _depth(expression: Expression) -> int:
    return 1 + max((_depth(each) for each in parts_of_expression(expression)), default=0)


def _part_faults(part: Expression, model: SemanticModel) -> Iterator[ExpressionError]:
    if isinstance(part, Only):
        for condition in part.conditions:
            if any(isinstance(each, MeasureFilter | ReadyFilter) for each in leaves_of(condition)):
                yield ExpressionError(part, "A slice is told by members and their attributes.", "Compare a level.")
            for fault in condition_faults(condition, model, lambda _: False):
                yield ExpressionError(part, fault.message, fault.hint)
    if isinstance(part, UpToDate):
        for leaf in leaves_of_expression(part.of, model):
            if not rolls_up(formula_of_part(leaf.measure)):
                yield ExpressionError(
                    part, f"{leaf.measure.caption} cannot be added up to a date: its parts do not make up a total.",
                    "Take a sum, a count, a least or greatest value, or divide two such.",
                )  # fmt: skip
    if isinstance(part, Before | UpToDate):
        dimension = model.dimension(part.dimension if isinstance(part, Before) else part.level.dimension)
        if dimension.key is None or not is_calendar(model, dimension):
            yield ExpressionError(
                part, f"{dimension.caption} is not a calendar, so nothing lies before its members.",
                "Take a calendar dimension.",
            )  # fmt: skip
    if isinstance(part, Brought):
        dimension = model.dimension(part.level.dimension)
        for leaf in leaves_of_expression(part.of, model):
            if not reaches(model, grain_of(leaf.measure), dimension):
                yield ExpressionError(
                    part, f"{dimension.caption} does not reach the records of {leaf.measure.caption}.",
                    "Take a level of a dimension that does.",
                )  # fmt: skip


def is_truth(part: Expression) -> bool:
    """Whether a part is true or false, rather than a number."""
    return isinstance(part, Comparison | Logic | Opposite | IsNull | StandsAt)


def unit_of_expression(part: Expression, model: SemanticModel) -> Unit:
    """The unit of a part; plain for a truth. Raises ExpressionError where kinds or units do not go together."""
    check_shape(part)
    inner = parts_of_expression(part)
    units = [unit_of_expression(each, model) for each in inner]
    match part:
        case NumberOf() | StandsAt():
            return PLAIN
        case MeasureOf():
            return _unit_of_measure(part, model)
        case Arithmetic():
            _expect_numbers(part, inner)
            if part.operator in "+-":
                return _one_unit(part, inner, units, "added to" if part.operator == "+" else "subtracted from")
            return times(units[0], units[1], 1 if part.operator == "*" else -1)
        case Comparison():
            _expect_numbers(part, inner)
            _one_unit(part, inner, units, "compared with")
            return PLAIN
        case Logic() | Opposite():
            _expect_truths(inner)
            return PLAIN
        case Case():
            _expect_truths(tuple(each.when for each in part.branches))
            values = [each.then for each in part.branches] + ([part.otherwise] if part.otherwise is not None else [])
            _expect_numbers(part, tuple(values))
            return _one_unit(part, tuple(values), [unit_of_expression(each, model) for each in values], "chosen beside")
        case Call():
            return _unit_of_call(part, units)
        case IsNull():
            _expect_numbers(part, inner)
            return PLAIN
        case Runs(how="rank" | "cumulative" | "index") | Brought(how="count"):
            _expect_numbers(part, inner)
            return PLAIN
        case _:
            _expect_numbers(part, inner)
            return units[0]


def _unit_of_measure(part: MeasureOf, model: SemanticModel) -> Unit:
    found = measure_of(part, model)
    if found.aggregate == "ratio":
        above, below = (MeasureOf(measure=each or "") for each in (found.numerator, found.denominator))
        return times(_unit_of_measure(above, model), _unit_of_measure(below, model), -1)
    return unit_of(found.unit)


def _unit_of_call(part: Call, units: list[Unit]) -> Unit:
    _expect_numbers(part, part.of)
    if part.function == "round" and len(part.of) > 1:
        places = part.of[1].of if isinstance(part.of[1], Negative) else part.of[1]
        if not isinstance(places, NumberOf) or "." in places.digits:
            raise ExpressionError(part.of[1], "How many digits to round to is a whole number.", "Write 0, 1 or 2.")
        return units[0]
    if part.function in _ALIKE:
        return _one_unit(part, part.of, units, "taken beside")
    return units[0] if part.function in _KEEPS_UNIT else PLAIN


def _expect_numbers(part: Expression, parts: tuple[Expression, ...]) -> None:
    for each in parts:
        if is_truth(each):
            where = each if each is not part else part
            raise ExpressionError(where, "This is true or false, where a number is wanted.", "Choose: case when … end.")


def _expect_truths(parts: tuple[Expression, ...]) -> None:
    for each in parts:
        if not is_truth(each):
            raise ExpressionError(each, "This is a number, where true or false is wanted.", "Compare it.")


def _one_unit(part: Expression, parts: tuple[Expression, ...], units: list[Unit], verb: str) -> Unit:
    """The unit that all have in common. A number that is written goes with any."""
    found = [(each, own) for each, own in zip(parts, units, strict=True) if measures_named(each)]
    different = list(dict.fromkeys(own for _, own in found))
    if len(different) > 1:
        one, other = (each.text or "a plain number" for each in different[:2])
        first, second = (other, one) if verb == "subtracted from" else (one, other)
        raise ExpressionError(
            part, f"{first} cannot be {verb} {second}.", "Divide or multiply them, or take measures of one unit."
        )
    return different[0] if different else PLAIN
