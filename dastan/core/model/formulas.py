"""A measure that is not made of others, as a formula over bases."""

from __future__ import annotations

from dataclasses import replace

from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.formula import Applied, Base, CountedAmong, Formula, Operation, bases_of
from dastan.core.model.conditions import Condition, KeyFilter, MemberFilter
from dastan.core.model.document import Measure
from dastan.core.model.reach import grain_of

_MEDIAN = 50.0
_COUNTS = ("count", "count_values", "distinct")


def formula_of_part(measure: Measure, sliced: tuple[Condition, ...] = ()) -> Formula:
    """What a measure is worked out from that is not made of others.

    Args: `sliced` are those of its conditions that are not its own. What is counted under its own is zero where there
        are records of which none fits, so that its share of them is nothing, and not unknown.
    """
    found, among = _of_its_records(measure), counted_among(measure, sliced)
    return found if among is None else CountedAmong(found, Base(among, BaseAggregate("count")))


def counted_among(measure: Measure, sliced: tuple[Condition, ...]) -> Counted | None:
    """The records among which a measure counts those that fit its own condition; None for one that does not."""
    if measure.aggregate not in _COUNTS or len(measure.where) <= len(sliced):
        return None
    own = tuple(each for each in measure.where[: len(measure.where) - len(sliced)] if _leaves_out_nowhere(each))
    return replace(counted_by(measure), where=sliced, placed=own)


def _leaves_out_nowhere(condition: Condition) -> bool:
    """Whether a condition says no more than that what is counted belongs somewhere: that it was resolved on some day,
    say. By that dimension, what was not has no place, and is no row of nothing; by any other it is among the rest."""
    if isinstance(condition, KeyFilter):
        return condition.action == "leave_out"
    if not isinstance(condition, MemberFilter) or condition.action != "leave_out" or condition.level is not None:
        return False
    return bool(condition.members) and all(path[0] is None for path in condition.members)


def _of_its_records(measure: Measure) -> Formula:
    counted = counted_by(measure)

    def base(aggregate: BaseAggregate) -> Base:
        return Base(counted, aggregate)

    argument = measure.expression or ""
    match measure.aggregate:
        case "count":
            return base(BaseAggregate("count"))
        case "average":
            return Operation("/", base(BaseAggregate("sum", argument)), base(BaseAggregate("count_values", argument)))
        case "weighted_average":
            weight = measure.weight or ""
            weighted = BaseAggregate("sum", f"({argument}) * ({weight})")
            return Operation("/", base(weighted), base(BaseAggregate("sum", weight, given=argument)))
        case "median" | "percentile":
            percentile = measure.percentile if measure.percentile is not None else _MEDIAN
            return base(BaseAggregate("percentile", argument, fraction=percentile / 100))
        case "variance":
            return base(BaseAggregate("variance", argument))
        case "deviation":
            return Applied("sqrt", (base(BaseAggregate("variance", argument)),))
        case "balance":
            return base(BaseAggregate("balance", argument, time=measure.time or "", over_time=measure.over_time))
        case "open":
            time, ended = measure.time or "", measure.ended or ""
            return base(BaseAggregate("open", measure.started or "", time=time, ended=ended))
        case "first" | "last" as which:
            return base(BaseAggregate("dated", argument, time=measure.time or "", over_time=which))
        case "debit" | "credit" as part:
            return base(BaseAggregate("sum", argument, part=part))
        case "ratio" | "formula":
            raise AssertionError(f"{measure.name} is worked out from other measures")
        case kind:
            return base(BaseAggregate(kind, argument))


def counted_by(measure: Measure) -> Counted:
    """The records that a measure counts which is not made of others."""
    return Counted(*grain_of(measure), measure.where, measure.name if measure.aggregate == "open" else "")


def base_aggregates(measure: Measure) -> tuple[BaseAggregate, ...]:
    """What has to be grouped for a measure that is not made of others."""
    return tuple(each.aggregate for each in bases_of(_of_its_records(measure)))
