"""Works a question out as far as its cells: group, cube, calculate; for a table, and for what ranks and compares.

A measure that looks beyond its own records (a share, a change, a slice that shows everywhere) has a value only among
others. Where members are ranked or compared by one, it is worked out as in a table by their levels alone, under the
same filters.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from dastan.core.analysis.document import AXES, Analysis, PlacedDimension
from dastan.core.engine.axes import Axis
from dastan.core.engine.cells_on_rows import filled_on_rows
from dastan.core.engine.cube import Cube, build_cube
from dastan.core.engine.facts import Fact, FactPlan, ask_facts, plan_facts, size_of_plans
from dastan.core.engine.grains import AxisGrain
from dastan.core.engine.ground import OnCube
from dastan.core.engine.limits import AxisLimits, find_limits
from dastan.core.engine.neighbours import GOES_ON, filled_along
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.size import Budget, refuse_beyond, shown_levels
from dastan.core.engine.standing import placements_on, standing_on
from dastan.core.engine.waist import Conditions, Groups, LevelRef, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.formula.formula import Formula, along_of, calculate
from dastan.core.model.document import SemanticModel
from dastan.core.values import Values


@dataclass(frozen=True, slots=True, eq=False)
class WorkedOut:
    """The cells of a question before they are arranged: two axes, a cube, and one `Values` for each formula."""

    facts: Sequence[Fact]
    rows: Axis
    columns: Axis
    cube: Cube
    values: tuple[Values, ...]


def questioner_for(
    document: Analysis,
    model: SemanticModel,
    source: Source,
    rights: Rights,
    today: date,
    group: Callable[[Request], Groups],
    budget: Budget,
    watch: Watch,
) -> Questioner:
    """What a document asks with. Args: `model` has what the document makes."""
    return Questioner(document, model, source, rights, today, group, budget, watch, _as_in_a_table)


def worked_out(questioner: Questioner, formulas: tuple[Formula, ...]) -> WorkedOut:
    """Some formulas in every cell of a question. Raises LimitError before anything is grouped that is too much."""
    facts, shape = _grouped(questioner, formulas)
    questioner.watch.check()
    rows, columns = (standing_on(axis, facts, shape, questioner) for axis in AXES)
    cube = build_cube(facts, rows, columns)
    for along in (each for formula in formulas for each in along_of(formula) if each.kind in GOES_ON):
        cube = filled_along(cube, rows if along.axis == "rows" else columns, along.axis, questioner.budget.cells)
    cube = filled_on_rows(cube, formulas, rows, columns) if questioner.is_laid_out else cube
    questioner.watch.check()
    ground = OnCube(cube, facts, rows, columns, shape, questioner)
    return WorkedOut(facts, rows, columns, cube, tuple(calculate(each, ground) for each in formulas))


def _grouped(questioner: Questioner, formulas: tuple[Formula, ...]) -> tuple[list[Fact], Shape]:
    """Everything that is asked of the source, once it is known not to be too much; and the axes with their limits."""
    bare = shape_of(questioner)
    plans = plan_facts(questioner, formulas, bare)
    if questioner.seen.is_all:
        _refuse_too_large(plans, bare, questioner)
    else:
        seen = shape_of(questioner, as_seen=True)
        _refuse_too_large(plan_facts(questioner, formulas, seen), seen, questioner)
    shape = limited(bare, questioner)
    return ask_facts(plans, shape, questioner), shape


def _refuse_too_large(plans: list[FactPlan], shape: Shape, questioner: Questioner) -> None:
    """Raises LimitError for what would come to too much. Whoever may not see everything is refused by what they see, as
    if nothing else were there: a refusal tells nothing of what is hidden, not even by being one."""
    size = size_of_plans(plans, shape, questioner)
    refuse_beyond(size, questioner.budget, shown_levels(shape), questioner.seen.is_all)
    questioner.watch.admit(size.memory_bytes)


def shape_of(questioner: Questioner, as_seen: bool = False) -> Shape:
    """The two axes as they are open, without their limits. Args: `as_seen` by the reader: nothing hidden has a part."""
    over = questioner.document.question.totals_over
    return Shape(*(AxisLimits(placements_on(axis, questioner, as_seen), over) for axis in AXES))


def limited(bare: Shape, questioner: Questioner) -> Shape:
    """The axes with the members of every limited level ranked."""
    found = [find_limits(each, questioner.table) for each in (bare.rows, bare.columns)]
    return bare if found == [bare.rows, bare.columns] else Shape(*found)


def _as_in_a_table(
    questioner: Questioner, formula: Formula, levels: tuple[LevelRef, ...], over: Conditions
) -> tuple[np.ndarray, Values]:
    """A formula's values in a table by some levels alone: `(n_groups, n_levels) int32` codes, and a value for each.

    Args: `over`: what holds for the records of the whole table.
    """
    finest: dict[tuple[str, str], int] = {}
    depths = [questioner.source.members(each.dimension, each.hierarchy).depth_of(each.level) for each in levels]
    for each, depth in zip(levels, depths, strict=True):
        own = (each.dimension, each.hierarchy)
        finest[own] = max(depth, finest.get(own, 0))
    placed = tuple(
        PlacedDimension(
            dimension=dimension, hierarchy=hierarchy,
            level=questioner.source.members(dimension, hierarchy).levels[depth].name,
        )
        for (dimension, hierarchy), depth in finest.items()
    )  # fmt: skip
    question = questioner.document.question
    bare = replace(question, rows=placed, columns=(), measures=question.measures[:1], totals_over="scope")
    found = worked_out(
        questioner.asked_otherwise(replace(questioner.document, question=bare, openings=()), over), (formula,)
    )
    number = found.rows.grains.index(AxisGrain(tuple(finest.values())))
    cells = np.flatnonzero(found.rows.grain[found.cube.rows] == number)
    codes = found.rows.codes[found.cube.rows[cells]]
    columns = []
    for each, depth in zip(levels, depths, strict=True):
        own = (each.dimension, each.hierarchy)
        members = questioner.source.members(*own)
        columns.append(members.at_depth(codes[:, list(finest).index(own)], finest[own], depth))
    matrix = np.stack(columns, axis=1).astype(np.int32) if columns else np.empty((len(cells), 0), np.int32)
    return matrix, found.values[0].take(cells)
