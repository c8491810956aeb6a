"""What a question asks of each fact. Measures that count the same records are asked together."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import product

import numpy as np

from dastan.core.analysis.document import Analysis, AxisName, Filter
from dastan.core.engine.aggregates import BaseAggregate
from dastan.core.engine.axes import is_seen
from dastan.core.engine.grains import AxisGrain, Placement, axis_grains
from dastan.core.engine.measures import base_aggregates
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs
from dastan.core.engine.waist import Condition, Groups, MemberSet, Request, Rights
from dastan.core.model.document import Measure, MeasureCondition, SemanticModel
from dastan.core.model.reach import Grain, grain_of, reaches

COUNT = BaseAggregate("count")
_TOTAL = AxisGrain(())


@dataclass(frozen=True, slots=True)
class Records:
    """The records that measures count: of one fact, by one set of roles, under one condition of their own.

    What is open at a date is asked for `alone`: it exists in periods in which nothing began.
    """

    grain: Grain
    condition: Condition
    alone: str


@dataclass(frozen=True, slots=True, eq=False)
class Fact:
    """The groups of every pair of grains that reaches some records, and the measures that count them."""

    grain: Grain
    measures: tuple[Measure, ...]
    aggregates: tuple[BaseAggregate, ...]
    groups: dict[PairOfGrains, Groups]

    @property
    def is_open(self) -> bool:
        """Whether it counts what is open at a date."""
        return self.aggregates[0].kind == "open"


def ask_facts(
    document: Analysis,
    model: SemanticModel,
    measures: tuple[Measure, ...],
    shape: Shape,
    rights: Rights,
    group: Callable[[Request], Groups],
) -> list[Fact]:
    """Groups each fact for every pair of grains that it is reached by.

    Where a placed dimension does not reach a fact, only the totals above it are asked; a filter on such a
    dimension leaves the fact alone.
    """
    alike: dict[Records, list[Measure]] = {}
    for each in measures:
        alone = each.name if each.aggregate == "open" else ""
        alike.setdefault(Records(grain_of(each), _member_sets(each.where), alone), []).append(each)
    pairs = [PairOfGrains(*each) for each in product(axis_grains(shape.rows), axis_grains(shape.columns))]
    facts = []
    for records, own in alike.items():
        reached = {each.name for each in model.dimensions if reaches(model, records.grain, each)}
        wanted = [base for each in own for base in base_aggregates(each, model)]
        aggregates = tuple(dict.fromkeys(wanted if records.alone else [COUNT, *wanted]))
        filters = tuple(each for each in document.question.filters if each.dimension in reached)
        asked = Asked(records.grain, aggregates, records.condition + _member_sets(filters), rights)
        shown = [pair for pair in pairs if all(part.placed.dimension in reached for part, _ in shape.parts(pair))]
        facts.append(Fact(records.grain, tuple(own), aggregates, group_pairs(shown, shape, asked, group)))
    return facts


def seen_in(facts: list[Fact], axis: AxisName, shape: Shape) -> dict[AxisGrain, tuple[np.ndarray, ...]]:
    """Per grain of an axis, the member codes for which any of the facts has a cell.

    Whatever has records somewhere has them in every total above as well. But what is open in a month may not be
    open at the year's end: there every seen cell counts, and brings the members above it in.
    """
    found: dict[AxisGrain, list[np.ndarray]] = {}
    for fact in facts:
        for pair, groups in fact.groups.items():
            width = len(pair.rows.depths)
            own, across = (pair.rows, groups.codes[:width]), (pair.columns, groups.codes[width:])
            placements, others = shape.rows, shape.columns
            if axis == "columns":
                own, across, placements, others = across, own, others, placements
            (grain, codes), (other, other_codes) = own, across
            if grain == _TOTAL or (other != _TOTAL and not fact.is_open):
                continue
            stacked = np.stack(codes, axis=1)
            found.setdefault(grain, []).append(stacked)
            if fact.is_open:
                seen = is_seen(placements, grain, codes)
                seen = seen if other == _TOTAL else seen & is_seen(others, other, other_codes)
                found[grain][-1] = stacked[seen]
                for above, above_codes in _above(placements, grain, stacked[seen]):
                    found.setdefault(above, []).append(above_codes)
    return {
        grain: tuple(np.unique(np.concatenate(codes), axis=0).T) if len(codes) > 1 else tuple(codes[0].T)
        for grain, codes in found.items()
    }


def _above(
    placements: tuple[Placement, ...], grain: AxisGrain, codes: np.ndarray
) -> Iterator[tuple[AxisGrain, np.ndarray]]:
    """The grains and codes of every header above those of a grain, nearest first."""
    for last in range(len(grain.depths) - 1, -1, -1):
        outer, depth = grain.depths[:last], grain.depths[last]
        members = placements[last].members
        for upper in range(depth, placements[last].start - 1, -1):
            if (last, upper) != (len(grain.depths) - 1, depth):
                own = members.at_depth(codes[:, last], depth, upper)
                yield AxisGrain((*outer, upper)), np.column_stack([codes[:, :last], own]).astype(np.int32)


def _member_sets(conditions: tuple[Filter, ...] | tuple[MeasureCondition, ...]) -> Condition:
    return tuple(MemberSet(each.dimension, each.hierarchy, each.members, each.action == "keep") for each in conditions)
