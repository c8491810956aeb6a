"""Conditions as documents write them: which records are meant.

A model uses them for a measure's own condition, for ready-made filters and for what a role may see; an
analysis uses them as filters. Each says yes or no to a record. `leave_out` turns the answer round, so that
a record which belongs nowhere is never matched by a range or a text, and is retained when one is left out.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Annotated, Any, Literal, get_args

from dastan.core.model.parts import Key, MemberPath, Part

Action = Literal["keep", "leave_out"]
Operator = Literal[
    "equal", "not_equal", "less", "at_most", "more", "at_least", "between", "contains", "begins_with", "ends_with"
]
TEXT_OPERATORS = ("contains", "begins_with", "ends_with")
Unit = Literal["day", "week", "month", "quarter", "year", "financial_quarter", "financial_year"]


class ByKind:
    """Tells readers of documents which of several parts stands somewhere: its `kind` says so, the first without.

    So a fault is told of the part that was meant, and not of every other one as well.
    """

    def __get_pydantic_core_schema__(self, source: Any, handler: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
        kinds = [each.__dataclass_fields__["kind"].default for each in get_args(source)]
        choices = dict(zip(kinds, handler(source)["choices"], strict=True))

        def kind_of(value: Any) -> Any:
            return value.get("kind", kinds[0]) if isinstance(value, dict) else getattr(value, "kind", None)

        return {"type": "tagged-union", "choices": choices, "discriminator": kind_of}


@dataclass(frozen=True, slots=True, kw_only=True)
class PromptRef(Part):
    """Stands for the answer to a question that is asked of whoever opens the analysis."""

    prompt: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelName(Part):
    """A level of one hierarchy."""

    dimension: str
    hierarchy: str
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MemberFilter(Part):
    """Members kept or left out. A path names everything below it."""

    dimension: str
    hierarchy: str
    action: Action = "keep"
    members: tuple[MemberPath, ...] = ()
    level: str | None = None
    """Means all the members at this level below `members` (below all without any); not such as have none there."""
    prompt: str | None = None
    """The question whose answer gives the members, in place of `members`."""
    list: str | None = None
    """The list whose members are meant, in place of `members`."""
    kind: Literal["members"] = "members"


@dataclass(frozen=True, slots=True, kw_only=True)
class AttributeFilter(Part):
    """Records whose member has an attribute for which a comparison holds. A blank never matches."""

    dimension: str
    attribute: str
    operator: Operator
    values: tuple[Key | PromptRef, ...]
    """Two for `between`, both included. Several for `equal` or a text operator: any of them."""
    on: Literal["key", "caption"] = "key"
    """What is compared. Texts are compared whatever their case."""
    action: Action = "keep"
    kind: Literal["attribute"] = "attribute"


@dataclass(frozen=True, slots=True, kw_only=True)
class PeriodFilter(Part):
    """A period that moves: counted in whole units from the one that holds the anchor, which is number 0."""

    dimension: str
    unit: Unit
    first: int
    last: int
    anchor: Literal["today", "newest"] = "today"
    """Counted from today, or from the newest day that the data of the question has."""
    to_date: bool = False
    """Ends at the anchor's own place within the last unit: a year so far, the same part of last year."""
    action: Action = "keep"
    kind: Literal["period"] = "period"


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyFilter(Part):
    """Records that belong nowhere in a dimension, by the reason."""

    dimension: str
    state: Literal["left_blank", "key_unknown"]
    action: Action = "keep"
    kind: Literal["key"] = "key"


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureFilter(Part):
    """Members, or combinations of members, for which a measure's value fulfils a comparison."""

    measure: str
    at: tuple[LevelName, ...]
    """The grain: one value for each combination of members of these levels."""
    per: LevelName | None = None
    """Compares the average over the members of this level that have a value: boardings *a month on average*."""
    operator: Literal["equal", "not_equal", "less", "at_most", "more", "at_least", "between"]
    values: tuple[int | float | PromptRef, ...]
    action: Action = "keep"
    kind: Literal["measure"] = "measure"


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadyFilter(Part):
    """A ready-made filter of the model, by name."""

    name: str
    action: Action = "keep"
    kind: Literal["ready"] = "ready"


@dataclass(frozen=True, slots=True, kw_only=True)
class FilterGroup(Part):
    """Several conditions, joined by *and* or by *or*."""

    join: Literal["all", "any"]
    parts: tuple[Condition, ...]
    action: Action = "keep"
    kind: Literal["group"] = "group"


Condition = Annotated[
    MemberFilter | AttributeFilter | PeriodFilter | KeyFilter | MeasureFilter | ReadyFilter | FilterGroup, ByKind()
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Prompt(Part):
    """A question to ask on opening, whose answer stands as a value in conditions."""

    name: str
    caption: str
    type: Literal["text", "number", "date", "members"]
    dimension: str | None = None
    """Of `members`: whose members are asked for."""
    hierarchy: str | None = None
    values: tuple[Key, ...] = ()
    """The answer until another is given."""
    members: tuple[MemberPath, ...] = ()
    """The members until others are picked."""
    many: bool = True
    """Whether several may be answered."""
    required: bool = True
    """Without an answer, a condition that needs one which is not required is left aside."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PromptAnswer(Part):
    """What was answered to a prompt, of the analysis or of its model."""

    prompt: str
    values: tuple[Key, ...] = ()
    members: tuple[MemberPath, ...] = ()


def leaves_of(condition: Condition) -> Iterator[Condition]:
    """The condition itself, or for a group those inside it."""
    if isinstance(condition, FilterGroup):
        for each in condition.parts:
            yield from leaves_of(each)
    else:
        yield condition
