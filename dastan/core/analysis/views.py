"""Views of a measure: the same measure as a share, a change, a running total or a rank, with no formula to write."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal, assert_never

from dastan.core.analysis.resolve import find_dimension, find_measure
from dastan.core.errors import InputError
from dastan.core.formula.formula import (
    Along,
    Applied,
    Base,
    Formula,
    Given,
    Operation,
    bases_of,
    is_own,
    mapped,
    of_scope,
    rolls_up,
    stands_on,
)
from dastan.core.formula.scopes import ABOVE, Above, Earlier, Instead, Known, Opening
from dastan.core.formula.scopes import ToDate as UpTo
from dastan.core.model.conditions import ByKind, LevelName
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.expression import MOST_MOVING
from dastan.core.model.meaning import formula_of
from dastan.core.model.parts import MemberPath, Part
from dastan.core.model.reach import is_calendar

Side = Literal["rows", "columns"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Share(Part):
    """How large a part it is of the value above: of the whole, of its row's or column's total, of what its row stands
    in, or of the member that it lies under at a level. A share divides by the value before limits."""

    of: Literal["whole", "row", "column", "parent", "parent_column", "level"]
    level: LevelName | None = None
    """Of `level`: which."""
    kind: Literal["share"] = "share"


@dataclass(frozen=True, slots=True, kw_only=True)
class Change(Part):
    """How much more or less it is than elsewhere: than in the period before, in the same period of the year before, or
    for a member of a dimension in place of all that the table keeps of it, such as the plan."""

    on: Literal["period", "year", "member"]
    dimension: str
    """The calendar dimension; of `member`, its dimension."""
    hierarchy: str | None = None
    """Of `member`: where it is found, by its path."""
    path: MemberPath = ()
    same_part: bool = False
    """Compares a period that is not finished with the same part of the earlier one, as far as the data goes."""
    shows: Literal["difference", "percent", "earlier"] = "percent"
    """By how much, by how many per cent of it, or what it is there."""
    kind: Literal["change"] = "change"


@dataclass(frozen=True, slots=True, kw_only=True)
class RunningTotal(Part):
    """The total so far, along the rows or the columns, in natural order."""

    along: Side
    restarts: bool = False
    """Begins anew under each member of the level above."""
    kind: Literal["running"] = "running"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rank(Part):
    """Its place among those of its level, the largest being the first; equal ones share a place."""

    along: Side
    restarts: bool = False
    """Ranked under each member of the level above by itself."""
    kind: Literal["rank"] = "rank"


@dataclass(frozen=True, slots=True, kw_only=True)
class Moving(Part):
    """The sum, or the mean, of itself and of those before it along the rows or the columns, so many together; empty
    where there are not so many."""

    along: Side
    count: int
    shows: Literal["average", "sum"] = "average"
    restarts: bool = False
    kind: Literal["moving"] = "moving"


@dataclass(frozen=True, slots=True, kw_only=True)
class Index(Part):
    """Its size beside that of the first one along the rows or the columns, which is 100."""

    along: Side
    restarts: bool = False
    kind: Literal["index"] = "index"


@dataclass(frozen=True, slots=True, kw_only=True)
class Step(Part):
    """How much more or less it is than in the one before it along the rows or the columns, in natural order: than in
    the column before, whatever the columns are. The first has none before it."""

    along: Side
    shows: Literal["difference", "percent", "earlier"] = "percent"
    """By how much, by how many per cent of it, or what it is there."""
    restarts: bool = False
    kind: Literal["step"] = "step"


@dataclass(frozen=True, slots=True, kw_only=True)
class CumulativeShare(Part):
    """The share of all of its level that it and those larger than it make together, largest first."""

    along: Side
    restarts: bool = False
    kind: Literal["cumulative"] = "cumulative"


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside(Part):
    """What it is beside another measure of the model: how much more, how many times as much, or how many per cent."""

    measure: str
    shows: Literal["difference", "ratio", "percent"] = "difference"
    kind: Literal["beside"] = "beside"


@dataclass(frozen=True, slots=True, kw_only=True)
class ToDate(Part):
    """What it comes to from the beginning of the period of a level, in which a period lies, to that one's end."""

    level: LevelName
    kind: Literal["to_date"] = "to_date"


@dataclass(frozen=True, slots=True, kw_only=True)
class Balance(Part):
    """Of what is not added up along time, a balance or what is open: what it was when a time began, what it is when it
    ends, or by how much it moved between."""

    shows: Literal["opening", "movement", "closing"]
    kind: Literal["balance"] = "balance"


View = Annotated[
    Share | Change | ToDate | RunningTotal | Moving | Index | Rank | CumulativeShare | Step | Balance | Beside, ByKind()
]

_TURNED: dict[str, Literal["row", "column", "parent", "parent_column"]] = {
    "row": "column", "column": "row", "parent": "parent_column", "parent_column": "parent",
}  # fmt: skip


def calendars_of(model: SemanticModel) -> list[str]:
    """The names of a model's calendar dimensions, in its order."""
    return [each.name for each in model.dimensions if each.key is not None and is_calendar(model, each)]


def check_view(view: View, measure: Measure, model: SemanticModel) -> None:
    """Raises InputError for a view that has no meaning; NotFoundError for a dimension that is not there."""
    if isinstance(view, Share) and (view.level is None) == (view.of == "level"):
        raise InputError("A share of a level does not say of which.", "Name a level that the table shows.")
    if isinstance(view, Beside) and view.measure == measure.name:
        raise InputError(f"{measure.caption} would stand beside itself.", "Take another measure.")
    if isinstance(view, Moving) and not 1 < view.count <= MOST_MOVING:
        raise InputError(f"Nothing moves over {view.count}.", f"Take 2 to {MOST_MOVING} together.")
    if isinstance(view, Change) and view.on == "member":
        if view.hierarchy is None or not view.path:
            raise InputError("A change on a member does not say on which.", "Name the member by its path.")
    elif isinstance(view, Balance):
        opening_of(measure, model)
    elif isinstance(view, Change | ToDate):
        dimension = find_dimension(model, view.dimension if isinstance(view, Change) else view.level.dimension)
        if dimension.name not in calendars_of(model):
            raise InputError(
                f"{dimension.caption} is not a calendar, so nothing lies before its members.",
                "Take the change along a calendar dimension.",
            )


def formula_with(view: View, formula: Formula, measure: Measure, model: SemanticModel) -> Formula:
    """A measure's formula as a view shows it. Raises InputError where a running total would not be one, and where the
    measure looks beyond its own records already."""
    if isinstance(view, Share | Change | ToDate | Balance) and not is_own(formula):
        raise InputError(
            f"{measure.caption} looks beyond the records of a cell already, so it has no share and no change.",
            "Take the share or the change of a measure that it is made of.",
        )
    if isinstance(view, ToDate) and not rolls_up(formula):
        raise InputError(
            f"{measure.caption} cannot be added up to a date, for its parts do not make up a total.",
            "Take a sum, a count, a least or greatest value, or divide two such.",
        )
    match view:
        case Share():
            return Operation("/", formula, of_scope(formula, above_of(view)))
        case Change():
            earlier = of_scope(formula, elsewhere_of(view))
            if view.shows == "earlier":
                return earlier
            difference = Operation("-", formula, earlier)
            if view.shows == "percent":
                return Operation("/", difference, Applied("abs", (earlier,)))
            # More than nothing at all is a change where the time before is known, and none where it is not.
            known = replace(stands_on(formula), scope=Known(elsewhere_of(view)))
            return Given(difference, known)
        case ToDate():
            return of_scope(formula, to_date_of(view))
        case RunningTotal() | Moving(shows="sum"):
            _check_runs(formula, measure)
            kind, count = ("moving_sum", view.count) if isinstance(view, Moving) else ("running", 1)
            return mapped(formula, lambda base: Along(kind, base, view.along, view.restarts, count))  # type: ignore[arg-type]
        case CumulativeShare():
            _check_runs(formula, measure)
            return Along("cumulative", formula, view.along, view.restarts)
        case Moving():
            return Along("moving_mean", formula, view.along, view.restarts, view.count)
        case Beside():
            other = formula_of(find_measure(model, view.measure), model)
            return Operation("-" if view.shows == "difference" else "/", formula, other)
        case Balance():
            closing = mapped(formula, _at_end)
            if view.shows == "closing":
                return closing
            opening = of_scope(closing, opening_of(measure, model))
            if view.shows == "opening":
                return opening
            return Given(
                Operation("-", closing, opening), replace(bases_of(opening)[0], scope=Known(opening_of(measure, model)))
            )
        case Index() | Rank():
            return Along(view.kind, formula, view.along, view.restarts)
        case Step():
            before = Along("before", formula, view.along, view.restarts)
            if view.shows == "earlier":
                return before
            step = Along("step", formula, view.along, view.restarts)
            return step if view.shows == "difference" else Operation("/", step, Applied("abs", (before,)))
        case _:
            assert_never(view)


def _check_runs(formula: Formula, measure: Measure) -> None:
    if not can_run(formula):
        raise InputError(
            f"{measure.caption} cannot be added up along the table, for its parts do not make up a total.",
            "Take a measure that is a sum or a count, or divide two such.",
        )


def can_run(formula: Formula) -> bool:
    """Whether what a formula stands on can be added up: sums and counts."""
    return all(each.aggregate.kind in ("sum", "count", "count_values") for each in bases_of(formula))


def turned(view: View | None) -> View | None:
    """The same view after rows and columns have changed places."""
    match view:
        case Share() if view.of in _TURNED:
            return replace(view, of=_TURNED[view.of])
        case RunningTotal() | Moving() | Index() | Rank() | CumulativeShare() | Step():
            return replace(view, along="columns" if view.along == "rows" else "rows")
        case _:
            return view


def elsewhere_of(view: Change) -> Earlier | Instead:
    """The scope that a change is a change on."""
    if view.on == "member":
        return Instead(view.dimension, view.hierarchy or "", view.path)
    return Earlier(view.dimension, view.on, view.same_part)


def to_date_of(view: ToDate) -> UpTo:
    """The scope of a value to date."""
    return UpTo(view.level.dimension, view.level.hierarchy, view.level.level)


def has_balance(formula: Formula) -> bool:
    """Whether all that a formula stands on is a balance, or what is open, along one calendar."""
    bases = bases_of(formula)
    are_balances = is_own(formula) and all(each.aggregate.kind in ("balance", "open") for each in bases)
    return are_balances and len({each.aggregate.time for each in bases}) == 1


def opening_of(measure: Measure, model: SemanticModel) -> Opening:
    """The scope of a measure's opening balance. Raises InputError for one that has no balance."""
    formula = formula_of(measure, model)
    if not has_balance(formula):
        raise InputError(
            f"{measure.caption} is no balance, so it has no opening and no movement.",
            "Take its change on the period before.",
        )
    return Opening(bases_of(formula)[0].aggregate.time)


def _at_end(base: Base) -> Base:
    """A base as it stands at the end of a time."""
    return replace(base, aggregate=base.aggregate._replace(over_time="last"))


def above_of(view: Share) -> Above:
    """The scope that a share divides by."""
    if view.level is not None:
        reach = (view.level.dimension, view.level.hierarchy, view.level.level)
        return Above(reach, reach)
    return ABOVE[view.of]


def is_itself(view: View | None) -> bool:
    """Whether a view is of the measure's own kind: the measure itself, or it as it is at another time."""
    is_earlier = isinstance(view, Change | Step) and view.shows == "earlier"
    return view is None or is_earlier or (isinstance(view, Balance) and view.shows != "movement")


def is_difference(view: View | None) -> bool:
    """Whether a view tells how much more or less a measure is than elsewhere as a number of its own kind."""
    return is_change(view) and not (isinstance(view, Change | Step) and view.shows == "percent")


def is_change(view: View | None) -> bool:
    """Whether a view tells how much more or less a measure is than elsewhere, as a number or in per cent."""
    is_of_two = isinstance(view, Change | Step) and view.shows != "earlier"
    return is_of_two or (isinstance(view, Balance) and view.shows == "movement")
