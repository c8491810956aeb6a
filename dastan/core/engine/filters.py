"""From the conditions of a document to those of a request: prompts answered, periods dated, measures compared."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import assert_never

from dastan.core.analysis.prompts import Answers
from dastan.core.engine.periods import period_days
from dastan.core.engine.waist import (
    AttributeTest,
    Condition,
    Conditions,
    DayRange,
    GroupSet,
    Joined,
    KeyState,
    MemberSet,
    Not,
    dimensions_of,
)
from dastan.core.errors import InputError
from dastan.core.model.conditions import (
    AttributeFilter,
    FilterGroup,
    KeyFilter,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    ReadyFilter,
    leaves_of,
)
from dastan.core.model.conditions import Condition as Written
from dastan.core.model.document import SemanticModel, next_named
from dastan.core.model.parts import MemberPath


@dataclass(frozen=True, slots=True)
class Circumstances:
    """What conditions depend on beside the document.

    `newest` gives the newest day of the question's data by a calendar dimension, ISO; `measured` the groups for
    which a measure fulfils a comparison, `listed` the members of a list by its name.
    """

    model: SemanticModel
    today: date
    answers: Answers
    newest: Callable[[str], str | None]
    measured: Callable[[MeasureFilter], GroupSet]
    listed: Callable[[str], tuple[MemberPath, ...]]


def condition_of(written: Written, around: Circumstances) -> Condition | None:
    """What a condition of a document asks of records; None where it needs an answer that nobody has to give.

    Raises: InputError where an answer is wanting, NotFoundError for a name that is not in the model.
    """
    found = _kept(written, around)
    return Not(found) if found is not None and written.action == "leave_out" else found


def reached_by(conditions: Conditions, reaches: Callable[[str], bool]) -> Conditions:
    """The conditions that bear on records which some dimensions reach; the others leave them alone."""
    return tuple(each for each in conditions if all(reaches(name) for name in dimensions_of(each)))


def looks_at_measures(written: Written, model: SemanticModel) -> bool:
    """Whether a condition, or a ready-made one in it, compares a measure."""
    return any(
        isinstance(leaf, MeasureFilter)
        or (isinstance(leaf, ReadyFilter) and looks_at_measures(next_named(model.filters, leaf.name).condition, model))
        for leaf in leaves_of(written)
    )


def _kept(written: Written, around: Circumstances) -> Condition | None:
    match written:
        case MemberFilter():
            members = written.members if written.list is None else around.listed(written.list)
            if written.prompt is not None:
                answered = around.answers.members(written.prompt)
                if answered is None:
                    return None
                members = answered
            return MemberSet(written.dimension, written.hierarchy, members, True, written.level)
        case AttributeFilter():
            values = around.answers.fill(written.values)
            if values is None:
                return None
            return AttributeTest(written.dimension, written.attribute, written.operator, values, written.on)
        case PeriodFilter():
            return _days(written, around)
        case KeyFilter():
            return KeyState(written.dimension, written.state)
        case MeasureFilter():
            values = around.answers.fill(written.values)
            return None if values is None else around.measured(written)
        case ReadyFilter():
            return condition_of(next_named(around.model.filters, written.name).condition, around)
        case FilterGroup():
            parts = tuple(each for part in written.parts if (each := condition_of(part, around)) is not None)
            return Joined(written.join, parts) if parts else None
        case _:
            assert_never(written)


def _days(written: PeriodFilter, around: Circumstances) -> DayRange:
    dimension = around.model.dimension(written.dimension)
    calendar = around.model.tables[dimension.table].calendar
    anchor = around.today
    if written.anchor == "newest":
        newest = around.newest(written.dimension)
        if newest is None:
            return DayRange(written.dimension, str(date.max), str(date.min))  # no data, no day
        anchor = _day(newest, dimension.caption)
    first, last = period_days(
        written.unit, written.first, written.last, written.to_date, anchor,
        calendar.financial_year_starts if calendar is not None else 1,
    )  # fmt: skip
    return DayRange(written.dimension, first.isoformat(), last.isoformat())


def _day(text: str, caption: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as exc:
        raise InputError(
            f"The newest key of {caption}, “{text}”, is not a date, so no period can be counted from it.",
            "Let the calendar's key be a date, or count from today.",
        ) from exc
