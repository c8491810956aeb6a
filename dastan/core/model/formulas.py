"""A measure that is not made of others, as a formula over bases."""

from __future__ import annotations

from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.formula import Applied, Base, Formula, Operation, bases_of
from dastan.core.model.document import Measure
from dastan.core.model.reach import grain_of

_MEDIAN = 50.0


def formula_of_part(measure: Measure) -> Formula:
    """What a measure is worked out from that is not made of others."""
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
    return tuple(each.aggregate for each in bases_of(formula_of_part(measure)))
