"""A measure is a formula over bases: what is grouped, and what is worked out from it, on whole arrays."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dastan.core.errors import InputError
from dastan.core.formula.arithmetic import Operator, operate
from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.scopes import Above, Scope
from dastan.core.values import Values


@dataclass(frozen=True, slots=True)
class Base:
    """The one key of grouped values: an aggregate over the records of a scope, the cell's own without one."""

    counted: Counted
    aggregate: BaseAggregate
    scope: Scope = None


@dataclass(frozen=True, slots=True)
class Operation:
    """Two formulas joined by an operator. In + and − what is empty is skipped; in × and ÷ it makes empty."""

    operator: Operator
    left: Formula
    right: Formula


@dataclass(frozen=True, slots=True)
class Root:
    """The square root."""

    of: Formula


@dataclass(frozen=True, slots=True)
class Size:
    """How large a number is, whatever its sign."""

    of: Formula


@dataclass(frozen=True, slots=True)
class Along:
    """A value that depends on those beside it on an axis, at the same level and under the same outer headers, in
    natural order: the total so far, the sum or mean of the last few, its size beside the first one's, the rank, or the
    share of all that are at least as large. With `restarts`, under each member of the level above anew."""

    kind: Literal["running", "moving_sum", "moving_mean", "index", "rank", "cumulative"]
    of: Formula
    axis: Literal["rows", "columns"]
    restarts: bool = False
    count: int = 1
    """Of the last few: how many."""


@dataclass(frozen=True, slots=True)
class Given:
    """A formula's value where something is there; empty elsewhere."""

    of: Formula
    there: Base


Formula = Base | Operation | Root | Size | Along | Given


def adds_up(formula: Formula) -> bool:
    """Whether the values of parts make up that of the whole: a plain sum or count, of the cell's own records or of
    earlier ones."""
    return (
        isinstance(formula, Base)
        and formula.aggregate.kind in ("sum", "count", "count_values")
        and not isinstance(formula.scope, Above)
    )


def bases_of(formula: Formula) -> tuple[Base, ...]:
    """The bases that a formula stands on, each once, from left to right."""
    match formula:
        case Base():
            return (formula,)
        case Operation(_, left, right):
            return tuple(dict.fromkeys((*bases_of(left), *bases_of(right))))
        case Root(of) | Size(of) | Along(_, of):
            return bases_of(of)
        case Given(of, there):
            return tuple(dict.fromkeys((*bases_of(of), there)))


def of_scope(formula: Formula, scope: Scope) -> Formula:
    """The same formula over the records of another scope."""
    return mapped(formula, lambda base: Base(base.counted, base.aggregate, scope))


def mapped(formula: Formula, change: Callable[[Base], Formula]) -> Formula:
    """The formula with every base changed."""
    match formula:
        case Base():
            return change(formula)
        case Operation(operator, left, right):
            return Operation(operator, mapped(left, change), mapped(right, change))
        case Root(of):
            return Root(mapped(of, change))
        case Size(of):
            return Size(mapped(of, change))
        case Along(kind, of, axis, restarts, count):
            return Along(kind, mapped(of, change), axis, restarts, count)
        case Given(of, there):
            return Given(mapped(of, change), there)


def along_of(formula: Formula) -> tuple[Along, ...]:
    """The parts of a formula that depend on what stands beside them."""
    match formula:
        case Base():
            return ()
        case Operation(_, left, right):
            return tuple(dict.fromkeys((*along_of(left), *along_of(right))))
        case Root(of) | Size(of) | Given(of):
            return along_of(of)
        case Along():
            return (formula, *along_of(formula.of))


def calculate(
    formula: Formula, value_of: Callable[[Base], Values], beside: Callable[[Along, Values], Values] | None = None
) -> Values:
    """A formula's values, place by place, from those of its bases.

    Args: `beside` gives the values of what depends on its neighbours, from those of the formula that it is of.
    Raises: LimitError where an exact result has more than 18 digits.
    """
    match formula:
        case Base():
            return value_of(formula)
        case Operation(operator, left, right):
            return operate(operator, calculate(left, value_of, beside), calculate(right, value_of, beside))
        case Root(of):
            found = calculate(of, value_of, beside)
            return Values(np.sqrt(found.as_float()), None, found.present)
        case Size(of):
            found = calculate(of, value_of, beside)
            return Values(np.abs(found.data), found.scale, found.present)
        case Given(of, there):
            found = calculate(of, value_of, beside)
            return Values(found.data, found.scale, found.present & value_of(there).present)
        case Along():
            if beside is None:
                raise InputError(
                    "What runs along the table has no value outside of it.",
                    "Compare, rank or limit by the measure itself.",
                )
            return beside(formula, calculate(formula.of, value_of, beside))
