"""A formula as documents keep it: what is said of which measures. `core/language` reads and writes it as text.

Every part names things by the fields that all documents use, so that a rename follows through, and a walk over a
document finds all that its formulas name.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, fields, replace
from typing import Annotated, Any, Literal

from dastan.core.model.conditions import ByKind, Condition, LevelName
from dastan.core.model.parts import Part

Side = Literal["rows", "columns"]
Comparator = Literal["=", "<>", "<", "<=", ">", ">="]
FunctionName = Literal[
    "abs", "round", "floor", "ceiling", "sqrt", "power", "ln", "exp", "mod", "coalesce", "nullif", "least", "greatest"
]


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberOf(Part):
    """A number as it is written, "0.05": exact."""

    digits: str
    kind: Literal["number"] = "number"


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureOf(Part):
    """A measure, in the cell's own scope."""

    measure: str
    kind: Literal["measure"] = "measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class Arithmetic(Part):
    """Two values added, subtracted, multiplied or divided."""

    operator: Literal["+", "-", "*", "/"]
    left: Expression
    right: Expression
    kind: Literal["arithmetic"] = "arithmetic"


@dataclass(frozen=True, slots=True, kw_only=True)
class Negative(Part):
    """A value with the other sign."""

    of: Expression
    kind: Literal["negative"] = "negative"


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison(Part):
    """Whether two values compare so; unknown where one is empty."""

    operator: Comparator
    left: Expression
    right: Expression
    kind: Literal["comparison"] = "comparison"


@dataclass(frozen=True, slots=True, kw_only=True)
class Logic(Part):
    """Truths that must all hold, or any of them."""

    join: Literal["and", "or"]
    of: tuple[Expression, ...]
    kind: Literal["logic"] = "logic"


@dataclass(frozen=True, slots=True, kw_only=True)
class Opposite(Part):
    """What holds where a truth does not."""

    of: Expression
    kind: Literal["not"] = "not"


@dataclass(frozen=True, slots=True, kw_only=True)
class IsNull(Part):
    """Whether a value is empty."""

    of: Expression
    kind: Literal["is_null"] = "is_null"


@dataclass(frozen=True, slots=True, kw_only=True)
class Branch(Part):
    """One branch of a choice."""

    when: Expression
    then: Expression


@dataclass(frozen=True, slots=True, kw_only=True)
class Case(Part):
    """The value of the first branch whose truth holds."""

    branches: tuple[Branch, ...]
    otherwise: Expression | None = None
    kind: Literal["case"] = "case"


@dataclass(frozen=True, slots=True, kw_only=True)
class Call(Part):
    """A function of values."""

    function: FunctionName
    of: tuple[Expression, ...]
    kind: Literal["call"] = "call"


@dataclass(frozen=True, slots=True, kw_only=True)
class Only(Part):
    """A value over the records of a slice alone. Empty where the table stands elsewhere, unless it shows everywhere:
    then it is the slice's in every cell, whatever the table and its filters say of the slice's dimensions."""

    of: Expression
    conditions: tuple[Condition, ...]
    everywhere: bool = False
    kind: Literal["only"] = "only"


@dataclass(frozen=True, slots=True, kw_only=True)
class Over(Part):
    """A value over more than the cell's own records: all members of a dimension, or what stands above, as shares look
    up to."""

    of: Expression
    reach: Literal["dimension", "whole", "row", "column", "parent", "parent_column", "level"]
    dimension: str | None = None
    """Of `dimension`: which."""
    level: LevelName | None = None
    """Of `level`: which."""
    kind: Literal["over"] = "over"


@dataclass(frozen=True, slots=True, kw_only=True)
class Before(Part):
    """A value in the period or the year before, or so many of them before."""

    of: Expression
    by: Literal["period", "year"]
    dimension: str
    same_part: bool = False
    count: int = 1
    kind: Literal["before"] = "before"


@dataclass(frozen=True, slots=True, kw_only=True)
class UpToDate(Part):
    """A value from the beginning of a period of a level to the end of the cell's own."""

    of: Expression
    level: LevelName
    kind: Literal["to_date"] = "to_date"


@dataclass(frozen=True, slots=True, kw_only=True)
class Runs(Part):
    """A value along the rows or columns: the total so far, of the last few, the rank, that of the one before."""

    of: Expression
    how: Literal["running", "moving_mean", "moving_sum", "index", "rank", "cumulative", "before"]
    along: Side
    restarts: bool = False
    count: int = 1
    kind: Literal["runs"] = "runs"


@dataclass(frozen=True, slots=True, kw_only=True)
class Brought(Part):
    """A value worked out for each member of a level inside the cell, and these brought together."""

    of: Expression
    how: Literal["average", "sum", "count", "least", "greatest"]
    level: LevelName
    kind: Literal["brought"] = "brought"


@dataclass(frozen=True, slots=True, kw_only=True)
class StandsAt(Part):
    """Whether the cell stands at a level: in the row of a line, and not in that of a mode or in a total."""

    level: LevelName
    or_below: bool = False
    """At it or below."""
    kind: Literal["stands_at"] = "stands_at"


Expression = Annotated[
    NumberOf | MeasureOf | Arithmetic | Negative | Comparison | Logic | Opposite | IsNull | Case | Call | Only | Over
    | Before | UpToDate | Runs | Brought | StandsAt,
    ByKind(),
]  # fmt: skip
Clause = Only | Over | Before | UpToDate | Runs | Brought
"""What can be said after a value of the scope that it is over, or of the cells that it looks at."""
MOST_MOVING = 366
"""So many are moved over together at most."""
MOST_BEFORE = 366
"""So many periods or years are gone back at most."""
MOST_PARTS, MOST_DEPTH = 200, 40
"""An expression is worked out part by part, one inside the other; a document has at most 64 parts so."""


def parts_of_expression(expression: Expression) -> tuple[Expression, ...]:
    """What an expression is made of, from left to right."""
    match expression:
        case NumberOf() | MeasureOf() | StandsAt():
            return ()
        case Arithmetic(left=left, right=right) | Comparison(left=left, right=right):
            return left, right
        case Logic(of=of) | Call(of=of):
            return of
        case Case(branches=branches, otherwise=otherwise):
            found = tuple(part for each in branches for part in (each.when, each.then))
            return found if otherwise is None else (*found, otherwise)
        case _:
            return (expression.of,)


def all_parts(expression: Expression) -> Iterator[Expression]:
    """An expression and everything inside it."""
    yield expression
    for each in parts_of_expression(expression):
        yield from all_parts(each)


def measures_named(expression: Expression) -> tuple[str, ...]:
    """The measures that an expression names, each once."""
    return tuple(dict.fromkeys(each.measure for each in all_parts(expression) if isinstance(each, MeasureOf)))


def with_conditions(expression: Expression, change: Callable[[Condition], Condition]) -> Expression:
    """The expression with every condition of its slices changed."""
    changed: dict[str, Any] = {}
    for field in fields(expression):
        value = getattr(expression, field.name)
        if isinstance(expression, Only) and field.name == "conditions":
            changed[field.name] = tuple(change(each) for each in expression.conditions)
        elif field.name in ("of", "left", "right", "otherwise") and value is not None:
            is_many = isinstance(value, tuple)
            changed[field.name] = (
                tuple(with_conditions(each, change) for each in value) if is_many else with_conditions(value, change)
            )
        elif field.name == "branches":
            changed[field.name] = tuple(
                Branch(when=with_conditions(each.when, change), then=with_conditions(each.then, change))
                for each in value
            )
    changed_whole: Expression = replace(expression, **changed)
    return changed_whole
