"""Whoever may see only some records gets what somebody who sees all gets under a filter to just those: in random analyses,
cell by cell, header by header, record by record, and in what is remarked."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, assume, given, seed, settings
from hypothesis import strategies as st

from dastan.core.analysis.document import AXES, Analysis
from dastan.core.engine.answer import answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.rights import rights_of_roles
from dastan.core.engine.seen import Seen
from dastan.core.engine.size import Budget
from dastan.core.engine.waist import MemberSet, RecordsRequest, Rights
from dastan.core.errors import InputError, LimitError
from dastan.core.model.conditions import MemberFilter, PeriodFilter, leaves_of
from dastan.core.model.reach import grain_of
from dastan.core.reading.remarks import remarks_of
from tests.core.engine.examples import EXAMPLES, IS_FUZZING
from tests.core.engine.random_model import random_rows, source_of
from tests.core.engine.test_oracle import REFUSED, analyses, cells, headers
from tests.core.star import TODAY

Rows = dict[str, list[dict[str, object]]]
# What the role "rails" lets be seen: trams, and what belongs to no mode. Every fact is reached by lines.
RAILS = MemberFilter(dimension="line", hierarchy="line", members=(("tram",), (None,)))


def is_alike(document: Analysis) -> bool:
    """Whether a filter asks the same of a document as rights do: not where a period is counted from the newest day that is
    seen, nor where members stand that are there by the records alone."""
    leaves = [leaf for each in document.question.filters for leaf in leaves_of(each)]
    if any(isinstance(leaf, PeriodFilter) and leaf.anchor == "newest" for leaf in leaves):
        return False
    placed = [each for axis in AXES for each in document.question.axis(axis)]
    return not any(each.dimension == "band" and each.all_members for each in placed)


def compare(number: int, document: Analysis) -> None:
    assume(is_alike(document))
    source = source_of(random_rows(number))
    model = source.model
    rights = rights_of_roles("oda", ("rails",), model, TODAY, lambda _: None)
    filtered = replace(document, question=replace(document.question, filters=(RAILS, *document.question.filters)))
    caches = [GroupCache(source.group, source.members).group for _ in range(2)]
    try:
        own = answer(document, model, source, rights, TODAY, caches[0])
        other = answer(filtered, model, source, Rights("ines"), TODAY, caches[1])
    except InputError as error:
        if not any(each in error.message for each in REFUSED):
            raise
        return
    assert headers(own.rows) == headers(other.rows)
    assert headers(own.columns) == headers(other.columns)
    assert cells(own) == cells(other)
    told = [[each.text for each in remarks_of(document, one, model, source)] for one in (own, other)]
    assert [each for each in told[0] if "finished" not in each] == [each for each in told[1] if "finished" not in each]


def without_what_is_hidden(rows: Rows) -> tuple[Rows, Rows]:
    """The rows, and those of them that the role lets be seen: as if nothing else had ever been loaded. Repairs that lead
    from what is hidden to what is not, which are seen by one of their roles alone, are in neither."""
    hidden = {each["line"] for each in rows["lines"] if each["mode"] not in ("tram", None)}
    hides = {"taps": ("line_id",), "fleet": ("line_id",), "lines": ("line",), "repairs": ("from_line", "to_line")}
    whole, seen = dict(rows), dict(rows)
    for table, columns in hides.items():
        places = [(row, {row[each] in hidden for each in columns}) for row in rows[table]]
        whole[table] = [row for row, is_hidden in places if len(is_hidden) == 1]
        seen[table] = [row for row, is_hidden in places if is_hidden == {False}]
    return whole, seen


def refusal(rows: Rows, document: Analysis, cells: int) -> tuple[str, str, object] | None:
    """The words with which a restricted reader is refused where so many cells are the most; None for an answer."""
    source = source_of(rows)
    rights = rights_of_roles("oda", ("rails",), source.model, TODAY, lambda _: None)
    try:
        answer(document, source.model, source, rights, TODAY, budget=Budget(cells=cells))
    except LimitError as error:
        return error.message, error.hint, error.details
    except InputError:
        return None
    return None


def compare_refusals(number: int, document: Analysis, cells: int) -> None:
    whole, seen = without_what_is_hidden(random_rows(number))
    assume(all(seen[table] for table in ("taps", "fleet", "lines", "repairs")))
    assert refusal(whole, document, cells) == refusal(seen, document, cells)


def compare_what_is_seen(number: int) -> None:
    source = source_of(random_rows(number))
    rights = rights_of_roles("oda", ("rails",), source.model, TODAY, lambda _: None)
    seen = Seen(source.model, source, rights, source.group)
    rails = (MemberSet("line", "line", RAILS.members),)
    for grain in {grain_of(each) for each in source.model.measures if each.aggregate not in ("ratio", "open")}:
        own = source.records(RecordsRequest(grain, (), rights, count=1000))
        other = source.records(RecordsRequest(grain, rails, Rights("ines"), count=1000))
        assert own.rows == other.rows
        assert seen.record_count(grain) == other.total
        if "day" in other.columns:
            at = other.columns.index("day")
            known = set(source.attribute_keys("calendar", "day", "key"))
            days = [str(row[at]) for row in other.rows if row[at] in known]
            assert seen.newest(grain, "calendar") == max(days, default=None)
        if grain.table == "taps":
            at = other.columns.index("band")
            band = seen.members("band", "band")
            shown = {band.levels[0].keys[code] for code in band.children(())}
            assert shown == {row[at] for row in other.rows}


@pytest.mark.parametrize("shard", range(4))
def test_a_restricted_reader_gets_what_a_filter_to_the_same_records_gives(shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else 100 + shard)
    @settings(max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), document=analyses())
    def run(rows: int, document: Analysis) -> None:
        compare(rows, document)
        compare_what_is_seen(rows)

    run()


@pytest.mark.parametrize("shard", range(2))
def test_a_restricted_reader_is_refused_as_if_what_is_hidden_were_not_there(shard: int) -> None:
    @seed(random.randrange(2**32) if IS_FUZZING else 200 + shard)
    @settings(max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck))
    @given(rows=st.integers(0, 2**32), document=analyses(), cells=st.integers(1, 60))
    def run(rows: int, document: Analysis, cells: int) -> None:
        compare_refusals(rows, document, cells)

    run()
