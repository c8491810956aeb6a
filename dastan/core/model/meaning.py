"""What an expression means: the formula that is worked out, and the measures and scopes that it stands on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import assert_never

from dastan.core.formula.formula import (
    Along,
    Applied,
    Base,
    Beneath,
    CountedAmong,
    Formula,
    Given,
    Number,
    Operation,
    Standing,
    is_own,
    mapped,
    of_scope,
)
from dastan.core.formula.scopes import ABOVE, Above, Earlier, Known, ToDate, Without
from dastan.core.model.conditions import Condition, LevelName
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.expression import (
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
    StandsAt,
    UpToDate,
    parts_of_expression,
)
from dastan.core.model.expression_shape import ExpressionError, check_shape, dimensions_named, measure_of
from dastan.core.model.formulas import formula_of_part
from dastan.core.model.reach import grain_of, reaches

_ADDED = ("sum", "count", "count_values")


@dataclass(frozen=True, slots=True)
class Leaf:
    """A measure that is no formula itself, over the records of a scope, the cell's own without one: what an expression
    stands on."""

    measure: Measure
    scope: Above | Earlier | ToDate | Without | None = None
    said: Expression | None = None
    """What the expression says of it: the measure with all that holds around it."""
    sliced: tuple[Condition, ...] = ()
    """Those of the measure's conditions that are not its own: it shows where they hold."""


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
    own = formula_of_part(leaf.measure, leaf.sliced)
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
                return self._measure(part, measure_of(part, self.model), around)
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
            case StandsAt(level=level, or_below=or_below):
                self._refuse_scope(part, around)
                return Standing((level.dimension, level.hierarchy, level.level), or_below)
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
        return self.of_leaf(Leaf(measure, around.scope, said, around.where))

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

    def _refuse_scope(self, part: Runs | Brought | StandsAt, around: _Context) -> None:
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
            return Earlier(part.dimension, part.by, part.same_part, part.count)
        case UpToDate(level=level):
            return ToDate(level.dimension, level.hierarchy, level.level)
        case Over(level=LevelName() as level):
            return Above(*(((level.dimension, level.hierarchy, level.level),) * 2))
        case Over(reach="dimension"):
            return Without((part.dimension or "",))
        case Over():
            return ABOVE[part.reach]


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
        case Given(of, _) | CountedAmong(_, of):
            found = _earlier(of)
        case Applied(function, of) if function not in _SAYS_WHAT_OF_EMPTY:
            found = tuple(base for each in of for base in _earlier(each))
        case _:
            found = ()
    return tuple({(each.counted, each.scope): each for each in found}.values())


def _number(part: NumberOf) -> Number:
    whole, _, fraction = part.digits.partition(".")
    return Number(int(whole + fraction), len(fraction))


def _adds_up(formula: Formula) -> bool:
    match formula:
        case Base():
            return formula.aggregate.kind in _ADDED
        case CountedAmong(of, _):
            return _adds_up(of)
        case Operation("+" | "-", left, right):
            return _adds_up(left) and _adds_up(right)
        case Operation(_, left, right):
            return (_adds_up(left) or isinstance(left, Number)) and (_adds_up(right) or isinstance(right, Number))
        case _:
            return False
