"""Makes ready what the first questions would otherwise wait for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from dastan.core.engine.waist import LevelRef
from dastan.core.engine.watch import Watch
from dastan.core.model.document import Dimension
from dastan.core.model.formulas import base_aggregates
from dastan.core.model.reach import Grain, grain_of, reaches
from dastan.sources.columnar.added import ADDED, added_up
from dastan.sources.columnar.blocks import zones_of
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.made_postings import postings_of
from dastan.sources.columnar.plain_groups import IN_ORDER
from dastan.sources.columnar.summaries import summaries_of


@dataclass(frozen=True, slots=True)
class Step:
    """Something to be made ready: what it is, in words, and what makes it."""

    words: str
    make: Callable[[], object]


def make_ready(facts: CodedFacts, watch: Watch) -> None:
    """Makes codes, numbers, distinct projections, summaries and postings; and looks whether what was prepared earlier
    is as it was written.

    Args: `watch` hears how many parts there are, and which is being made.
    """
    first, later = _steps(facts)
    watch.expect(len(first) + len(later) + 1)
    if facts.prepared is not None and facts.prepared.is_filled:
        # Opened at once, for they answer most of the first questions.
        _take_shortcuts(facts)
    if facts.prepared is not None and facts.prepared.broken():
        facts.forget()
    _go_through(first, watch)
    watch.begin("summaries")
    _take_shortcuts(facts, watch)
    _go_through(later, watch)
    if facts.prepared is not None:
        facts.prepared.settle()
        facts.kept.trim()
        facts.prepared.forget_others()
        if facts.prepared.has_written:
            facts.map_anew()
            _take_shortcuts(facts)
    watch.note_done()


def _go_through(steps: list[Step], watch: Watch) -> None:
    for each in steps:
        watch.begin(each.words)
        each.make()
        watch.note_done()


def _steps(facts: CodedFacts) -> tuple[list[Step], list[Step]]:
    """What most questions need; and what distinct counts and percentiles need besides, for which there may be no room
    beside the folder."""
    first, later = [], []
    for measure in facts.model.measures:
        if measure.is_of_others:
            continue  # its operands are measures themselves
        grain = grain_of(measure)
        reached = [each for each in facts.model.dimensions if reaches(facts.model, grain, each)]
        bases = base_aggregates(measure)
        for each in bases:
            if each.kind not in (*ADDED, *IN_ORDER, "open"):
                first.append(Step(measure.caption, partial(facts.argument_values, measure.table, each)))
        for each in added_up(bases):
            first.append(Step(measure.caption, partial(facts.summand, measure.table, each)))
        for dimension in reached:
            first.append(Step(f"by {dimension.caption}", partial(_code_levels, facts, grain, dimension)))
            for argument in (each.argument for each in bases if each.kind in IN_ORDER):
                words = f"{measure.caption} by {dimension.caption}"
                later.append(Step(words, partial(facts.codes, grain, dimension, argument)))
    return first, later


def _code_levels(facts: CodedFacts, grain: Grain, dimension: Dimension) -> None:
    for hierarchy in dimension.hierarchies:
        members = facts.members(dimension.name, hierarchy.name)
        if members.spread is None:
            for level in members.levels:
                facts.level_codes(grain, LevelRef(dimension.name, hierarchy.name, level.name), None)
    codes = facts.codes(grain, dimension, None)
    facts.kept.keep(("zones", grain, dimension.name, None), partial(zones_of, codes))


def _take_shortcuts(facts: CodedFacts, watch: Watch | None = None) -> None:
    for grain in dict.fromkeys(grain_of(each) for each in facts.model.measures if not each.is_of_others):
        facts.summaries[grain] = summaries_of(facts, grain, watch or Watch())
        facts.postings[grain] = postings_of(facts, grain, watch or Watch())
