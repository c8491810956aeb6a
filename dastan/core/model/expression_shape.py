"""Whether the parts of an expression are such as a text could write: a document that was sent may hold others."""

from __future__ import annotations

import re
from typing import get_args

from dastan.core.errors import InputError, did_you_mean
from dastan.core.formula.functions import FUNCTIONS
from dastan.core.model.conditions import Condition, leaves_of
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.expression import (
    MOST_BEFORE,
    MOST_MOVING,
    Before,
    Call,
    Case,
    Expression,
    FunctionName,
    Logic,
    MeasureOf,
    NumberOf,
    Only,
    Over,
    Runs,
)

FUNCTION_NAMES: tuple[str, ...] = get_args(FunctionName)
_MOST_DIGITS = 18
_DIGITS = re.compile(r"\d+(\.\d+)?", re.ASCII)


class ExpressionError(InputError):
    """What is wrong with a part of an expression; `part` is that part."""

    code = "formula"

    def __init__(self, part: Expression, message: str, hint: str) -> None:
        super().__init__(message, hint)
        self.part = part


def check_shape(part: Expression) -> None:
    """Raises ExpressionError for a part that no text can write, as a document that was sent may have."""
    fault = ""
    match part:
        case NumberOf():
            if not _DIGITS.fullmatch(part.digits):
                fault = f"“{part.digits}” is not a number."
            elif len(part.digits.replace(".", "")) > _MOST_DIGITS:
                fault = f"A number has at most {_MOST_DIGITS} digits."
        case Logic() if len(part.of) < 2:
            fault = f"What is joined by {part.join} are two truths or more."
        case Case() if not part.branches:
            fault = "A choice has a branch or more."
        case Call():
            least, most, _ = FUNCTIONS[part.function]
            if not least <= len(part.of) <= most:
                many = f"{least}" if least == most else f"{least} to {most}"
                fault = f"{part.function} takes {many} values, not {len(part.of)}."
        case Only() if not any(dimensions_named(each) for each in part.conditions):
            fault = "A slice says of which dimension it is."
        case Over() if (part.reach == "dimension") != (part.dimension is not None):
            fault = "What is over a dimension says over which."
        case Over() if (part.reach == "level") != (part.level is not None):
            fault = "What is over a level says over which."
        case Before() if not 1 <= part.count <= MOST_BEFORE:
            fault = f"Nothing is {part.count} {part.by}s before."
        case Runs() if part.how.startswith("moving") and not 1 < part.count <= MOST_MOVING:
            fault = f"Nothing moves over {part.count}."
    if fault:
        raise ExpressionError(part, fault, "Write the formula again.")


def dimensions_named(condition: Condition) -> set[str]:
    """The dimensions that a condition is about."""
    return {name for each in leaves_of(condition) if (name := getattr(each, "dimension", None)) is not None}


def measure_of(part: MeasureOf, model: SemanticModel) -> Measure:
    """The measure that a part names. Raises ExpressionError with the nearest name."""
    found = next((each for each in model.measures if each.name == part.measure), None)
    if found is None:
        hint = did_you_mean(part.measure, (each.name for each in model.measures))
        raise ExpressionError(part, f"There is no measure “{part.measure}”.", hint)
    return found
