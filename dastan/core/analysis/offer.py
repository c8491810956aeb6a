"""What offers are about, and what they are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.document import AxisName, PlacedMember
from dastan.core.analysis.gestures import Gesture
from dastan.core.analysis.views import View
from dastan.core.model.document import Aggregate
from dastan.core.model.parts import MemberPath, Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing(Part):
    """What a drag or a menu is about: a measure, all measures as a group, a hierarchy (at a level), members of one,
    a cell, a filter, a limit, an order, a way down, a list of members, or an axis as a whole."""

    kind: Literal[
        "measure", "measures", "dimension", "member", "cell", "filter", "limit", "order", "way", "list", "axis"
    ]
    measure: str | None = None
    aggregate: Aggregate | None = None
    percentile: float | None = None
    view: View | None = None
    at: int | None = None
    """The filter's place in the document."""
    dimension: str | None = None
    hierarchy: str | None = None
    level: str | None = None
    path: MemberPath = ()
    more: tuple[MemberPath, ...] = ()
    """Further members of the same hierarchy that are meant as well."""
    way: str | None = None
    """A way down by its caption."""
    list: str | None = None
    """A list of members by its name."""
    axis: AxisName | None = None
    row: tuple[PlacedMember, ...] = ()
    """Of a cell, or of a member on the rows: what it stands in on each axis, outermost first."""
    column: tuple[PlacedMember, ...] = ()
    is_empty: bool = False
    """Of a cell: whether it has no value."""


Asks = Literal[
    "members",
    "prompts",
    "limit",
    "condition",
    "opening",
    "records",
    "paper",
    "empty",
    "numbers",
    "formula",
    "joint",
    "layout",
    "list",
]


@dataclass(frozen=True, slots=True)
class Offer:
    """One possible landing.

    `place` names the drop target, with `at` the gap in it; an offer in a menu only has "menu". `preview`
    holds the header and first members that would appear there. `asks` names what has to be chosen first.
    `prompts` are the questions to ask again. `under` is the heading under which a menu gathers it, where it does.
    """

    words: str
    place: Literal["measures", "rows", "columns", "waiting", "away", "menu"]
    at: int | None = None
    gesture: Gesture | None = None
    asks: Asks | None = None
    prompts: tuple[str, ...] = ()
    preview: tuple[str, ...] = ()
    under: str = ""
    is_drop_only: bool = False
    """Whether it is no line of a menu."""


def in_menu(words: str, gesture: Gesture, under: str = "") -> Offer:
    """An offer that only a menu makes."""
    return Offer(words, "menu", None, gesture, under=under)
