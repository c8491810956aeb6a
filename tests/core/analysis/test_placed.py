"""A measure by another aggregate than its own: its caption, and what its numbers are of."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import PlacedMeasure
from dastan.core.analysis.placed import shown_measure
from dastan.core.errors import InputError
from tests.core.asked import STAR


@pytest.mark.parametrize(
    ("measure", "aggregate", "caption", "unit"),
    [
        ("revenue", None, "Revenue", "cr"),
        ("revenue", "max", "Greatest revenue", "cr"),
        ("revenue", "distinct", "Different values of revenue", "distinct"),
        ("revenue", "count_values", "Count of revenue", "records"),
        # Card numbers added up are no cards.
        ("cards", "sum", "Sum of cards", ""),
    ],
)
def test_a_unit_is_of_what_is_shown(measure: str, aggregate: str | None, caption: str, unit: str) -> None:
    units = {"revenue": "cr", "cards": "distinct"}
    measures = tuple(replace(each, unit=units.get(each.name, "")) for each in STAR.model.measures)
    model = replace(STAR.model, measures=measures)
    found = shown_measure(PlacedMeasure(measure=measure, aggregate=aggregate), model)  # type: ignore[arg-type]
    assert found.caption == caption
    assert found.unit == unit


def test_a_count_of_records_has_nothing_to_aggregate_otherwise() -> None:
    with pytest.raises(InputError, match="cannot be shown as"):
        shown_measure(PlacedMeasure(measure="taps", aggregate="max"), STAR.model)
