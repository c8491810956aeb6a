"""What the cache of groups remembers, adds up, and lets go."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dastan.core.engine import cache as caching
from dastan.core.engine.aggregates import COUNT
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.waist import Groups, LevelRef, MemberSet, Request, Rights, group_set
from dastan.core.formula.bases import BaseAggregate
from dastan.core.model.reach import Grain
from tests.core.engine.random_model import random_rows, source_of

TAPS = Grain("taps", ())
SOURCE = source_of(random_rows(2))
PICKS, MODE, FAMILY = (
    LevelRef("line", "picks", "picks"),
    LevelRef("line", "line", "mode"),
    LevelRef("fare", "fare", "family"),
)
CARDS = BaseAggregate("distinct", "card")
ANYBODY = Rights("anybody")


class Counting:
    """A source that notes what it is asked."""

    def __init__(self) -> None:
        self.asked: list[Request] = []

    def group(self, request: Request) -> Groups:
        self.asked.append(request)
        return SOURCE.group(request)


def contents(groups: Groups) -> list[tuple[object, ...]]:
    codes = zip(*(each.tolist() for each in groups.codes), strict=True) if groups.codes else [()] * len(groups)
    values = zip(*([each.at(at) for at in range(len(groups))] for each in groups.values), strict=True)
    return list(zip(codes, values, strict=True))


def cards(*levels: LevelRef, along: tuple[tuple[LevelRef, ...], ...] = ()) -> Request:
    kept = (MemberSet("line", "line", (("tram",), ("bus",))),)
    return Request(TAPS, levels, (CARDS,), kept, ANYBODY, along)


def test_what_was_answered_along_is_not_asked_again() -> None:
    counting = Counting()
    cache = GroupCache(counting.group, SOURCE.members)
    cache.group(cards(MODE, FAMILY, along=((MODE,), (FAMILY,), ())))
    for levels in ((MODE,), (FAMILY,), (), (MODE, FAMILY)):
        assert contents(cache.group(cards(*levels))) == contents(SOURCE.group(cards(*levels)))
    assert len(counting.asked) == 1


def test_the_oldest_go_first_where_there_are_too_many_or_they_are_too_large(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(caching, "KEPT", 2)
    counting = Counting()
    cache = GroupCache(counting.group, SOURCE.members)
    for levels in ((MODE,), (FAMILY,), (MODE,), (), (MODE,)):
        cache.group(cards(*levels))
    assert [each.levels for each in counting.asked] == [(MODE,), (FAMILY,), ()]
    cache.group(cards(FAMILY))
    assert len(counting.asked) == 4

    small, again = GroupCache(counting.group, SOURCE.members, limit_bytes=1), len(counting.asked)
    for levels in ((MODE,), (MODE,), (FAMILY,), (MODE,)):
        small.group(cards(*levels))
    assert [each.levels for each in counting.asked[again:]] == [(MODE,), (FAMILY,), (MODE,)]


def boardings(*levels: LevelRef) -> Request:
    return Request(TAPS, levels, (COUNT, BaseAggregate("sum", "boardings")), (), ANYBODY)


def test_groups_of_a_list_add_up_over_everything_but_the_list() -> None:
    counting = Counting()
    cache = GroupCache(counting.group, SOURCE.members)
    cache.group(boardings(PICKS, FAMILY))
    assert contents(cache.group(boardings(PICKS))) == contents(SOURCE.group(boardings(PICKS)))
    assert len(counting.asked) == 1
    # A line stands in several sets: what they come to together is another question.
    assert contents(cache.group(boardings(FAMILY))) == contents(SOURCE.group(boardings(FAMILY)))
    assert len(counting.asked) == 2
    together = sum(int(each[1][1] or 0) for each in contents(cache.group(boardings(PICKS))))  # type: ignore[index, misc]
    assert together != contents(cache.group(boardings()))[0][1][1]  # type: ignore[index]


@settings(max_examples=100, deadline=None, suppress_health_check=list(HealthCheck))
@given(
    asked=st.lists(
        st.tuples(
            st.lists(st.sampled_from((PICKS, MODE, FAMILY)), max_size=3, unique=True),
            st.sampled_from(((), (0,), (1, 2))),
            st.booleans(),
        ),
        max_size=5,
    )
)
def test_whatever_was_asked_before_lists_come_to_what_the_source_says(
    asked: list[tuple[list[LevelRef], tuple[int, ...], bool]],
) -> None:
    cache = GroupCache(SOURCE.group, SOURCE.members)
    for levels, sets, is_tram in asked:
        condition = ((group_set((PICKS,), np.array([[each] for each in sets])),) if sets else ()) + (
            (MemberSet("line", "line", (("tram",),)),) if is_tram else ()
        )
        request = Request(TAPS, tuple(levels), (COUNT, BaseAggregate("sum", "boardings")), condition, ANYBODY)
        assert contents(cache.group(request)) == contents(SOURCE.group(request))
