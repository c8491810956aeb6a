"""What is added up from summaries is what the records come to."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.engine.waist import Conditions, GroupSet, LevelRef, Request, Rights, RowRule, group_set
from dastan.core.formula.bases import BaseAggregate
from dastan.sources.columnar import blocks, summaries
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.summaries import summary_groups
from tests.sources.columnar.test_scan import (
    AGGREGATES,
    CONDITIONS,
    COUNT,
    LEVELS,
    OTHERS,
    TAPS,
    grown,
    made_ready,
    the_same,
)

WHOLE = Rights("a")
ONLY_TRAMS = Rights("b", (RowRule((CONDITIONS[0],)),))


@pytest.fixture(autouse=True, scope="module")
def small_summaries() -> Iterator[None]:
    """Facts of any size are summarized, in blocks of few records."""
    before = summaries.SUMMARIZED_FROM, summaries.RECORDS_A_GROUP, blocks.BLOCK
    summaries.SUMMARIZED_FROM, summaries.RECORDS_A_GROUP, blocks.BLOCK = 0, 1e-6, 5
    yield
    summaries.SUMMARIZED_FROM, summaries.RECORDS_A_GROUP, blocks.BLOCK = before


@pytest.fixture(scope="module")
def sources() -> list[ColumnSource]:
    return made_ready()


def in_pairs(codes: list[tuple[int, int]]) -> GroupSet:
    """Modes and months that stand together."""
    levels = (LevelRef("line", "line", "mode"), LevelRef("calendar", "calendar", "month"))
    return group_set(levels, np.array(codes).reshape(-1, 2))


requests = st.builds(
    lambda levels, aggregates, conditions, pairs, rights: Request(
        TAPS, tuple(levels), (COUNT, *aggregates), (*conditions, *((in_pairs(pairs),) if pairs else ())), rights
    ),
    st.lists(st.sampled_from(LEVELS), max_size=2, unique_by=lambda each: each.dimension),
    st.lists(st.sampled_from((*AGGREGATES, *OTHERS)), max_size=3, unique=True),
    st.lists(st.sampled_from(CONDITIONS), max_size=2, unique=True),
    st.lists(st.tuples(st.integers(0, 2), st.integers(0, 5)), max_size=3, unique=True),
    st.sampled_from((WHOLE, ONLY_TRAMS)),
)


@settings(max_examples=250, deadline=None, suppress_health_check=list(HealthCheck))
@given(request=requests, place=st.integers(0, 2))
def test_groups_from_a_summary_are_the_plain_ones(request: Request, place: int, sources: list[ColumnSource]) -> None:
    source = sources[place]
    condition: Conditions = request.condition + source.rights(request.rights, TAPS)
    found = summary_groups(source, request, condition)
    source.is_fast = False
    try:
        expected = source.group(request)
    finally:
        source.is_fast = True
    asked = {each.dimension for each in request.levels}
    if found is None:
        assert len(asked | {"line", "calendar"}) > 2 or condition or set(request.aggregates) & set(OTHERS)
    else:
        the_same(found, expected)
    the_same(source.group(request), expected)


def test_a_question_about_two_dimensions_never_looks_at_the_records(sources: list[ColumnSource]) -> None:
    source = sources[2]
    request = Request(TAPS, (LEVELS[0], LEVELS[5]), (COUNT, AGGREGATES[0]), (CONDITIONS[2],), WHOLE)
    found = summary_groups(source, request, request.condition)
    assert found is not None
    assert found.values[0].data.sum() < 61  # one of three years
    about_three = Request(TAPS, (LEVELS[0], LEVELS[5], LEVELS[2]), (COUNT,), (), WHOLE)
    assert summary_groups(source, about_three, ()) is None
    distinct = Request(TAPS, (LEVELS[0],), (BaseAggregate("distinct", "card"),), (), WHOLE)
    assert summary_groups(source, distinct, ()) is None


@pytest.mark.parametrize("aggregate", OTHERS)
def test_what_does_not_add_up_is_never_taken_from_a_summary(
    aggregate: BaseAggregate, sources: list[ColumnSource]
) -> None:
    """Once the least and greatest value, the variance and the deviation of what is summed too were the count of it."""
    request = Request(TAPS, (LEVELS[0],), (aggregate,), (), WHOLE)
    assert summary_groups(sources[2], request, ()) is None
    summed = Request(TAPS, (LEVELS[0],), (aggregate._replace(kind="sum", fraction=0.0),), (), WHOLE)
    assert summary_groups(sources[2], summed, ()) is not None


def test_a_small_fact_has_no_summaries() -> None:
    before = summaries.SUMMARIZED_FROM
    summaries.SUMMARIZED_FROM = 62
    try:
        source = grown(3, 61)
        source.warm()
        assert source.ready_summaries(TAPS) == []
    finally:
        summaries.SUMMARIZED_FROM = before
