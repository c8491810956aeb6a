"""Dress changes how numbers look and nothing of what is asked."""

from __future__ import annotations

from dataclasses import replace

import pytest

from dastan.core.analysis.document import Analysis, Chart, Dress, NumberDress, PlacedMeasure, Threshold
from dastan.core.analysis.dress import threshold_words, written
from dastan.core.analysis.gestures import (
    DressNumbers,
    DressTable,
    DropMissing,
    SetChart,
    SetView,
    SetWidth,
    SwapAxes,
    apply_gesture,
    step_words,
)
from dastan.core.analysis.sentence import sentence_of
from dastan.core.errors import InputError, NotFoundError
from dastan.documents.read import read_analysis, write_analysis
from dastan.exports.number_format import number_format
from tests.core.asked import STAR, ask, by, question

BOARDINGS = PlacedMeasure(measure="boardings")
DOCUMENT = question("boardings", "taps", rows=(by("line", "mode"),))


def dressed(**how: object) -> Analysis:
    numbers = NumberDress(measure=BOARDINGS, **how)  # type: ignore[arg-type]
    return apply_gesture(DOCUMENT, DressNumbers(numbers=numbers), STAR.model)


def test_dress_leaves_the_question_alone_and_outlives_a_turn() -> None:
    found = dressed(scale="thousands", is_turned=True, in_cell="bar")
    found = apply_gesture(found, SetView(view="both"), STAR.model)
    found = apply_gesture(found, SetChart(chart=Chart(form="ring", multiples=True)), STAR.model)
    assert found.question == DOCUMENT.question
    text = sentence_of(found, STAR.model, STAR.members).text
    assert text == "Boardings in thousands with the sign turned and Taps by Mode"
    turned = apply_gesture(found, SwapAxes(), STAR.model)
    # What changes how a number reads is said beside the measure, wherever this stands in the table.
    for each in (found, turned):
        assert sentence_of(each, STAR.model, STAR.members).phrases[0].note == "in thousands, sign turned"
    assert turned.dress == found.dress
    assert read_analysis(write_analysis(turned).decode(), "draft") == turned


def test_what_is_done_to_the_numbers_is_said_once() -> None:
    look = written(dressed(scale="thousands", is_turned=True).dress_of(BOARDINGS), STAR.model)
    assert (look.divisor, look.is_turned, look.unit) == (1000, True, "in thousands, sign turned")


def test_undressed_again_nothing_is_left() -> None:
    again = apply_gesture(dressed(scale="millions"), DressNumbers(numbers=NumberDress(measure=BOARDINGS)), STAR.model)
    assert again == DOCUMENT


def test_a_threshold_is_said_in_words() -> None:
    numbers = dressed(
        thresholds=(
            Threshold(side="at_least", amount=1500, meaning="favourable"),
            Threshold(side="at_most", amount=0.5, times=PlacedMeasure(measure="taps"), meaning="unfavourable"),
        )
    ).dress_of(BOARDINGS)
    assert [threshold_words(each, numbers, STAR.model) for each in numbers.thresholds] == [
        "Boardings at least 1,500", "Boardings at most 0.5 times Taps",
    ]  # fmt: skip


@pytest.mark.parametrize("pattern", ["", "abc", "0;0;0", "#;", "0.0.0", "0#"])
def test_a_broken_pattern_is_refused(pattern: str) -> None:
    with pytest.raises(InputError, match="not a number pattern"):
        dressed(pattern=pattern)


def test_dress_that_the_model_no_longer_has_is_said_and_dropped_alone() -> None:
    gone = Threshold(side="at_least", amount=1, times=PlacedMeasure(measure="profit"), meaning="noted")
    numbers = (NumberDress(measure=BOARDINGS, thresholds=(gone,)), NumberDress(measure=BOARDINGS, scale="millions"))
    broken = replace(DOCUMENT, dress=Dress(numbers=numbers, view="both"))
    with pytest.raises(NotFoundError, match="profit"):
        ask(broken)
    assert apply_gesture(broken, DropMissing(), STAR.model).dress == Dress(numbers=numbers[1:], view="both")


def test_what_is_not_in_the_table_cannot_be_dressed() -> None:
    with pytest.raises(InputError, match="not in the table"):
        apply_gesture(DOCUMENT, DressNumbers(numbers=NumberDress(measure=PlacedMeasure(measure="cards"))), STAR.model)


def test_patterns_become_what_the_browser_writes_with() -> None:
    found = number_format("#,##0.00;(#,##0.00)", 1000, True)
    assert (found.least_fraction, found.most_fraction, found.is_grouped) == (2, 2, True)
    assert (found.factor, found.negative_prefix, found.negative_suffix) == (-0.001, "(", ")")
    plain = number_format("0.0 %")
    assert (plain.factor, plain.suffix, plain.negative_prefix) == (100, " %", "-")


def test_money_has_its_unit_beside_each_number_and_not_above() -> None:
    found = written(dressed(pattern="#,##0.00 ¤").dress_of(BOARDINGS), STAR.model)
    assert found.unit == ""
    assert number_format(found.pattern, money="cr").suffix == " cr"
    assert number_format("¤0;(¤0)", money="cr").negative_prefix == "(cr"


def test_the_look_of_the_table_changes_what_is_said_and_nothing_else() -> None:
    gesture = DressTable(look="tight", rows="levels")
    found = apply_gesture(DOCUMENT, gesture, STAR.model)
    assert found.dress == Dress(look="tight", rows="levels")
    again = apply_gesture(found, DressTable(frozen="columns", repeats_labels=True), STAR.model)
    assert again.dress == Dress(look="tight", rows="levels", frozen="columns", repeats_labels=True)
    assert step_words(DOCUMENT, gesture, STAR.model, STAR.members) == "a tight look, a column for each level"
    assert read_analysis(write_analysis(again).decode(), "draft") == again


def test_widths_are_kept_by_measure_and_lost_when_undrawn() -> None:
    wide = apply_gesture(DOCUMENT, SetWidth(measure=BOARDINGS, width=120), STAR.model)
    assert wide.dress_of(BOARDINGS).width == 120
    assert apply_gesture(wide, SetWidth(measure=BOARDINGS), STAR.model) == DOCUMENT
    assert apply_gesture(DOCUMENT, SetWidth(width=260), STAR.model).dress.label_width == 260
    with pytest.raises(InputError, match="40 to 800"):
        apply_gesture(DOCUMENT, SetWidth(width=9), STAR.model)
