"""A measure is a formula over bases: what is grouped, and what is worked out from it, on whole arrays."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal, Protocol

import numpy as np

from dastan.core.formula.arithmetic import Operator, operate
from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.functions import apply
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
class Number:
    """An exact number: `digits` / 10**scale. In + and − it is there where the rest is: it makes no value by itself."""

    digits: int
    scale: int = 0


@dataclass(frozen=True, slots=True)
class Applied:
    """A function of formulas, as `functions` names it: a root, a rounding, a comparison, a choice."""

    function: str
    of: tuple[Formula, ...]


@dataclass(frozen=True, slots=True)
class Along:
    """A value that depends on those beside it on an axis, at the same level and under the same outer headers, in
    natural order: the total so far, the sum or mean of the last few, its size beside the first one's, the rank, the
    share of all that are at least as large, that of the one before, or how much more than that it is. With `restarts`,
    under each member of the level above anew."""

    kind: Literal["running", "moving_sum", "moving_mean", "index", "rank", "cumulative", "before", "step"]
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


@dataclass(frozen=True, slots=True)
class CountedAmong:
    """What is counted of some records: zero, and not empty, where these are and none of them counts."""

    of: Formula
    records: Formula


@dataclass(frozen=True, slots=True)
class Beneath:
    """A formula worked out for each member of a level inside the cell, and these values brought together: the average
    of monthly totals. `level` is its dimension, hierarchy and name."""

    how: Literal["average", "sum", "count", "least", "greatest"]
    of: Formula
    level: tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class OnRows:
    """A formula's value, which the rows of a financial layout work out anew from one another's."""

    of: Formula


@dataclass(frozen=True, slots=True)
class Standing:
    """A truth: whether the cell stands at a level, or at it or below; `level` is its dimension, hierarchy and name."""

    level: tuple[str, str, str]
    or_below: bool = False


Formula = Base | Number | Operation | Applied | Along | Given | CountedAmong | Beneath | OnRows | Standing


def adds_up(formula: Formula) -> bool:
    """Whether the values of parts make up that of the whole: a plain sum or count, of the cell's own records or of
    earlier ones."""
    if isinstance(formula, OnRows | CountedAmong):
        return adds_up(formula.of)
    return (
        isinstance(formula, Base)
        and formula.aggregate.kind in ("sum", "count", "count_values")
        and not isinstance(formula.scope, Above)
    )


def bases_of(formula: Formula) -> tuple[Base, ...]:
    """The bases that a formula stands on, each once, from left to right."""
    return tuple(dict.fromkeys(each for each in _within(formula) if isinstance(each, Base)))


def stands_on(formula: Formula) -> Base:
    """The records by which one tells whether a formula has a value at all: those of its first base, or those among
    which that counts."""
    first = next(each for each in _within(formula) if isinstance(each, Base | CountedAmong))
    return first if isinstance(first, Base) else stands_on(first.records)


def along_of(formula: Formula) -> tuple[Along, ...]:
    """The parts of a formula that depend on what stands beside them."""
    return tuple(dict.fromkeys(each for each in _within(formula) if isinstance(each, Along)))


def rolls_up(formula: Formula) -> bool:
    """Whether what it stands on can be added up over parts of a scope."""
    return all(each.aggregate.rolls_up for each in bases_of(formula))


def is_own(formula: Formula) -> bool:
    """Whether its values follow from the cell's own records alone."""
    return not any(
        isinstance(each, Along | Beneath | Standing) or (isinstance(each, Base) and each.scope is not None)
        for each in _within(formula)
    )


def _within(formula: Formula) -> Iterator[Formula]:
    yield formula
    for each in _parts(formula):
        yield from _within(each)


def _parts(formula: Formula) -> tuple[Formula, ...]:
    match formula:
        case Base() | Number() | Standing():
            return ()
        case Operation(_, left, right):
            return left, right
        case Applied(_, of):
            return of
        case Along(_, of) | Beneath(_, of) | OnRows(of):
            return (of,)
        case Given(of, there):
            return of, there
        case CountedAmong(of, records):
            return of, records


def of_scope(formula: Formula, scope: Scope) -> Formula:
    """The same formula over the records of another scope."""
    return mapped(formula, lambda base: replace(base, scope=scope))


def mapped(formula: Formula, change: Callable[[Base], Formula]) -> Formula:
    """The formula with every base changed."""
    match formula:
        case Base():
            return change(formula)
        case Number() | Standing():
            return formula
        case Operation(operator, left, right):
            return Operation(operator, mapped(left, change), mapped(right, change))
        case Applied(function, of):
            return Applied(function, tuple(mapped(each, change) for each in of))
        case Along() | Beneath() | OnRows():
            return replace(formula, of=mapped(formula.of, change))
        case Given(of, there):
            return Given(mapped(of, change), there)
        case CountedAmong(of, records):
            return CountedAmong(mapped(of, change), mapped(records, change))


class Ground(Protocol):
    """Where formulas are worked out: some cells, each with the values of the bases."""

    @property
    def size(self) -> int:
        """How many cells there are."""
        ...

    def base(self, base: Base) -> Values:
        """A base's values, cell by cell."""
        ...

    def along(self, along: Along, own: Values) -> Values:
        """The values of what depends on its neighbours, from those of the formula that it is of."""
        ...

    def beneath(self, beneath: Beneath) -> Values:
        """What the members of a level inside each cell come to together."""
        ...

    def standing(self, standing: Standing) -> Values:
        """Whether each cell stands there: 1 or 0."""
        ...

    def on_rows(self, laid_out: OnRows, own: Values) -> Values:
        """The values as the rows of a layout have them, from those of their own records."""
        ...


def calculate(formula: Formula, ground: Ground) -> Values:
    """A formula's values, cell by cell. Raises LimitError where an exact result has more than 18 digits."""
    match formula:
        case Base():
            return ground.base(formula)
        case Number(digits, scale):
            return Values(np.full(ground.size, digits, np.int64), scale, np.ones(ground.size, np.bool_))
        case Operation(operator, left, right):
            own, other = calculate(left, ground), calculate(right, ground)
            if operator in "+-":
                own, other = _there_with(left, own, other), _there_with(right, other, own)
            return operate(operator, own, other)
        case Applied(function, of):
            return apply(function, [calculate(each, ground) for each in of])
        case Given(of, there):
            found = calculate(of, ground)
            return Values(found.data, found.scale, found.present & ground.base(there).present)
        case CountedAmong(of, records):
            found, among = calculate(of, ground), calculate(records, ground)
            return Values(np.where(found.present, found.data, 0), found.scale, found.present | among.present)
        case Along():
            return ground.along(formula, calculate(formula.of, ground))
        case Beneath():
            return ground.beneath(formula)
        case Standing():
            return ground.standing(formula)
        case OnRows(of):
            return ground.on_rows(formula, calculate(of, ground))


def _there_with(formula: Formula, own: Values, other: Values) -> Values:
    """A number that was written stands only where what it is added to does: 5 more than nothing is nothing."""
    is_written = not bases_of(formula)
    return Values(own.data, own.scale, other.present) if is_written else own
