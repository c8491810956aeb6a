"""What stands beside the members of a hierarchy under a document's other filters, and how many of them are left."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from dastan.core.analysis.document import AXES, Analysis, Opening, Order, PlacedDimension
from dastan.core.analysis.made import with_made
from dastan.core.analysis.placed import shown_measure
from dastan.core.engine.answer import answer
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import Groups, LevelRef, Request, Rights, Source
from dastan.core.engine.watch import Watch
from dastan.core.engine.worked_out import questioner_for
from dastan.core.model.conditions import Condition, MemberFilter
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.meaning import parts_of
from dastan.core.model.reach import grain_of, reaches
from dastan.core.reading.window import Number, as_number
from dastan.core.values import Values, widened


@dataclass(frozen=True, slots=True, eq=False)
class Beside:
    """A measure's value for each member of a level, and which members have records, `(n_members,) bool`."""

    measure: Measure
    values: Values
    has_records: np.ndarray


@dataclass(frozen=True, slots=True)
class Asking:
    """One reader's way to ask a model: what every question needs beside its document."""

    model: SemanticModel
    source: Source
    rights: Rights
    today: date
    group: Callable[[Request], Groups]
    budget: Budget


def beside(document: Analysis, dimension: str, hierarchy: str, level: str, asking: Asking) -> Beside | None:
    """The first measure beside the members of a level, under all filters but those that pick its own members.

    None without a measure, or where the dimension does not reach its records.
    """
    if not document.question.measures:
        return None
    asking = replace(asking, model=with_made(asking.model, document))
    # Beside members stands the measure itself, whatever view of it the table shows.
    placed = replace(document.question.measures[0], view=None)
    measure = shown_measure(placed, asking.model)
    own = asking.model.dimension(dimension)
    if not any(reaches(asking.model, grain_of(part), own) for part in parts_of(measure, asking.model)):
        return None
    filters = tuple(each for each in document.question.filters if not _picks(each, dimension, hierarchy))
    plain = replace(document, question=replace(document.question, filters=filters))
    questioner = questioner_for(
        plain, asking.model, asking.source, asking.rights, asking.today, asking.group, asking.budget, Watch()
    )
    codes, values = questioner.table(placed, (LevelRef(dimension, hierarchy, level),), (), questioner.filters)
    members = questioner.source.members(dimension, hierarchy)
    count = len(members.levels[members.depth_of(level)])
    has_records = np.zeros(count, np.bool_)
    has_records[codes[:, 0]] = True
    return Beside(measure, widened(values, codes[:, 0], count), has_records)


def whole(document: Analysis, asking: Asking) -> Number:
    """The first measure over all records that the document keeps and its reader may see; None where it is empty."""
    placed = replace(document.question.measures[0], view=None)
    questioner = questioner_for(
        document, asking.model, asking.source, asking.rights, asking.today, asking.group, asking.budget, Watch()
    )
    _, values = questioner.table(placed, (), (), questioner.filters)
    return as_number(values, 0) if len(values.present) and values.present[0] else None


def count_shown(document: Analysis, dimension: str, hierarchy: str, level: str, asking: Asking) -> int | None:
    """How many members of a level the document shows with all its filters and limits; None where it cannot be told."""
    if not document.question.measures:
        return None
    outer, placed = _standing(document, dimension, hierarchy, level)
    members = asking.source.members(dimension, hierarchy)
    levels = [each.name for each in members.levels]
    first = min(placed.level, level, key=levels.index)
    # All above the level is open, so that it is seen under each of its parents, as a limit ranks it.
    opened = Opening(dimension=dimension, hierarchy=hierarchy, levels=tuple(levels[: levels.index(level)]))
    limits = tuple(replace(each, others=False) for each in placed.limits)
    shown = replace(placed, level=first, skipped=(), limits=limits, order=Order())
    question = replace(
        document.question, measures=document.question.measures[:1], measures_on="columns", measures_at=None,
        rows=(*outer, shown), columns=(),
    )  # fmt: skip
    openings = tuple(each for each in document.openings if (each.dimension, each.hierarchy) != (dimension, hierarchy))
    found = answer(
        replace(document, question=question, openings=(*openings, opened)), asking.model, asking.source, asking.rights,
        asking.today, asking.group, budget=asking.budget,
    )  # fmt: skip
    depth, place = members.depth_of(level), len(outer)
    at_level = [
        number for number, each in enumerate(found.rows.grains)
        if len(each.depths) == place + 1 and each.depths[place] == depth and place not in each.others
    ]  # fmt: skip
    return len(np.unique(found.rows.codes[np.isin(found.rows.grain, at_level), place]))


def _standing(
    document: Analysis, dimension: str, hierarchy: str, level: str
) -> tuple[tuple[PlacedDimension, ...], PlacedDimension]:
    """A hierarchy as it is placed, and what stands outside it; by itself where it is not placed."""
    for axis in AXES:
        placed = document.question.axis(axis)
        for place, each in enumerate(placed):
            if (each.dimension, each.hierarchy) == (dimension, hierarchy):
                return placed[:place], each
    return (), PlacedDimension(dimension=dimension, hierarchy=hierarchy, level=level)


def _picks(each: Condition, dimension: str, hierarchy: str) -> bool:
    return isinstance(each, MemberFilter) and (each.dimension, each.hierarchy) == (dimension, hierarchy)
