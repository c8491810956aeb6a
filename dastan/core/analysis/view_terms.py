"""What a view of a measure is worked out from, term by term: for the records behind it, and for its working paper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import assert_never

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import PlacedMeasure
from dastan.core.analysis.placed import viewed_measure
from dastan.core.analysis.resolve import find_measure
from dastan.core.analysis.view_words import elsewhere_words, heading_words, plain_names
from dastan.core.analysis.views import (
    Balance,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    Step,
    ToDate,
    above_of,
    elsewhere_of,
    opening_of,
    to_date_of,
)
from dastan.core.formula.scopes import Above, Earlier, Instead, Opening
from dastan.core.formula.scopes import ToDate as UpTo
from dastan.core.model.document import Measure, SemanticModel

Exact = int | float | Decimal | None


@dataclass(frozen=True, slots=True)
class Term:
    """A measure over the records of a scope, the cell's own without one; `where` says which in words. `at_end`: a
    balance as it stands at the end of a time, whatever its own way."""

    measure: Measure
    scope: Above | Earlier | UpTo | Opening | Instead | None = None
    where: str = ""
    at_end: bool = False

    @property
    def caption(self) -> str:
        return f"{self.measure.caption} {self.where}".strip()


def view_terms(placed: PlacedMeasure, model: SemanticModel, members: Members | None = None) -> tuple[Term, ...]:
    """The terms of a placed measure: itself, and what a view of it is compared with."""
    own, names = Term(viewed_measure(placed, model)), plain_names(model, members)
    match placed.view:
        case Share() as view:
            return own, Term(own.measure, above_of(view), heading_words(view, names))
        case Change() as view:
            return own, Term(own.measure, elsewhere_of(view), f"in {elsewhere_words(view, names)}")
        case ToDate() as view:
            return (Term(own.measure, to_date_of(view), heading_words(view, names)),)
        case Balance() as view:
            closing = Term(own.measure, at_end=True)
            opening = Term(own.measure, opening_of(own.measure, model), "at the opening", at_end=True)
            return {"closing": (closing,), "opening": (opening,), "movement": (closing, opening)}[view.shows]
        case Beside() as view:
            return own, Term(find_measure(model, view.measure))
        case _:
            return (own,)


def formula_words(placed: PlacedMeasure, terms: Sequence[Term]) -> str:
    """How a view is worked out from its terms; nothing without one."""
    names = [each.caption for each in terms]
    match placed.view:
        case None:
            return ""
        case Share() | Beside(shows="ratio") | Beside(shows="percent"):
            return " ÷ ".join(names)
        case Change(shows="difference") | Beside() | Balance(shows="movement"):
            return " − ".join(names)
        case Balance():
            return names[0]
        case Change(shows="percent"):
            return f"({names[0]} − {names[1]}) ÷ {names[1]}, whatever its sign"
        case Change():
            return names[1]
        case RunningTotal():
            return f"{names[0]}, added up so far in natural order"
        case Moving(count=count, shows=shows):
            what = "the mean" if shows == "average" else "the sum"
            return f"{what} of {names[0]} here and of those before it, {count} together"
        case ToDate():
            return names[0]
        case Step(shows="earlier"):
            return f"{names[0]} of the one before in natural order"
        case Step(shows="difference"):
            return f"{names[0]} − {names[0]} of the one before in natural order"
        case Step():
            return f"what {names[0]} is more than in the one before in natural order, ÷ that one's, whatever its sign"
        case Index():
            return f"100 × {names[0]} ÷ the first {names[0]}"
        case Rank():
            return f"1 and one more for each that has more {names[0]}"
        case CumulativeShare():
            return f"{names[0]} of this and of all that have more, ÷ that of all"
        case _:
            assert_never(placed.view)


def depends_on_others(placed: PlacedMeasure) -> bool:
    """Whether a cell's value depends on other cells, and not on its own terms alone."""
    return isinstance(placed.view, RunningTotal | Moving | Index | Rank | CumulativeShare | Step)


def worked_out(placed: PlacedMeasure, values: Sequence[Exact], is_shown: bool) -> Exact:
    """What a view comes to from the exact values of its terms.

    Args: `is_shown` tells whether the cell has a value: a change on nothing at all has one only where anything is known
        of the time before, which its own records do not tell.
    """
    own: Exact = values[0]
    other: Exact = values[-1]
    match placed.view:
        case Share() | Beside(shows="ratio") | Beside(shows="percent"):
            return _over(own, other)
        case Change(shows="earlier"):
            return other
        case Change(shows="difference") | Balance(shows="movement") if other is None and not is_shown:
            return None
        case Change(shows="difference") | Beside() | Balance(shows="movement"):
            return _less(own, other)
        case Change():
            return None if other is None else _over(_less(own, other), max(other, -other))
        case _:
            return own


def _less(one: Exact, other: Exact) -> Exact:
    if one is None or other is None:
        return one if other is None else -other
    if isinstance(one, float) or isinstance(other, float):
        return float(one) - float(other)
    return one - other


def _over(above: Exact, below: Exact) -> Exact:
    return None if above is None or not below else float(above) / float(below)
