"""What is read by way of postings is what a scan finds."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.engine.waist import Condition, RecordsRequest, Request, Rights, RowRule
from dastan.sources.columnar import blocks, made_postings, scan
from dastan.sources.columnar.blocks import Level
from dastan.sources.columnar.column_source import ColumnSource
from dastan.sources.columnar.postings import Postings
from dastan.sources.columnar.scan import Scan, Summand
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
def small_postings() -> Iterator[None]:
    """Facts and dimensions of any size have postings, in blocks of few records, and the fewest are always taken."""
    with pytest.MonkeyPatch.context() as patch:
        for name, value in {
            "POSTED_FROM": 0,
            "FEWEST_GROUPS": 1,
            "RECORDS_A_GROUP": 0.1,
            "_TOLD_BY_ZONES": 0.0,
        }.items():
            patch.setattr(made_postings, name, value)
        patch.setattr(blocks, "BLOCK", 5)
        patch.setattr(scan, "FEW", 1)
        yield


@pytest.fixture(scope="module")
def sources() -> list[ColumnSource]:
    return made_ready()


def made(codes: list[tuple[int, int]], sizes: dict[str, int]) -> Postings:
    """Worked out one record at a time."""
    every = list(product(*map(range, sizes.values())))
    by_group = [[at for at, each in enumerate(codes) if each == group] for group in every]
    return Postings(
        sizes, np.cumsum([0, *map(len, by_group)]), np.array([at for each in by_group for at in each], np.uint32)
    )


def mask(kept: set[int], size: int) -> np.ndarray:
    return np.isin(np.arange(size), list(kept))


@settings(max_examples=150, deadline=None)
@given(
    codes=st.lists(st.tuples(st.integers(0, 2), st.integers(0, 3)), min_size=1, max_size=40),
    lines=st.none() | st.sets(st.integers(0, 2)),
    fares=st.none() | st.sets(st.integers(0, 3)),
    edges=st.tuples(st.integers(0, 40), st.integers(0, 40)),
)
def test_the_records_of_some_rows_in_a_range(
    codes: list[tuple[int, int]], lines: set[int] | None, fares: set[int] | None, edges: tuple[int, int]
) -> None:
    first, end = min(edges), max(edges)
    own = made(codes, {"line": 3, "fare": 4})
    allowed = ({"line": mask(lines, 3)} if lines is not None else {}) | (
        {"fare": mask(fares, 4)} if fares is not None else {}
    )
    groups = own.groups(allowed)
    assert groups is not None
    wanted = [
        at
        for at, (line, fare) in enumerate(codes)
        if (lines is None or line in lines) and (fares is None or fare in fares)
    ]
    assert own.count(groups) == len(wanted)
    assert own.of(groups, first, end).tolist() == [at for at in wanted if first <= at < end]


@settings(max_examples=150, deadline=None)
@given(
    records=st.lists(
        st.tuples(st.integers(0, 4), st.integers(0, 3), st.integers(0, 2), st.integers(-9, 9)), min_size=1, max_size=60
    ),
    kept=st.tuples(*(st.sets(st.integers(0, size - 1)) for size in (5, 4, 3))),
    shares=st.booleans(),
)
def test_a_scan_by_postings_is_one_record_at_a_time(
    records: list[tuple[int, int, int, int]], kept: tuple[set[int], set[int], set[int]], shares: bool
) -> None:
    """Three dimensions, one with postings of its own; where `shares`, the two others have some together."""
    sizes = {"line": 5, "fare": 4, "hour": 3}
    codes = [np.array([each[at] for each in records], np.uint8) for at in range(3)]
    tests = [
        blocks.Test(own, mask(each, size), blocks.zones_of(own), name)
        for own, each, (name, size) in zip(codes, kept, sizes.items(), strict=True)
    ]
    both = made([each[:2] for each in records], {"line": 5, "fare": 4})
    alone = made([(each[2], 0) for each in records], {"hour": 3, "": 1})
    posted = [both, alone] if shares else [alone]
    passing = [at for at, each in enumerate(records) if all(each[i] in kept[i] for i in range(3))]
    assert Scan(len(records), tests, posted).rows().tolist() == passing
    numbers = np.array([each[3] for each in records], np.int8)
    totals = Scan(len(records), tests, posted).add_up([Level(codes[1], 4)], [Summand(numbers, None, 9 * len(records))])
    expected = {
        code: sum(records[at][3] for at in passing if records[at][1] == code)
        for code in sorted({records[at][1] for at in passing})
    }
    assert dict(zip(totals.codes[0].tolist(), totals.sums[0].tolist(), strict=True)) == expected


requests = st.builds(
    lambda levels, aggregates, conditions, rights: Request(
        TAPS, tuple(levels), (COUNT, *aggregates), tuple(conditions), rights
    ),
    st.lists(st.sampled_from(LEVELS), max_size=3, unique_by=lambda each: each.dimension),
    st.lists(st.sampled_from((*AGGREGATES, *OTHERS)), max_size=3, unique=True),
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
    assert {"line", "fare", "calendar"} <= {name for each in source.postings[TAPS] for name in each.sizes}
    trams: Condition = CONDITIONS[0]
    runs = source.scan(TAPS, (trams,))._runs(8)
    assert all(each.some is not None for each in runs)
    rows = source.record_rows(RecordsRequest(TAPS, (trams,), WHOLE, 0, 9))
    assert 0 < sum(len(each.some) for each in runs if each.some is not None) == len(rows) < 61


def test_a_small_fact_and_one_in_its_order_have_none() -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(made_postings, "POSTED_FROM", 62)
        source = grown(3, 61)
        source.warm()
        assert source.postings[TAPS] == []
    with pytest.MonkeyPatch.context() as patch:
        # A block of five taps in order of date holds few of 60 days, but lines of every mode.
        patch.setattr(made_postings, "_TOLD_BY_ZONES", 0.5)
        source = grown(3, 1000)
        source.warm()
        posted = {name for each in source.postings[TAPS] for name in each.sizes}
        assert "line" in posted
        assert "calendar" not in posted


def test_larger_dimensions_have_an_order_of_their_own() -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(made_postings, "RECORDS_A_GROUP", 1000 / 30)
        source = grown(3, 1000)
        source.warm()
        shared = [list(each.sizes) for each in source.postings[TAPS]]
        sizes = [np.prod(list(each.sizes.values())) for each in source.postings[TAPS]]
        assert ["calendar"] in shared
        assert all(len(names) == 1 or size <= 30 for names, size in zip(shared, sizes, strict=True))
        assert any(len(names) > 1 for names in shared)
