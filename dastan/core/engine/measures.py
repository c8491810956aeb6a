"""From a measure to the base aggregates it needs, and back to its values."""

from __future__ import annotations

import numpy as np

from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.waist import Groups
from dastan.core.model.document import Measure
from dastan.core.values import Values, empty_values


def base_aggregates(measure: Measure) -> tuple[BaseAggregate, ...]:
    """What has to be grouped for a measure."""
    argument = measure.expression or ""
    match measure.aggregate:
        case "count":
            return (BaseAggregate("count"),)
        case "average":
            return (BaseAggregate("sum", argument), BaseAggregate("count_values", argument))
        case kind:
            return (BaseAggregate(kind, argument),)


def measure_values(measure: Measure, aggregates: tuple[BaseAggregate, ...], groups: Groups) -> Values:
    """A measure's value for every group."""
    found = [groups.values[aggregates.index(each)] for each in base_aggregates(measure)]
    if not len(groups):
        return empty_values(0, None if measure.aggregate == "average" else found[0].scale)
    if measure.aggregate != "average":
        return found[0]
    total, count = found
    present = count.data > 0
    average = np.divide(total.as_float(), count.data, out=np.zeros(len(count)), where=present)
    return Values(average, None, present)
