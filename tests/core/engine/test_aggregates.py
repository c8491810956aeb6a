"""Aggregates of every kind, and another one for a placement, with its quiet warning."""

from __future__ import annotations

from decimal import Decimal

import pytest

from dastan.core.analysis.document import PlacedMeasure
from dastan.core.analysis.gestures import (
    PutMeasure,
    SetAggregate,
    apply_gesture,
)
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.offers import offers_for
from dastan.core.analysis.warnings import warnings_of
from dastan.core.engine.answer import Answer
from dastan.core.errors import InputError
from dastan.documents.read import read_model
from dastan.sources.columnar.column_source import ColumnSource
from tests.core.asked import STAR, ask, question
from tests.core.engine.random_model import MODEL, source_of
from tests.core.star import ROWS

DATED = [
    {"day": day, "revenue": Decimal(cents).scaleb(-2) if cents is not None else None, "delay": delay, "boardings": weight}
    for day, cents, delay, weight in [
        ("2024-01-01", 500, 2.0, 1), ("2024-01-02", -300, 4.0, 3), ("2024-01-02", 700, None, 5), (None, 900, 6.0, 2),
        ("2024-01-03", None, 8.0, None),
    ]
]  # fmt: skip
DAYS = [{"day": f"2024-01-0{number}", "year": 2024, "month": 1} for number in (1, 2, 3)]


def total(result: Answer) -> object:
    return result.values[0].at(len(result.cell_rows) - 1)


@pytest.fixture(scope="module")
def dated() -> ColumnSource:
    return source_of(ROWS | {"days": DAYS, "taps": [ROWS["taps"][0] | each for each in DATED]})


@pytest.mark.parametrize(
    ("measure", "expected"),
    [
        # The last day with a revenue is the second: of -3.00 and 7.00 the largest. What has no day is neither.
        ("first_revenue", Decimal("5.00")), ("last_delay", 8.0), ("debit", Decimal("21.00")), ("credit", Decimal("3.00")),
        # (2 x 1 + 4 x 3 + 6 x 2) / (1 + 3 + 2): one has no delay, one no weight.
        ("weighed_delay", 26 / 6),
    ],
)  # fmt: skip
def test_dated_signed_and_weighed_values(dated: ColumnSource, measure: str, expected: object) -> None:
    assert total(ask(question(measure), dated)) == expected


def test_of_several_on_the_last_day_the_largest(dated: ColumnSource) -> None:
    last = apply_gesture(question(), PutMeasure(measure="first_revenue", aggregate="last"), dated.model)
    assert total(ask(last, dated)) == Decimal("7.00")


def test_a_ratio_divides_what_different_facts_come_to() -> None:
    # Repairs cost 7.75 in all, over four taps; on L1 7.50 over one.
    assert total(ask(question("cost_each"))) == 7.75 / 4


@pytest.mark.parametrize(
    ("aggregate", "expected"),
    [("average", 2.0), ("median", 1.5), ("min", 1), ("max", 4), ("distinct", 3), ("count_values", 4)],
)
def test_a_placed_measure_can_be_shown_by_another_aggregate(aggregate: str, expected: object) -> None:
    changed = apply_gesture(
        question("boardings"),
        SetAggregate(placed=PlacedMeasure(measure="boardings"), aggregate=aggregate),  # type: ignore[arg-type]
        STAR.model,
    )
    result = ask(changed)
    assert total(result) == expected
    assert result.measures[0].caption.lower().endswith("boardings")


def test_a_percentile_is_offered_shown_and_taken_away_again() -> None:
    ninth = PlacedMeasure(measure="boardings", aggregate="percentile", percentile=90)
    thing = Thing(kind="measure", measure="boardings")
    offers = offers_for(question("boardings"), thing, STAR.model, STAR.members)
    chosen = next(each for each in offers if each.words == "90th percentile of boardings")
    assert chosen.gesture is not None
    document = apply_gesture(question("boardings"), chosen.gesture, STAR.model)
    assert document.question.measures == (ninth,)
    # Of 1, 1, 2 and 4, seven tenths of the way from the third to the fourth.
    assert total(ask(document)) == pytest.approx(3.4)
    own = Thing(kind="measure", measure="boardings", aggregate="percentile", percentile=90)
    away = next(each for each in offers_for(document, own, STAR.model, STAR.members) if each.place == "away")
    assert away.gesture is not None
    assert apply_gesture(document, away.gesture, STAR.model).question.measures == ()


def test_the_same_measure_stands_beside_itself_by_another_aggregate() -> None:
    both = apply_gesture(question("boardings"), PutMeasure(measure="boardings", aggregate="max"), STAR.model)
    result = ask(both)
    assert [each.at(0) for each in result.values] == [8, 4]


def test_what_has_nothing_to_aggregate_is_refused() -> None:
    for name in ("taps", "open_repairs", "cost_each"):
        with pytest.raises(InputError, match="cannot be shown as an average"):
            apply_gesture(question(), PutMeasure(measure=name, aggregate="average"), STAR.model)


def warned(source: ColumnSource, *placed: PlacedMeasure) -> list[tuple[str, str]]:
    document = question()
    for each in placed:
        put = PutMeasure(measure=each.measure, aggregate=each.aggregate)
        document = apply_gesture(document, put, source.model)
    found = warnings_of(document, source.model)
    for warning in found:
        assert warning.gesture is None or apply_gesture(document, warning.gesture, source.model)
    return [(each.measure, each.better) for each in found]


def test_adding_keys_a_balance_over_time_and_averages_is_warned_of_with_the_better_choice() -> None:
    assert warned(STAR, PlacedMeasure(measure="cards", aggregate="sum")) == [("cards:sum", "Count the different ones")]
    text = MODEL.replace("aggregate: distinct, expression: card", "aggregate: max, expression: card").replace(
        "taps: {file: taps.parquet}", "taps: {file: taps.parquet, columns: {card: {type: integer, is_key: true}}}"
    )
    keyed = ColumnSource(read_model(text), STAR.tables)
    assert warned(keyed, PlacedMeasure(measure="cards", aggregate="sum")) == [("cards:sum", "Count the different ones")]
    assert warned(STAR, PlacedMeasure(measure="closing", aggregate="sum")) == [
        ("closing:sum", "Show Closing at the end of the period")
    ]
    assert warned(STAR, PlacedMeasure(measure="fare_each", aggregate="average")) == [
        ("fare_each:average", "Divide the sums: Fare each")
    ]
    assert warned(STAR, PlacedMeasure(measure="boardings"), PlacedMeasure(measure="cards")) == []


def test_a_key_is_known_by_the_relationship_it_stands_in() -> None:
    text = MODEL.replace("expression: card}", "expression: product_id}")
    source = ColumnSource(read_model(text), STAR.tables)
    assert warned(source, PlacedMeasure(measure="cards", aggregate="average"))[0][1] == "Count the different ones"
