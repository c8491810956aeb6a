"""Makes ready what the first questions would otherwise wait for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING

from dastan.core.engine.waist import LevelRef
from dastan.core.engine.watch import Watch
from dastan.core.model.document import Dimension
from dastan.core.model.formulas import base_aggregates
from dastan.core.model.reach import Grain, grain_of, reaches
from dastan.sources.columnar.blocks import zones_of
from dastan.sources.columnar.fast_groups import ADDED, added_up
from dastan.sources.columnar.plain_groups import IN_ORDER
from dastan.sources.columnar.postings import postings_of
from dastan.sources.columnar.summaries import summaries_of

if TYPE_CHECKING:
    from dastan.sources.columnar.column_source import ColumnSource


@dataclass(frozen=True, slots=True)
class Step:
    """Something to be made ready: what it is, in words, and what makes it."""

    words: str
    make: Callable[[], object]


def make_ready(source: ColumnSource, watch: Watch) -> None:
    """Makes codes, numbers, distinct projections, summaries and postings; and looks whether what was prepared earlier
    is as it was written.

    Args: `watch` hears how many parts there are, and which is being made.
    """
    steps = [*_measure_steps(source)]
    watch.expect(len(steps) + 1)
    if source.prepared is not None and source.prepared.is_filled:
        # Opened at once, for they answer most of the first questions.
        _take_shortcuts(source)
    if source.prepared is not None and source.prepared.broken():
        source.forget()
    for each in steps:
        watch.begin(each.words)
        each.make()
        watch.note_done()
    watch.begin("summaries")
    _take_shortcuts(source, watch)
    if source.prepared is not None:
        source.prepared.settle()
        source.prepared.forget_others()
        if source.prepared.has_written:
            source.map_anew()
            _take_shortcuts(source)
    watch.note_done()


def _measure_steps(source: ColumnSource) -> Iterator[Step]:
    for measure in source.model.measures:
        if measure.is_of_others:
            continue  # its operands are measures themselves
        grain = grain_of(measure)
        arguments: list[str | None] = [None]
        for each in base_aggregates(measure):
            if each.kind in IN_ORDER:
                arguments.append(each.argument)
            elif each.kind not in (*ADDED, "open"):
                yield Step(measure.caption, partial(source.argument_values, measure.table, each))
        for each in added_up(base_aggregates(measure)):
            yield Step(measure.caption, partial(source.summand, measure.table, each))
        for dimension in source.model.dimensions:
            if reaches(source.model, grain, dimension):
                for argument in arguments:
                    make = partial(_code_levels, source, grain, dimension, argument)
                    yield Step(f"{measure.caption} by {dimension.caption}", make)


def _code_levels(source: ColumnSource, grain: Grain, dimension: Dimension, argument: str | None) -> None:
    for hierarchy in dimension.hierarchies:
        members = source.members(dimension.name, hierarchy.name)
        if members.spread is None:
            for level in members.levels:
                source.level_codes(grain, LevelRef(dimension.name, hierarchy.name, level.name), argument)
    codes = source.codes(grain, dimension, argument)
    if argument is None:
        source.keep(("zones", grain, dimension.name, None), partial(zones_of, codes))


def _take_shortcuts(source: ColumnSource, watch: Watch | None = None) -> None:
    for grain in dict.fromkeys(grain_of(each) for each in source.model.measures if not each.is_of_others):
        source.summaries[grain] = summaries_of(source, grain, watch or Watch())
        source.postings[grain] = postings_of(source, grain, watch or Watch())
