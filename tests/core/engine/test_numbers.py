"""The contract of numbers, point by point, on few rows with values worked out by hand."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

import numpy as np
import pytest

from dastan.core.analysis.document import MadeMeasure, PlacedMeasure
from dastan.core.analysis.gestures import (
    FilterMembers,
    Gesture,
    OpenLevel,
    PutDimension,
    PutMeasure,
)
from dastan.core.engine.aggregates import percentile_values, reduce_values, variance_values
from dastan.core.engine.answer import Answer, answer
from dastan.core.engine.cache import GroupCache
from dastan.core.engine.grouping import group_rows
from dastan.core.engine.waist import MemberSet, Request, Rights, RowRule
from dastan.core.errors import LimitError
from dastan.core.formula.bases import BaseAggregate
from dastan.core.language.reading import read_formula
from dastan.core.model.reach import Grain
from dastan.core.reading.window import as_number, window_of
from dastan.core.values import Values
from dastan.core.words.vocabulary import Vocabulary
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.engine.random_model import source_of
from tests.core.named import HierarchyNamed
from tests.core.star import ROWS, TODAY, after, star

SOURCE = star()
LINE: HierarchyNamed = {"dimension": "line", "hierarchy": "line"}


def ask(*gestures: Gesture, source: ColumnSource = SOURCE, rights: Rights = Rights("tester")) -> Answer:
    return answer(after(source, *gestures), source.model, source, rights, TODAY)


def totals(result: Answer) -> list[object]:
    last = len(result.cell_rows) - 1
    return [each.at(last) for each in result.values]


def test_without_a_filter_the_grand_total_is_the_facts_own() -> None:
    result = ask(PutMeasure(measure="boardings"), PutMeasure(measure="revenue"), PutDimension(**LINE, axis="rows"))
    assert totals(result) == [8, Decimal("18.75")]


def test_keep_drops_the_member_without_a_line_and_leave_out_retains_it() -> None:
    keep = FilterMembers(**LINE, action="keep", members=(("tram",), ("bus",)))
    leave_out = FilterMembers(**LINE, action="leave_out", members=(("tram",),))
    assert totals(ask(PutMeasure(measure="boardings"), keep)) == [7]
    assert totals(ask(PutMeasure(measure="boardings"), leave_out)) == [5]


def test_distinct_counts_and_averages_are_computed_again_at_the_total() -> None:
    result = ask(
        PutMeasure(measure="cards"),
        PutMeasure(measure="revenue_average"),
        PutDimension(**LINE, level="line", axis="rows"),
    )
    assert [each.at(0) for each in result.values] == [1, 10.0]
    assert totals(result) == [3, pytest.approx(18.75 / 4)]


def test_an_average_of_nothing_and_a_cell_over_no_records_are_empty() -> None:
    result = ask(PutMeasure(measure="delay_average"), PutMeasure(measure="taps"), PutDimension(**LINE, axis="rows"))
    assert totals(result) == [None, 4]
    nothing = ask(PutMeasure(measure="taps"), FilterMembers(**LINE, action="keep", members=(("ferry",),)))
    assert len(nothing.cell_rows) == 0
    total = window_of(nothing, 0, 10, 0, 10).total_rows
    assert total is not None
    assert total.values == ((None,),)


def test_a_measure_that_a_dimension_does_not_reach_is_empty_on_its_members_and_present_at_the_total() -> None:
    fare = PutDimension(dimension="fare", hierarchy="fare", axis="rows")
    result = ask(PutMeasure(measure="boardings"), fare, PutMeasure(measure="repair_cost"))
    assert [[each.at(cell) for each in result.values] for cell in range(len(result.cell_rows))] == [
        [3, None],
        [5, None],
        [8, Decimal("7.75")],
    ]


def test_two_roles_of_one_fact_stand_side_by_side() -> None:
    by_line = PutDimension(**LINE, level="line", axis="rows")
    result = ask(PutMeasure(measure="repairs"), PutMeasure(measure="arrivals"), by_line)
    captions = [result.rows.chain(entry)[0].code if result.rows.chain(entry) else None for entry in result.cell_rows]
    values = [[each.at(cell) for each in result.values] for cell in range(len(result.cell_rows))]
    members = SOURCE.members("line", "line").levels[-1].captions
    assert dict(zip([members[each] if each is not None else "all" for each in captions], values, strict=True)) == {
        "L3": [None, 3],
        "L1": [2, None],
        "without a line": [1, None],
        "all": [3, 3],
    }


@pytest.mark.parametrize(
    ("fraction", "values", "expected"),
    [(0.5, [1, 2, 10], 2.0), (0.5, [1, 2, 3, 10], 2.5), (0.1, [0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100], 10.0),
     (0.9, [5], 5.0), (1.0, [1, 4], 4.0), (0.0, [1, 4], 1.0), (0.25, [1, 2], 1.25)],
)  # fmt: skip
def test_percentiles_are_interpolated_between_the_nearest_ranks(
    fraction: float, values: list[int], expected: float
) -> None:
    data = Values(np.array(values), 0, np.ones(len(values), np.bool_))
    assert percentile_values(fraction, data, np.zeros(len(values), np.int64), 1).at(0) == pytest.approx(expected)


def test_variance_keeps_its_digits_far_from_zero_and_is_empty_for_one_value() -> None:
    data = Values(np.array([1e9 + 1, 1e9 + 2, 1e9 + 3, 5.0]), None, np.ones(4, np.bool_))
    found = variance_values(data, np.array([0, 0, 0, 1]), 2, "delay")
    assert (found.at(0), found.at(1)) == (1.0, None)


def test_a_ratio_is_divided_again_at_every_total_and_empty_over_zero() -> None:
    result = ask(PutMeasure(measure="fare_each"), PutDimension(**LINE, axis="rows"))
    assert [result.values[0].at(cell) for cell in range(4)] == [2.5, 2.5, 1.25, 18.75 / 8]
    zero = source_of(ROWS | {"taps": [each | {"boardings": 0} for each in ROWS["taps"]]})
    assert totals(ask(PutMeasure(measure="fare_each"), source=zero)) == [None]


FLEET: list[dict[str, object]] = [
    {"day": day, "line_id": line, "available": available}
    for day, line, available in [
        ("2024-01-01", "L1", 10), ("2024-01-01", "L3", 20), ("2024-01-02", "L1", 11), ("2024-01-03", "L1", 12),
        ("2024-01-03", "L3", 22), ("2024-02-01", "L3", 30),
    ]
]  # fmt: skip
DAYS: list[dict[str, object]] = [
    {"day": day, "year": 2024, "month": int(day[5:7])}
    for day in ("2024-02-01", "2024-01-03", "2024-01-01", "2024-01-02")
]


def test_a_balance_is_added_over_lines_and_taken_at_the_last_loaded_day_of_each_period() -> None:
    held = source_of(ROWS | {"fleet": FLEET, "days": DAYS})
    months = PutDimension(dimension="calendar", hierarchy="calendar", level="month", axis="columns")
    result = ask(PutMeasure(measure="closing"), PutDimension(**LINE, axis="rows"), months, source=held)
    window = window_of(result, 0, 9, 0, 9)
    assert [each.caption for each in window.rows] == ["bus", "tram", "All of Line"]
    # January closes on the 3rd, February and the year on the 1st of February, when no tram was counted.
    assert window.values == ((22, 30, 30), (12, None, None), (34, 30, 30))


def test_a_balance_can_be_the_first_days_or_the_mean_of_the_loaded_days() -> None:
    held = source_of(ROWS | {"fleet": FLEET, "days": DAYS})
    result = ask(PutMeasure(measure="first_held"), PutMeasure(measure="mean_held"), source=held)
    assert totals(result) == [30, 105 / 4]


def test_a_filter_on_lines_does_not_move_the_day_of_a_balance() -> None:
    held = source_of(ROWS | {"fleet": FLEET, "days": DAYS})
    trams = FilterMembers(**LINE, action="keep", members=(("tram",),))
    assert totals(ask(PutMeasure(measure="closing"), trams, source=held)) == [None]


REPAIRS: list[dict[str, object]] = [
    {"from_line": line, "to_line": None, "cost": None, "started": started, "ended": ended}
    for line, started, ended in [
        ("L1", "2023-12-31", "2024-01-02"), ("L1", "2024-01-03", None), ("L3", "2024-01-01", "2024-02-01"),
        ("L3", "2024-01-02", "2024-01-02"), (None, None, "2024-01-02"), ("L2", "2024-02-01", "2030-01-01"),
    ]
]  # fmt: skip


def test_what_is_open_is_counted_on_the_last_day_of_each_period_even_where_nothing_began() -> None:
    source = source_of(ROWS | {"repairs": REPAIRS, "days": DAYS})
    months = PutDimension(dimension="calendar", hierarchy="calendar", level="month", axis="columns")
    result = ask(
        PutMeasure(measure="open_repairs"), PutDimension(**LINE, level="line", axis="rows"), months, source=source
    )
    window = window_of(result, 0, 9, 0, 9)
    assert [each.caption for each in window.rows] == ["L3", "L1", "L2", "All of Line"]
    # On 3 January L1's second and L3's first are open; on 1 February L3's has ended, and L2's begins.
    assert window.values == ((1, None, None), (1, 1, 1), (None, 1, 1), (2, 2, 2))


def test_a_filter_on_the_calendar_chooses_the_day_of_what_is_open_and_never_the_records() -> None:
    source = source_of(ROWS | {"repairs": REPAIRS, "days": DAYS})
    january = FilterMembers(dimension="calendar", hierarchy="calendar", action="keep", members=((2024, 1),))
    assert totals(ask(PutMeasure(measure="open_repairs"), january, source=source)) == [2]


def test_a_month_in_which_something_is_open_stands_under_its_year_though_nothing_is_open_at_the_years_end() -> None:
    repair: dict[str, object] = {
        "from_line": "L1", "to_line": None, "cost": None, "started": "2024-01-01", "ended": "2024-02-01",
    }  # fmt: skip
    source = source_of(ROWS | {"repairs": [repair], "days": DAYS})
    calendar: HierarchyNamed = {"dimension": "calendar", "hierarchy": "calendar"}
    months = (PutDimension(**calendar, axis="rows"), OpenLevel(**calendar, level="year"))
    window = window_of(ask(PutMeasure(measure="open_repairs"), *months, source=source), 0, 9, 0, 9)
    assert [each.caption for each in window.rows] == ["2024", "1"]
    assert window.values == ((None,), (1,))


def test_rights_are_part_of_every_request_and_of_what_a_cache_keeps() -> None:
    only_trams = Rights("reader", (RowRule((MemberSet("line", "line", (("tram",),)),)),))
    cache = GroupCache(SOURCE.group, SOURCE.members)
    document = after(SOURCE, PutMeasure(measure="boardings"))
    seen = [
        answer(document, SOURCE.model, SOURCE, rights, TODAY, cache.group)
        for rights in (Rights("all"), only_trams, Rights("all"))
    ]
    assert [totals(each) for each in seen] == [[8], [3], [8]]


def test_a_cached_request_is_not_asked_twice() -> None:
    asked: list[Request] = []

    def group(request: Request) -> object:
        asked.append(request)
        return SOURCE.group(request)

    cache = GroupCache(group, SOURCE.members)  # type: ignore[arg-type]
    document = after(SOURCE, PutMeasure(measure="boardings"), PutDimension(**LINE, axis="rows"))
    for _ in range(3):
        answer(document, SOURCE.model, SOURCE, Rights("tester"), TODAY, cache.group)
    assert len(asked) == 1


@pytest.mark.parametrize(
    "formula", ['"Boardings" average over "Product"', '"Boardings" / ("Boardings" only "Family" = "a" everywhere)']
)
def test_a_formula_asks_once_for_what_all_totals_are_added_up_from(formula: str) -> None:
    asked: list[Request] = []

    def group(request: Request) -> object:
        asked.append(request)
        return SOURCE.group(request)

    expression = read_formula(formula, Vocabulary(SOURCE.model, SOURCE.members)).expression
    made = (MadeMeasure(name="made", caption="Made", formula=expression),)
    document = after(
        SOURCE,
        PutMeasure(measure="boardings"),
        PutDimension(**LINE, axis="rows"),
        PutDimension(dimension="calendar", hierarchy="calendar", axis="columns"),
    )
    measures = (*document.question.measures, PlacedMeasure(measure="made"))
    document = replace(document, question=replace(document.question, measures=measures), made=made)
    cache = GroupCache(group, SOURCE.members)  # type: ignore[arg-type]
    found = answer(document, SOURCE.model, SOURCE, Rights("tester"), TODAY, cache.group)
    assert len(found.rows) > 2  # lines and their total, against years and theirs
    assert len(asked) <= 2


def test_a_sum_beyond_64_bits_is_refused_not_wrapped() -> None:
    large = 2**62
    values = Values(np.array([large, large]), 0, np.ones(2, np.bool_))
    with pytest.raises(LimitError, match="more than 18 digits"):
        reduce_values("sum", values, np.zeros(2, np.int64), 1, "revenue")
    assert reduce_values("sum", values, np.arange(2), 2, "revenue").data.tolist() == [large, large]


def test_floats_keep_small_parts_beside_large_ones() -> None:
    values = Values(np.array([1e16, 1.0, -1e16, 1.0]), None, np.ones(4, np.bool_))
    assert reduce_values("sum", values, np.zeros(4, np.int64), 1, "delay").data.tolist() == [2.0]


def test_row_order_does_not_matter() -> None:
    turned = source_of(ROWS | {name: ROWS[name][::-1] for name in ("taps", "lines", "fares")})
    gestures = (
        PutMeasure(measure="revenue"),
        PutMeasure(measure="cards"),
        PutDimension(**LINE, level="line", axis="rows"),
    )
    one, other = ask(*gestures), ask(*gestures, source=turned)
    assert [[each.at(cell) for each in one.values] for cell in range(5)] == [
        [each.at(cell) for each in other.values] for cell in range(5)
    ]


@pytest.mark.parametrize(
    ("value", "scale", "number"),
    [(1250, 2, 12.5), (2**53, 0, 2**53), (2**53 + 1, 0, "9007199254740993"), (-(10**18), 2, "-10000000000000000.00")],
)
def test_numbers_that_a_float_would_round_are_sent_as_text(value: int, scale: int, number: object) -> None:
    assert as_number(Values(np.array([value]), scale, np.ones(1, np.bool_)), 0) == number


def test_groups_of_more_than_64_bits_of_possible_keys_are_still_told_apart() -> None:
    random = np.random.default_rng(1)
    sizes = [2**20] * 5
    codes = [random.integers(0, 50, 400).astype(np.int32) for _ in sizes]
    identity = np.arange(2**20, dtype=np.int32)
    found = group_rows([(each, identity, size) for each, size in zip(codes, sizes, strict=True)], 400)
    expected = sorted(set(zip(*(each.tolist() for each in codes), strict=True)))
    assert list(zip(*(each.tolist() for each in found.codes), strict=True)) == expected
    assert [expected[group] for group in found.group] == list(zip(*(each.tolist() for each in codes), strict=True))


def test_no_rows_make_no_groups() -> None:
    found = group_rows([(np.empty(0, np.int32), np.arange(3, dtype=np.int32), 3)], 0)
    assert (found.count, len(found.codes[0])) == (0, 0)


def test_a_window_is_cut_out_of_the_answer_and_ends_with_it() -> None:
    result = ask(
        PutMeasure(measure="boardings"),
        PutDimension(**LINE, axis="rows"),
        PutDimension(dimension="fare", hierarchy="fare", axis="columns"),
    )
    window = window_of(result, 1, 50, 1, 50)
    assert (window.row_count, window.column_count, window.row_start, window.column_start) == (4, 3, 1, 1)
    assert [each.caption for each in window.rows] == ["tram", "without a line", "All of Line"]
    assert [each.caption for each in window.columns] == ["b", "All of Fare"]
    assert window.values == ((None, 3), (1, 1), (5, 8))
    assert window_of(result, 99, 5, 99, 5).rows == ()


def test_only_what_rolls_up_is_rolled_up() -> None:
    assert [kind for kind in ("count", "sum", "min", "max", "distinct") if not BaseAggregate(kind, "x").rolls_up] == [
        "distinct"
    ]


def test_a_source_answers_a_request_without_levels() -> None:
    groups = SOURCE.group(Request(Grain("taps"), (), (BaseAggregate("count"),), (), Rights("tester")))
    assert (len(groups), groups.values[0].at(0)) == (1, 4)


def test_a_median_between_two_decimals_has_no_noise_of_floats() -> None:
    values = Values(np.array([-0.0405, 0.0225, 0.1, 0.2, 1e9, 1e9 + 0.25]), None, np.ones(6, np.bool_))
    group = np.array([0, 0, 1, 1, 2, 2])
    found = percentile_values(0.5, values, group, 3)
    assert found.data.tolist() == [-0.009, 0.15, 1_000_000_000.125]
    assert percentile_values(0.33, values, group, 3).data.tolist() == [-0.01971, 0.133, 1_000_000_000.0825]
