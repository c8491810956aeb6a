"""From a measure to the base aggregates it needs, and back to its values."""

from __future__ import annotations

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.waist import Groups
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.values import Values, empty_values

_MEDIAN = 50.0


def base_aggregates(measure: Measure, model: SemanticModel) -> tuple[BaseAggregate, ...]:
    """What has to be grouped for a measure."""
    argument = measure.expression or ""
    match measure.aggregate:
        case "count":
            return (BaseAggregate("count"),)
        case "average":
            return (BaseAggregate("sum", argument), BaseAggregate("count_values", argument))
        case "median" | "percentile":
            percentile = measure.percentile if measure.percentile is not None else _MEDIAN
            return (BaseAggregate("percentile", argument, fraction=percentile / 100),)
        case "variance" | "deviation":
            return (BaseAggregate("variance", argument),)
        case "balance":
            return (BaseAggregate("balance", argument, time=measure.time or "", over_time=measure.over_time),)
        case "open":
            return (BaseAggregate("open", measure.started or "", time=measure.time or "", ended=measure.ended or ""),)
        case "ratio":
            return tuple(base for each in _parts(measure, model) for base in base_aggregates(each, model))
        case kind:
            return (BaseAggregate(kind, argument),)


def measure_values(
    measure: Measure, model: SemanticModel, aggregates: tuple[BaseAggregate, ...], groups: Groups
) -> Values:
    """A measure's value for every group."""
    if measure.aggregate == "ratio":
        above, below = (measure_values(each, model, aggregates, groups) for each in _parts(measure, model))
        return _divided(above, below)
    found = [groups.values[aggregates.index(each)] for each in base_aggregates(measure, model)]
    if measure.aggregate == "average":
        return _divided(*found)
    if measure.aggregate == "deviation":
        return Values(np.sqrt(found[0].data), None, found[0].present)
    return found[0] if len(groups) else empty_values(0, found[0].scale)


def _divided(above: Values, below: Values) -> Values:
    """Empty where an operand is, and where the one below is zero."""
    present = above.present & below.present & (below.data != 0)
    return Values(np.divide(above.as_float(), below.as_float(), out=np.zeros(len(above)), where=present), None, present)


def _parts(measure: Measure, model: SemanticModel) -> tuple[Measure, Measure]:
    return model.measure(measure.numerator or ""), model.measure(measure.denominator or "")
