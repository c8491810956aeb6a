"""A measure worked out by itself, in one cell, from the exact values of what it stands on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from dastan.core.analysis.view_terms import Exact
from dastan.core.formula.bases import BaseAggregate, Counted
from dastan.core.formula.formula import Along, Base, Beneath, Formula, OnRows, Standing, calculate
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.expression import MeasureOf
from dastan.core.model.meaning import Leaf, leaves_of_measure, with_measure, worked_out
from dastan.core.values import Values, empty_values


class NotByItselfError(Exception):
    """The value depends on other cells, or on members inside this one."""


def value_of_leaves(
    measure: Measure, model: SemanticModel, values: Sequence[Exact], stands: Callable[[Standing], bool]
) -> Exact:
    """What a measure comes to. Args: `values` are those of its leaves, in the order of `leaves_of_measure`; `stands`
    tells whether the cell stands at a level.

    Raises: NotByItselfError.
    """
    model = with_measure(measure, model)
    leaves = leaves_of_measure(measure, model)
    stands_in = [Base(Counted("", (), (at,)), BaseAggregate("count")) for at in range(len(leaves))]

    def of_leaf(leaf: Leaf) -> Formula:
        return stands_in[leaves.index(leaf)]

    formula = worked_out(MeasureOf(measure=measure.name), model, of_leaf, is_checking=False)
    known = {base: exact_values(value) for base, value in zip(stands_in, values, strict=True)}
    return calculate(formula, _OneCell(known, stands)).at(0)


@dataclass(frozen=True, slots=True)
class _OneCell:
    values: dict[Base, Values]
    stands: Callable[[Standing], bool]
    size: int = 1

    def base(self, base: Base) -> Values:
        return self.values[base]

    def along(self, along: Along, own: Values) -> Values:
        raise NotByItselfError(along, own)

    def beneath(self, beneath: Beneath) -> Values:
        raise NotByItselfError(beneath)

    def standing(self, standing: Standing) -> Values:
        return exact_values(int(self.stands(standing)))

    def on_rows(self, laid_out: OnRows, own: Values) -> Values:
        raise NotByItselfError(laid_out, own)


def exact_values(value: Exact) -> Values:
    """One exact value as values."""
    if value is None:
        return empty_values(1, 0)
    there = np.ones(1, np.bool_)
    if isinstance(value, float):
        return Values(np.array([value]), None, there)
    scale = -int(value.as_tuple().exponent) if isinstance(value, Decimal) else 0
    return Values(np.array([int(Decimal(value).scaleb(scale))], np.int64), scale, there)
