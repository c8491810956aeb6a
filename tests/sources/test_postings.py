"""What is read by way of postings is what a scan finds."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.engine.waist import Condition, RecordsRequest, Request, Rights, RowRule
from dastan.sources import blocks, postings, scan
from dastan.sources.blocks import Level
from dastan.sources.column_source import ColumnSource
from dastan.sources.postings import Postings
from dastan.sources.scan import Scan, Summand
from tests.sources.test_scan import AGGREGATES, CONDITIONS, COUNT, LEVELS, TAPS, grown, the_same

WHOLE = Rights("a")
ONLY_TRAMS = Rights("b", (RowRule((CONDITIONS[0],)),))


@pytest.fixture(autouse=True, scope="module")
def small_postings() -> Iterator[None]:
    """Facts and dimensions of any size have postings, in blocks of few records, and the fewest are always taken."""
    with pytest.MonkeyPatch.context() as patch:
        for name, value in {"POSTED_FROM": 0, "FEWEST_ROWS": 1, "_TOLD_BY_ZONES": 0.0, "_CUT_ROWS": 2}.items():
            patch.setattr(postings, name, value)
        patch.setattr(blocks, "BLOCK", 5)
        patch.setattr(scan, "FEW", 1)
        yield


@pytest.fixture(scope="module")
def sources() -> list[ColumnSource]:
    found = [grown(seed, count) for seed, count in enumerate((1, 4, 61))]
    for each in found:
        each.warm()
    return found


def made(codes: list[int], size: int) -> Postings:
    """Worked out one record at a time."""
    by_row = [[at for at, each in enumerate(codes) if each == row] for row in range(size)]
    starts = np.cumsum([0, *map(len, by_row)])
    return Postings(starts, np.array([at for each in by_row for at in each], np.uint32))


@settings(max_examples=150, deadline=None)
@given(
    codes=st.lists(st.integers(0, 4), min_size=1, max_size=40),
    rows=st.sets(st.integers(0, 4)),
    edges=st.tuples(st.integers(0, 40), st.integers(0, 40)),
)
def test_the_records_of_some_rows_in_a_range(codes: list[int], rows: set[int], edges: tuple[int, int]) -> None:
    first, end = min(edges), max(edges)
    own = made(codes, 5)
    wanted = np.array(sorted(rows), np.int64)
    assert own.of(wanted, first, end).tolist() == [at for at in range(first, min(end, len(codes))) if codes[at] in rows]
    assert own.count(wanted) == sum(each in rows for each in codes)


@settings(max_examples=150, deadline=None)
@given(
    records=st.lists(st.tuples(st.integers(0, 4), st.integers(0, 3), st.integers(-9, 9)), min_size=1, max_size=60),
    kept=st.sets(st.integers(0, 4)),
    also=st.sets(st.integers(0, 3)),
)
def test_a_scan_by_postings_is_one_record_at_a_time(
    records: list[tuple[int, int, int]], kept: set[int], also: set[int]
) -> None:
    codes = [np.array([each[at] for each in records], np.uint8) for at in (0, 1)]
    numbers = np.array([each[2] for each in records], np.int8)
    tests = [
        blocks.Test(codes[0], np.isin(np.arange(5), list(kept)), None, made(codes[0].tolist(), 5)),
        blocks.Test(codes[1], np.isin(np.arange(4), list(also)), blocks.zones_of(codes[1])),
    ]
    passing = [at for at, each in enumerate(records) if each[0] in kept and each[1] in also]
    assert Scan(len(records), tests).rows().tolist() == passing
    totals = Scan(len(records), tests).add_up([Level(codes[1], 4)], [Summand(numbers, None, 9 * len(records))])
    expected = {
        code: sum(records[at][2] for at in passing if records[at][1] == code)
        for code in sorted({records[at][1] for at in passing})
    }
    assert dict(zip(totals.codes[0].tolist(), totals.sums[0].tolist(), strict=True)) == expected


requests = st.builds(
    lambda levels, aggregates, conditions, rights: Request(
        TAPS, tuple(levels), (COUNT, *aggregates), tuple(conditions), rights
    ),
    st.lists(st.sampled_from(LEVELS), max_size=3, unique_by=lambda each: each.dimension),
    st.lists(st.sampled_from(AGGREGATES), max_size=3, unique=True),
    st.lists(st.sampled_from(CONDITIONS), max_size=3, unique=True),
    st.sampled_from((WHOLE, ONLY_TRAMS)),
)


@settings(max_examples=200, deadline=None, suppress_health_check=list(HealthCheck))
@given(request=requests, place=st.integers(0, 2))
def test_groups_and_records_by_postings_are_those_of_a_scan(
    request: Request, place: int, sources: list[ColumnSource]
) -> None:
    source = sources[place]
    source.summaries.clear()
    records = RecordsRequest(TAPS, request.condition, request.rights, 0, 100)
    found, rows = source.group(request), source.record_rows(records)
    source.takes_shortcuts = False
    try:
        the_same(found, source.group(request))
        assert rows.tolist() == source.record_rows(records).tolist()
    finally:
        source.takes_shortcuts = True


def test_postings_are_taken_where_they_leave_few_records(sources: list[ColumnSource]) -> None:
    source = sources[2]
    assert {"line", "fare", "calendar"} <= source.postings[TAPS].keys()
    trams: Condition = CONDITIONS[0]
    runs = Scan(61, source.tests(TAPS, (trams,), None))._runs(8)
    assert all(each.some is not None for each in runs)
    assert sum(len(each.some) for each in runs if each.some is not None) == len(
        source.record_rows(RecordsRequest(TAPS, (trams,), WHOLE, 0, 9))
    )


def test_a_small_fact_and_one_in_its_order_have_none() -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(postings, "POSTED_FROM", 62)
        source = grown(3, 61)
        source.warm()
        assert source.postings[TAPS] == {}
    with pytest.MonkeyPatch.context() as patch:
        # A block of five taps in order of date holds few of 60 days, but lines of every mode.
        patch.setattr(postings, "_TOLD_BY_ZONES", 0.5)
        patch.setattr(postings, "FEWEST_ROWS", 3)
        source = grown(3, 1000)
        source.warm()
        assert "line" in source.postings[TAPS]
        assert "calendar" not in source.postings[TAPS]
