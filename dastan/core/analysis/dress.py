"""How the numbers of a measure are dressed: what a reader sees of them, while they stay as they are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.document import NumberDress, Threshold
from dastan.core.analysis.placed import shown_measure
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel
from dastan.core.model.pattern import MONEY, is_number_pattern

NARROWEST, WIDEST = 40, 800
SCALE_WORDS: dict[Literal["thousands", "millions"], str] = {"thousands": "in thousands", "millions": "in millions"}
TURNED = "with the sign turned"
DIVISORS = {"one": 1, "thousands": 1_000, "millions": 1_000_000}


@dataclass(frozen=True, slots=True)
class Written:
    """How numbers are written: a CLDR pattern, what they are divided by first, whether their sign is turned; and
    what is said once beside the measure's name."""

    pattern: str
    divisor: int
    is_turned: bool
    unit: str


def check_numbers(numbers: NumberDress, model: SemanticModel) -> None:
    """Raises NotFoundError or InputError for the first thing that numbers cannot be dressed by."""
    shown_measure(numbers.measure, model)
    if numbers.pattern is not None and not is_number_pattern(numbers.pattern):
        raise InputError(
            f"“{numbers.pattern}” is not a number pattern.", "Write one such as #,##0.00, or #,##0;(#,##0)."
        )
    for each in numbers.thresholds:
        if each.times is not None:
            shown_measure(each.times, model)


def written(numbers: NumberDress, model: SemanticModel) -> Written:
    """How a measure's numbers are written. Raises NotFoundError."""
    measure = shown_measure(numbers.measure, model)
    pattern = numbers.pattern or measure.format
    # Money has its unit beside each number, where it is not said again above.
    own_unit = "" if MONEY in pattern else measure.unit
    scale = {"one": "", "thousands": "thousand", "millions": "million"}[numbers.scale]
    unit = f"{scale} {own_unit}".strip() if own_unit else f"in {scale}s" if scale else ""
    if numbers.is_turned:
        unit = f"{unit}, sign turned" if unit else "sign turned"
    return Written(pattern, DIVISORS[numbers.scale], numbers.is_turned, unit)


def number_words_of(numbers: NumberDress) -> str:
    """How numbers are written, as the sentence says it after the measure: "in thousands with the sign turned"."""
    scale = "" if numbers.scale == "one" else SCALE_WORDS[numbers.scale]
    return " ".join(part for part in (scale, TURNED if numbers.is_turned else "") if part)


def threshold_words(threshold: Threshold, numbers: NumberDress, model: SemanticModel) -> str:
    """A threshold for the legend: "Boardings at least 100,000"."""
    side = "at least" if threshold.side == "at_least" else "at most"
    amount = f"{threshold.amount:,.10g}".replace("-", "−")
    if threshold.times is not None:
        caption = shown_measure(threshold.times, model).caption
        amount = caption if threshold.amount == 1 else f"{amount} times {caption}"
    return f"{shown_measure(numbers.measure, model).caption} {side} {amount}"
