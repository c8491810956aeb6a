"""What an expression means: the formula that is worked out, the measures and scopes that it stands on, its unit, and
what is wrong with it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import assert_never

from dastan.core.errors import InputError, did_you_mean
from dastan.core.formula.formula import (
    Along,
    Applied,
    Base,
    Beneath,
    Formula,
    Given,
    Number,
    Operation,
    is_own,
    mapped,
    of_scope,
    rolls_up,
)
from dastan.core.formula.scopes import Above, Earlier, Known, ToDate, Without
from dastan.core.formula.units import PLAIN, Unit, times, unit_of
from dastan.core.model.condition_faults import condition_faults
from dastan.core.model.conditions import Condition, LevelName, MeasureFilter, ReadyFilter, leaves_of
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.expression import (
    MOST_DEPTH,
    MOST_PARTS,
    Arithmetic,
    Before,
    Brought,
    Call,
    Case,
    Clause,
    Comparison,
    Expression,
    IsNull,
    Logic,
    MeasureOf,
    Negative,
    NumberOf,
    Only,
    Opposite,
    Over,
    Runs,
    UpToDate,
    all_parts,
    measures_named,
    parts_of_expression,
)
from dastan.core.model.formulas import formula_of_part
from dastan.core.model.reach import grain_of, is_calendar, reaches

_ADDED = ("sum", "count", "count_values")
_MOST_DIGITS, _MOST_MOVING = 18, 366
_DIGITS = re.compile(r"\d+(\.\d+)?", re.ASCII)
_ARGUMENTS = {
    "abs": (1, 1), "round": (1, 2), "floor": (1, 1), "ceiling": (1, 1), "sqrt": (1, 1), "power": (2, 2), "ln": (1, 1),
    "exp": (1, 1), "mod": (2, 2), "coalesce": (2, 20), "nullif": (2, 2), "least": (2, 20), "greatest": (2, 20),
}  # fmt: skip
FUNCTION_NAMES = tuple(_ARGUMENTS)
_KEEPS_UNIT = ("abs", "round", "floor", "ceiling", "mod", "coalesce", "nullif", "least", "greatest")
_ALIKE = ("mod", "coalesce", "nullif", "least", "greatest")


class ExpressionError(InputError):
    """What is wrong with a part of an expression; `part` is that part."""

    code = "formula"

    def __init__(self, part: Expression, message: str, hint: str) -> None:
        super().__init__(message, hint)
        self.part = part


@dataclass(frozen=True, slots=True)
class Leaf:
    """A measure that is no formula itself, over the records of a scope, the cell's own without one: what an expression
    stands on."""

    measure: Measure
    scope: Above | Earlier | ToDate | Without | None = None
    said: Expression | None = None
    """What the expression says of it: the measure with all that holds around it."""


@dataclass(frozen=True, slots=True)
class _Context:
    """What holds around a part of an expression."""

    where: tuple[Condition, ...] = ()
    scope: Above | Earlier | ToDate | Without | None = None
    inside: tuple[str, ...] = ()
    """The measures whose definitions lead here."""
    clauses: tuple[Clause, ...] = ()
    """What is said around it, outermost first."""


def formula_of(measure: Measure, model: SemanticModel) -> Formula:
    """What a measure is worked out from."""
    return worked_out(MeasureOf(measure=measure.name), with_measure(measure, model), formula_of_leaf)


def formula_of_leaf(leaf: Leaf) -> Formula:
    """What a leaf is worked out from."""
    own = formula_of_part(leaf.measure)
    return own if leaf.scope is None else of_scope(own, leaf.scope)


def leaves_of_measure(measure: Measure, model: SemanticModel) -> tuple[Leaf, ...]:
    """What a measure stands on, each once: itself where it is not made of others."""
    return leaves_of_expression(MeasureOf(measure=measure.name), with_measure(measure, model))


def parts_of(measure: Measure, model: SemanticModel) -> tuple[Measure, ...]:
    """The measures whose values are asked of records: what it is made of, at the bottom; else the measure itself."""
    found = [each.measure for each in leaves_of_measure(measure, model)]
    return tuple(each for at, each in enumerate(found) if each not in found[:at])


def with_measure(measure: Measure, model: SemanticModel) -> SemanticModel:
    """The model with a measure as it is shown, which may be by another aggregate or under another name."""
    if any(each is measure for each in model.measures):
        return model
    return replace(model, measures=(*(each for each in model.measures if each.name != measure.name), measure))


def worked_out(
    expression: Expression,
    model: SemanticModel,
    of_leaf: Callable[[Leaf], Formula],
    name: str = "",
    is_checking: bool = True,
) -> Formula:
    """The formula that an expression is.

    Args: `of_leaf` gives that of each leaf; `name` is of the measure it defines. `is_checking` looks at what can be
        added up, which stand-ins for the leaves do not tell.

    Raises: ExpressionError for what has no meaning, such as a measure that leads back to itself.
    """
    return _Resolver(model, of_leaf, is_checking).formula(expression, _Context(inside=(name,) if name else ()))


def leaves_of_expression(expression: Expression, model: SemanticModel, name: str = "") -> tuple[Leaf, ...]:
    """What an expression stands on, each once, from left to right. Raises ExpressionError as `worked_out` does."""
    found: list[Leaf] = []

    def note(leaf: Leaf) -> Formula:
        found.append(leaf)
        return Number(0)

    worked_out(expression, model, note, name, is_checking=False)
    return tuple(each for at, each in enumerate(found) if each not in found[:at])


class _Resolver:
    def __init__(self, model: SemanticModel, of_leaf: Callable[[Leaf], Formula], is_checking: bool = True) -> None:
        self.model, self.of_leaf, self.is_checking = model, of_leaf, is_checking

    def formula(self, part: Expression, around: _Context) -> Formula:
        check_shape(part)
        match part:
            case NumberOf():
                return _number(part)
            case MeasureOf():
                return self._measure(part, _find(part, self.model), around)
            case Arithmetic():
                return _where_known(
                    Operation(part.operator, self.formula(part.left, around), self.formula(part.right, around))
                )
            case Negative():
                return Operation("*", Number(-1), self.formula(part.of, around))
            case Comparison():
                return Applied(part.operator, (self.formula(part.left, around), self.formula(part.right, around)))
            case Logic():
                return Applied(part.join, tuple(self.formula(each, around) for each in part.of))
            case Opposite():
                return Applied("not", (self.formula(part.of, around),))
            case IsNull():
                return Applied("is null", (self.formula(part.of, around),))
            case Case():
                return Applied("case", tuple(self.formula(each, around) for each in parts_of_expression(part)))
            case Call():
                return Applied(part.function, tuple(self.formula(each, around) for each in part.of))
            case Only(everywhere=False):
                where, clauses = (*around.where, *part.conditions), (*around.clauses, part)
                return self.formula(part.of, replace(around, where=where, clauses=clauses))
            case Only() | Over() | Before() | UpToDate():
                scope, clauses = self._scope(part, around), (*around.clauses, part)
                return self.formula(part.of, replace(around, scope=scope, clauses=clauses))
            case Runs():
                return self._runs(part, around)
            case Brought():
                return self._brought(part, around)
            case _:
                assert_never(part)

    def _measure(self, part: MeasureOf, measure: Measure, around: _Context) -> Formula:
        if measure.name in around.inside:
            path = " → ".join(self.model.measure(each).caption for each in (*around.inside, measure.name))
            raise ExpressionError(part, f"The definition goes in a circle: {path}.", "Let one of them do without.")
        inner = replace(around, inside=(*around.inside, measure.name))
        if measure.aggregate == "ratio":
            operands = (self.model.measure(each or "") for each in (measure.numerator, measure.denominator))
            return Operation("/", *(self._measure(part, each, inner) for each in operands))
        if measure.formula is not None:
            try:
                return self.formula(measure.formula, inner)
            except ExpressionError as error:
                raise ExpressionError(part, error.message, error.hint) from error
        if around.where:
            for name in sorted({name for each in around.where for name in dimensions_named(each)}):
                dimension = self.model.dimension(name)
                if not reaches(self.model, grain_of(measure), dimension):
                    raise ExpressionError(
                        part,
                        f"{dimension.caption} does not reach the records of {measure.caption}, so no slice of it does.",
                        "Slice by a dimension that does.",
                    )
            measure = replace(measure, where=(*measure.where, *around.where))
        said: Expression = MeasureOf(measure=measure.name)
        for clause in reversed(around.clauses):
            said = replace(clause, of=said)
        return self.of_leaf(Leaf(measure, around.scope, said))

    def _scope(self, part: Only | Over | Before | UpToDate, around: _Context) -> Above | Earlier | ToDate | Without:
        own = _scope_of(part)
        outer = around.scope
        if outer is None:
            return own
        if isinstance(outer, Without) and isinstance(own, Without) and not outer.where and not own.where:
            return Without(tuple(dict.fromkeys((*own.dimensions, *outer.dimensions))))
        raise ExpressionError(
            part, "Two things are said of which records it is over.", "Say one, and put the other into another measure."
        )

    def _runs(self, part: Runs, around: _Context) -> Formula:
        self._refuse_scope(part, around)
        inner = self.formula(part.of, around)
        if part.how in ("running", "moving_sum"):
            if self.is_checking and not _adds_up(inner):
                raise ExpressionError(
                    part, "This cannot be added up along the table, for its parts do not make up a total.",
                    "Take a measure that is a sum or a count, or divide two such.",
                )  # fmt: skip
            return mapped(inner, lambda base: Along(part.how, base, part.along, part.restarts, part.count))
        return Along(part.how, inner, part.along, part.restarts, part.count)

    def _brought(self, part: Brought, around: _Context) -> Formula:
        self._refuse_scope(part, around)
        inner = self.formula(part.of, around)
        if self.is_checking and not is_own(inner):
            raise ExpressionError(
                part, "Members are brought together of what is worked out from their own records.",
                "Say what it is over, or along what it runs, outside.",
            )  # fmt: skip
        return Beneath(part.how, inner, (part.level.dimension, part.level.hierarchy, part.level.level))

    def _refuse_scope(self, part: Runs | Brought, around: _Context) -> None:
        if around.scope is not None:
            raise ExpressionError(
                part, "What depends on other cells is not moved elsewhere.", "Move what it is of, inside the brackets."
            )


def _scope_of(part: Only | Over | Before | UpToDate) -> Above | Earlier | ToDate | Without:
    match part:
        case Only():
            names = dict.fromkeys(name for each in part.conditions for name in dimensions_named(each))
            return Without(tuple(names), part.conditions)
        case Before():
            return Earlier(part.dimension, part.by, part.same_part)
        case UpToDate(level=level):
            return ToDate(level.dimension, level.hierarchy, level.level)
        case Over(level=LevelName() as level):
            return Above(*(((level.dimension, level.hierarchy, level.level),) * 2))
        case Over(reach="dimension"):
            return Without((part.dimension or "",))
        case Over():
            scopes = {
                "whole": Above("all", "all"), "row": Above("here", "all"), "column": Above("all", "here"),
                "parent": Above("parent", "here"), "parent_column": Above("here", "parent"),
            }  # fmt: skip
            return scopes[part.reach]


_SAYS_WHAT_OF_EMPTY = ("coalesce", "case", "is null", "nullif")


def _where_known(formula: Operation) -> Formula:
    """A sum or difference with an earlier value has none where nothing at all is known of that time: what is less
    nothing would be the whole, and look like a change. Who says what an empty value stands for is taken at their
    word."""
    found: Formula = formula
    if formula.operator in "+-":
        for each in _earlier(formula):
            if isinstance(each.scope, Earlier):
                found = Given(found, replace(each, scope=Known(each.scope)))
    return found


def _earlier(formula: Formula) -> tuple[Base, ...]:
    """The earlier values that a formula hangs on, one of the same records and time."""
    match formula:
        case Base(scope=Earlier()):
            return (formula,)
        case Operation(_, left, right):
            found = (*_earlier(left), *_earlier(right))
        case Given(of, _):
            found = _earlier(of)
        case Applied(function, of) if function not in _SAYS_WHAT_OF_EMPTY:
            found = tuple(base for each in of for base in _earlier(each))
        case _:
            found = ()
    return tuple({(each.counted, each.scope): each for each in found}.values())


def dimensions_named(condition: Condition) -> set[str]:
    """The dimensions that a condition is about."""
    return {name for each in leaves_of(condition) if (name := getattr(each, "dimension", None)) is not None}


def _number(part: NumberOf) -> Number:
    whole, _, fraction = part.digits.partition(".")
    return Number(int(whole + fraction), len(fraction))


def _adds_up(formula: Formula) -> bool:
    match formula:
        case Base():
            return formula.aggregate.kind in _ADDED
        case Operation("+" | "-", left, right):
            return _adds_up(left) and _adds_up(right)
        case Operation(_, left, right):
            return (_adds_up(left) or isinstance(left, Number)) and (_adds_up(right) or isinstance(right, Number))
        case _:
            return False


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


def check_shape(part: Expression) -> None:
    """Raises ExpressionError for a part that no text can write, as a document that was sent may have."""
    fault = ""
    match part:
        case NumberOf():
            if not _DIGITS.fullmatch(part.digits):
                fault = f"“{part.digits}” is not a number."
            elif len(part.digits.replace(".", "")) > _MOST_DIGITS:
                fault = f"A number has at most {_MOST_DIGITS} digits."
        case Logic() if len(part.of) < 2:
            fault = f"What is joined by {part.join} are two truths or more."
        case Case() if not part.branches:
            fault = "A choice has a branch or more."
        case Call():
            least, most = _ARGUMENTS[part.function]
            if not least <= len(part.of) <= most:
                many = f"{least}" if least == most else f"{least} to {most}"
                fault = f"{part.function} takes {many} values, not {len(part.of)}."
        case Only() if not any(dimensions_named(each) for each in part.conditions):
            fault = "A slice says of which dimension it is."
        case Over() if (part.reach == "dimension") != (part.dimension is not None):
            fault = "What is over a dimension says over which."
        case Over() if (part.reach == "level") != (part.level is not None):
            fault = "What is over a level says over which."
        case Runs() if part.how.startswith("moving") and not 1 < part.count <= _MOST_MOVING:
            fault = f"Nothing moves over {part.count}."
    if fault:
        raise ExpressionError(part, fault, "Write the formula again.")


def is_truth(part: Expression) -> bool:
    """Whether a part is true or false, rather than a number."""
    return isinstance(part, Comparison | Logic | Opposite | IsNull)


def unit_of_expression(part: Expression, model: SemanticModel) -> Unit:
    """The unit of a part; plain for a truth. Raises ExpressionError where kinds or units do not go together."""
    check_shape(part)
    inner = parts_of_expression(part)
    units = [unit_of_expression(each, model) for each in inner]
    match part:
        case NumberOf():
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
            for branch in part.branches:
                if not is_truth(branch.when):
                    raise ExpressionError(
                        branch.when, "This is a number, where true or false is wanted.", "Compare it."
                    )
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


def _find(part: MeasureOf, model: SemanticModel) -> Measure:
    found = next((each for each in model.measures if each.name == part.measure), None)
    if found is None:
        hint = did_you_mean(part.measure, (each.name for each in model.measures))
        raise ExpressionError(part, f'There is no measure "{part.measure}".', hint)
    return found


def _unit_of_measure(part: MeasureOf, model: SemanticModel) -> Unit:
    found = _find(part, model)
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
