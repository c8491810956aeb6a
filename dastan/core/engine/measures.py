"""From a measure to the base aggregates it needs, and back to its values."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.waist import Groups
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.values import Values, empty_values

_MEDIAN = 50.0


def base_aggregates(measure: Measure) -> tuple[BaseAggregate, ...]:
    """What has to be grouped for a measure that is not a ratio."""
    argument = measure.expression or ""
    match measure.aggregate:
        case "count":
            return (BaseAggregate("count"),)
        case "average":
            return (BaseAggregate("sum", argument), BaseAggregate("count_values", argument))
        case "weighted_average":
            weight = measure.weight or ""
            return (BaseAggregate("sum", f"({argument}) * ({weight})"), BaseAggregate("sum", weight, given=argument))
        case "median" | "percentile":
            percentile = measure.percentile if measure.percentile is not None else _MEDIAN
            return (BaseAggregate("percentile", argument, fraction=percentile / 100),)
        case "variance" | "deviation":
            return (BaseAggregate("variance", argument),)
        case "balance":
            return (BaseAggregate("balance", argument, time=measure.time or "", over_time=measure.over_time),)
        case "open":
            return (BaseAggregate("open", measure.started or "", time=measure.time or "", ended=measure.ended or ""),)
        case "first" | "last" as which:
            return (BaseAggregate("dated", argument, time=measure.time or "", over_time=which),)
        case "debit" | "credit" as part:
            return (BaseAggregate("sum", argument, part=part),)
        case "ratio":
            raise AssertionError("a ratio is computed from its operands")
        case kind:
            return (BaseAggregate(kind, argument),)


def grouped_values(measure: Measure, aggregates: tuple[BaseAggregate, ...], groups: Groups) -> Values:
    """The value of a measure that is not a ratio, for every group."""
    found = [groups.values[aggregates.index(each)] for each in base_aggregates(measure)]
    if measure.aggregate in ("average", "weighted_average"):
        return divided(*found)
    if measure.aggregate == "deviation":
        return Values(np.sqrt(found[0].data), None, found[0].present)
    return found[0] if len(groups) else empty_values(0, found[0].scale)


def measure_values(measure: Measure, model: SemanticModel, parts: Mapping[str, Values]) -> Values:
    """Any measure's values from those of its parts, place by place."""
    if measure.aggregate != "ratio":
        return parts[measure.name]
    operands = (model.measure(measure.numerator or ""), model.measure(measure.denominator or ""))
    return divided(*(measure_values(each, model, parts) for each in operands))


def divided(above: Values, below: Values) -> Values:
    """Empty where an operand is, and where the one below is zero."""
    present = above.present & below.present & (below.data != 0)
    return Values(np.divide(above.as_float(), below.as_float(), out=np.zeros(len(above)), where=present), None, present)
