"""What block scans answer is what the plain way answers, whatever the blocks hold."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.engine import stopping
from dastan.core.engine.cache import GroupCache, covers, rolled
from dastan.core.engine.waist import (
    AttributeTest,
    Condition,
    DayRange,
    Groups,
    Joined,
    LevelRef,
    MemberSet,
    Not,
    RecordsRequest,
    Request,
    Rights,
    RowRule,
    dimensions_of,
)
from dastan.core.errors import CancelledError, LimitError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.reach import Grain
from dastan.core.values import Values
from dastan.sources.columnar import blocks, scan
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.engine.random_model import source_of
from tests.core.star import ROWS

TAPS = Grain("taps", ())
LEVELS = (
    LevelRef("line", "line", "mode"), LevelRef("line", "line", "line"), LevelRef("fare", "fare", "family"),
    LevelRef("fare", "fare", "product"), LevelRef("calendar", "calendar", "year"), LevelRef("calendar", "calendar", "month"),
    LevelRef("calendar", "calendar", "day"),
)  # fmt: skip
COUNT = BaseAggregate("count")
AGGREGATES = (BaseAggregate("sum", "boardings"), BaseAggregate("count_values", "delay"), BaseAggregate("sum", "delay"))
OTHERS = (
    BaseAggregate("max", "boardings"), BaseAggregate("min", "delay"), BaseAggregate("variance", "boardings"),
    BaseAggregate("variance", "delay"), BaseAggregate("percentile", "delay", 0.5), BaseAggregate("distinct", "boardings"),
)  # fmt: skip
"""Of the same columns, what does not add up."""
CONDITIONS: tuple[Condition, ...] = (
    MemberSet("line", "line", (("tram",),)),
    MemberSet("line", "line", (("tram",),), False),
    MemberSet("calendar", "calendar", ((2024,),)),
    DayRange("calendar", "2024-02-01", "2025-01-31"),
    AttributeTest("fare", "product", "not_equal", (1,)),
    Not(MemberSet("fare", "fare", (("b",),))),
    Joined("any", (MemberSet("line", "line", (("bus",),)), MemberSet("calendar", "calendar", ((2025,),)))),
    Joined("any", (MemberSet("line", "line", (("bus",),)), MemberSet("line", "line", (("tram",),)))),
)


@pytest.fixture(autouse=True)
def small_blocks() -> Iterator[None]:
    """Blocks of so few records that there are many, some of them skipped and some taken whole."""
    before = blocks.BLOCK
    blocks.BLOCK = 5
    yield
    blocks.BLOCK = before


def grown(seed: int, count: int) -> ColumnSource:
    """The star with many taps, made of its own by chance; mostly in order of date."""
    random = np.random.default_rng(seed)
    own = ROWS["taps"]
    days = [str(np.datetime64("2023-12-20") + 9 * each) for each in range(60)]
    calendar = [{"day": each, "year": int(each[:4]), "month": int(each[5:7])} for each in days]
    taps = []
    for number in range(count):
        one = dict(own[random.integers(len(own))])
        one["boardings"] = int(random.integers(-3, 9))
        one["delay"] = None if random.random() < 0.3 else round(float(random.normal()), 3)
        one["card"] = None if random.random() < 0.2 else one["card"]
        one["day"] = None if random.random() < 0.05 else days[number * len(days) // count]
        taps.append(one)
    return source_of(ROWS | {"taps": taps, "days": calendar})


def made_ready() -> list[ColumnSource]:
    """Facts of one, of few and of many records, with all that is prepared for them."""
    found = [grown(seed, count) for seed, count in enumerate((1, 4, 61))]
    for each in found:
        each.warm()
    return found


def the_same(one: Groups, other: Groups) -> None:
    assert len(one) == len(other)
    for mine, theirs in zip(one.codes, other.codes, strict=True):
        assert mine.tolist() == theirs.tolist()
    for found, expected in zip(one.values, other.values, strict=True):
        assert found.present.tolist() == expected.present.tolist()
        assert found.scale == expected.scale
        has = found.present
        if found.scale is None:
            assert np.allclose(found.data[has], expected.data[has], rtol=1e-12, atol=1e-12)
        else:
            assert found.data[has].tolist() == expected.data[has].tolist()


requests = st.builds(
    lambda levels, aggregates, conditions, is_limited: Request(
        TAPS,
        tuple(levels),
        (COUNT, *aggregates),
        tuple(conditions),
        Rights("a", (RowRule((MemberSet("line", "line", (("tram",), ("bus",))),)),) if is_limited else ()),
    ),
    st.lists(st.sampled_from(LEVELS), max_size=3, unique_by=lambda each: each.dimension),
    st.lists(st.sampled_from((*AGGREGATES, *OTHERS)), max_size=3, unique=True),
    st.lists(st.sampled_from(CONDITIONS), max_size=3, unique=True),
    st.booleans(),
)
SOURCES = [grown(seed, count) for seed, count in enumerate((1, 4, 23, 61))]


@settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
@given(request=requests, place=st.integers(0, len(SOURCES) - 1))
def test_fast_groups_are_the_plain_ones(request: Request, place: int) -> None:
    source = SOURCES[place]
    fast = source.group(request)
    source.is_fast = False
    try:
        the_same(fast, source.group(request))
    finally:
        source.is_fast = True


ALONG = (BaseAggregate("distinct", "card"), BaseAggregate("variance", "delay"), BaseAggregate("variance", "boardings"))


@settings(max_examples=200, deadline=None, suppress_health_check=list(HealthCheck))
@given(
    levels=st.lists(st.sampled_from(LEVELS), max_size=4, unique_by=lambda each: each.dimension),
    along=st.lists(
        st.lists(st.sampled_from(LEVELS), max_size=3, unique_by=lambda each: each.dimension), max_size=4, unique_by=str
    ),
    condition=st.lists(st.sampled_from(CONDITIONS), min_size=1, max_size=2, unique=True),
    aggregates=st.lists(st.sampled_from(ALONG), min_size=1, max_size=3, unique=True),
    place=st.integers(0, 3),
)
def test_what_is_counted_along_is_counted_as_by_itself(
    levels: list[LevelRef], along: list[list[LevelRef]], condition: list[Condition], aggregates: list[BaseAggregate],
    place: int,
) -> None:  # fmt: skip
    source = SOURCES[place]
    wanted = tuple(map(tuple, along))
    request = Request(TAPS, tuple(levels), tuple(aggregates), tuple(condition), Rights("a"), wanted)
    found = source.group(request)
    # Coarser levels of the same hierarchies come along, and nothing else.
    known = {(each.dimension, each.hierarchy) for each in levels}
    assert all({(each.dimension, each.hierarchy) for each in own} <= known for own in found.along)
    if () in wanted and levels and scan_answers(condition):
        assert () in found.along
    source.is_fast = False
    try:
        the_same(found, source.group(request))
        for own, groups in found.along.items():
            assert own in wanted
            the_same(groups, source.group(replace(request, levels=own, along=())))
    finally:
        source.is_fast = True


def scan_answers(condition: list[Condition]) -> bool:
    """Whether each condition looks at one dimension alone."""
    return all(len(dimensions_of(each)) == 1 for each in condition)


@settings(max_examples=100, deadline=None, suppress_health_check=list(HealthCheck))
@given(
    levels=st.lists(st.sampled_from(LEVELS), max_size=2, unique_by=lambda each: each.dimension),
    condition=st.lists(st.sampled_from(CONDITIONS), max_size=2, unique=True),
    place=st.integers(0, 3),
)
def test_distinct_counts_and_percentiles_are_the_plain_ones(
    levels: list[LevelRef], condition: list[Condition], place: int
) -> None:
    source = SOURCES[place]
    ranked = [BaseAggregate("percentile", of, at) for of in ("delay", "boardings") for at in (0.0, 0.5, 0.83, 1.0)]
    aggregates = (BaseAggregate("distinct", "card"), COUNT, BaseAggregate("max", "revenue"), *ranked)
    request = Request(TAPS, tuple(levels), aggregates, tuple(condition), Rights("a"))
    fast = source.group(request)
    source.is_fast = False
    try:
        the_same(fast, source.group(request))
    finally:
        source.is_fast = True


@settings(max_examples=200, deadline=None, suppress_health_check=list(HealthCheck))
@given(first=requests, second=requests, place=st.integers(0, len(SOURCES) - 1))
def test_what_a_cache_adds_up_is_what_the_source_answers(first: Request, second: Request, place: int) -> None:
    source = SOURCES[place]
    cache = GroupCache(source.group, source.members)
    the_same(cache.group(first), source.group(first))
    the_same(cache.group(second), source.group(second))
    if covers(first, second, source.members):
        the_same(rolled(first, source.group(first), second, source.members), source.group(second))


def test_a_step_that_a_finer_answer_covers_is_not_asked_again() -> None:
    source, asked = SOURCES[2], []

    def group(request: Request) -> Groups:
        asked.append(request)
        return source.group(request)

    cache = GroupCache(group, source.members)
    whole = Rights("a")
    year, day, mode = LEVELS[4], LEVELS[6], LEVELS[0]
    kept = (MemberSet("calendar", "calendar", ((2024,),)),)
    for levels, condition in (
        ((year, mode), ()),
        ((day, mode), ()),
        ((mode,), ()),
        ((), ()),
        ((mode,), kept),
        ((day,), kept),
    ):
        request = Request(TAPS, levels, (COUNT, AGGREGATES[0]), condition, whole)
        the_same(cache.group(request), source.group(request))
    assert len(asked) == 1
    # Another reader's with the same rights is not; other rights, another aggregate, or a condition that the groups do
    # not tell apart is asked.
    cache.group(Request(TAPS, (mode,), (COUNT, AGGREGATES[0]), (), Rights("b")))
    assert len(asked) == 1
    for request in (
        Request(TAPS, (mode,), (COUNT, AGGREGATES[0]), (), Rights("a", (RowRule(kept),))),
        Request(TAPS, (mode,), (COUNT, AGGREGATES[2]), (), whole),
        Request(TAPS, (mode,), (COUNT, AGGREGATES[0]), (CONDITIONS[4],), whole),
    ):
        the_same(cache.group(request), source.group(request))
    assert len(asked) == 4


def test_sets_of_a_list_overlap_and_are_never_added_up() -> None:
    source = SOURCES[3]
    cache = GroupCache(source.group, source.members)
    picks = LevelRef("line", "picks", source.members("line", "picks").levels[0].name)
    for levels in ((picks, LEVELS[4]), (LEVELS[4],), (picks,), ()):
        request = Request(TAPS, levels, (COUNT, AGGREGATES[0]), (), Rights("a"))
        the_same(cache.group(request), source.group(request))


def test_a_question_without_records_goes_the_fast_way_too(monkeypatch: pytest.MonkeyPatch) -> None:
    source = SOURCES[2]
    monkeypatch.setattr(
        "dastan.sources.columnar.column_source.plain_groups", lambda *_: pytest.fail("took the plain way")
    )
    nothing = (MemberSet("line", "line", ()),)
    assert len(source.group(Request(TAPS, (LEVELS[0],), (COUNT, AGGREGATES[0]), nothing, Rights("a")))) == 0


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(condition=st.lists(st.sampled_from(CONDITIONS), max_size=3, unique=True), place=st.integers(0, len(SOURCES) - 1))
def test_records_are_those_for_which_each_condition_holds(condition: list[Condition], place: int) -> None:
    source = SOURCES[place]
    found = source.record_rows(RecordsRequest(TAPS, tuple(condition), Rights("a"))).tolist()
    each = [set(source.record_rows(RecordsRequest(TAPS, (one,), Rights("a"))).tolist()) for one in condition]
    assert found == sorted(set(range(source.record_count(TAPS))).intersection(*each))


def test_a_variance_that_leaves_all_bounds_is_refused_by_either_way() -> None:
    source = source_of(ROWS | {"taps": [each | {"delay": sign * 1e200} for each in ROWS["taps"] for sign in (1, -1)]})
    request = Request(TAPS, (LEVELS[0],), (BaseAggregate("variance", "delay"),), (), Rights("a"))
    for source.is_fast in (True, False):
        with pytest.raises(LimitError, match="A sum of “delay” is too large for a number"):
            source.group(request)


def test_sums_that_could_leave_64_bits_take_the_plain_way() -> None:
    large = Values(np.array([2**61, -(2**61)]), 0, np.ones(2, np.bool_))
    assert scan.summand_of(large, 2) is None
    small = Values(np.array([-(2**31), 5]), 0, np.array([True, False]))
    found = scan.summand_of(small, 2)
    assert found is not None
    assert found.data.tolist() == [-(2**31), 0]
    assert found.data.dtype == np.int64


@pytest.mark.parametrize(
    ("aggregates", "conditions"),
    [
        ((COUNT, AGGREGATES[0]), ()),
        ((COUNT, AGGREGATES[0]), (CONDITIONS[0],)),
        ((COUNT, *AGGREGATES), (CONDITIONS[3],)),
        ((BaseAggregate("distinct", "card"),), (CONDITIONS[0],)),
        ((BaseAggregate("max", "boardings"),), ()),
        ((BaseAggregate("percentile", "delay", 0.5), BaseAggregate("variance", "delay")), (CONDITIONS[6],)),
    ],
)
def test_a_question_is_taken_back_in_the_middle(
    aggregates: tuple[BaseAggregate, ...], conditions: tuple[Condition, ...], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(stopping, "SLICE", 7)
    source = grown(9, 400)
    request = Request(TAPS, (LEVELS[1],), aggregates, conditions, Rights("a"))
    expected, looks = source.group(request), []
    with stopping.checked_by(lambda: looks.append(1)):
        source.group(request)
    assert len(looks) > 3
    left = iter(range(len(looks) // 2))

    def taken_back() -> None:
        if next(left, None) is None:
            raise CancelledError("The question was taken back.")

    with pytest.raises(CancelledError), stopping.checked_by(taken_back):
        source.group(request)
    # Nothing of it is left behind: the next question is answered.
    the_same(source.group(request), expected)
