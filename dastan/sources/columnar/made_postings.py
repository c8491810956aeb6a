"""Makes the postings of a fact, or opens them: which dimensions share an order, and where their records stand."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from math import prod

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.watch import Watch
from dastan.core.model.document import Dimension
from dastan.core.model.reach import Grain, reaches
from dastan.sources.columnar import block_kernels
from dastan.sources.columnar.blocks import Level, Zones, keys, zones_of
from dastan.sources.columnar.coded_facts import CodedFacts
from dastan.sources.columnar.postings import Postings

POSTED_FROM = 1_000_000
"""Fewer records than these are read before anybody notices."""
FEWEST_GROUPS = 32
"""Of fewer groups each has too many records to gain by knowing them."""
RECORDS_A_GROUP = 64.0
_MOST_GROUPS = 1 << 20
"""Small dimensions share an order up to so many possible groups, and one for so many records."""
_TOLD_BY_ZONES = 0.1
"""Where a block holds on average so little of a dimension, skipping blocks is as good."""


def postings_of(facts: CodedFacts, grain: Grain, watch: Watch) -> list[Postings]:
    """The postings of a fact's records, made or opened; none for a small fact."""
    if not POSTED_FROM <= facts.record_count(grain) < 2**32:
        return []
    found = []
    shared = [*_shared(facts, grain)]
    watch.expect(len(shared))
    for some in shared:
        watch.begin(f"{grain.table} of each {', '.join(each.caption for each in some)}")
        names = tuple(each.name for each in some)
        arrays = facts.kept.keep(("postings", grain, names), partial(_made, facts, grain, some))
        found.append(Postings({each: facts.row_count(each) + 2 for each in names}, *arrays))
        watch.note_done()
    return found


def _shared(facts: CodedFacts, grain: Grain) -> Iterator[list[Dimension]]:
    """The dimensions that share an order."""
    most = min(_MOST_GROUPS, int(facts.record_count(grain) / RECORDS_A_GROUP))
    shared: list[Dimension] = []
    room = 1
    for each in sorted(_posted(facts, grain), key=lambda each: facts.row_count(each.name)):
        size = facts.row_count(each.name) + 2
        if room * size <= most:
            shared.append(each)
            room *= size
        elif size >= FEWEST_GROUPS:
            yield [each]
    if shared and room >= FEWEST_GROUPS:
        yield shared


def _posted(facts: CodedFacts, grain: Grain) -> Iterator[Dimension]:
    for each in facts.model.dimensions:
        if reaches(facts.model, grain, each):
            make = partial(zones_of, facts.codes(grain, each, None))
            zones = facts.kept.keep(("zones", grain, each.name, None), make)
            if _held(zones) > _TOLD_BY_ZONES * facts.row_count(each.name):
                yield each


def _held(zones: Zones) -> float:
    """How many rows a block holds on average, counted from its least to its greatest."""
    return float((zones.greatest.astype(np.int64) - zones.least + 1).mean())


def _made(facts: CodedFacts, grain: Grain, some: list[Dimension]) -> tuple[np.ndarray, np.ndarray]:
    levels = [Level(facts.codes(grain, each, None), facts.row_count(each.name) + 2) for each in some]
    count = facts.record_count(grain)
    key = keys(levels, 0, count, np.empty(count, np.uint32))
    starts, records = np.zeros(prod(each.size for each in levels) + 1, np.int64), np.empty(count, np.uint32)
    kernels.count_rows(key, starts[1:])
    starts = np.cumsum(starts)
    block_kernels.post_records(key, starts.copy(), records)
    return starts, records
