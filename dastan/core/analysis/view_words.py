"""Views of a measure in words: "share of the mode", "change on the year before"; and as they head a column."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, assert_never

from dastan.core.analysis.captions import HIDDEN_MEMBER, Members, level_caption, member_caption
from dastan.core.analysis.resolve import find_dimension, find_measure
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
    Side,
    Step,
    ToDate,
    View,
    calendars_of,
)
from dastan.core.model.conditions import LevelName
from dastan.core.model.document import SemanticModel
from dastan.core.model.expression import Runs
from dastan.core.model.parts import MemberPath, is_veiled

OF_WORDS: dict[Literal["whole", "row", "column", "parent", "parent_column"], str] = {
    "whole": "the whole", "row": "the row", "column": "the column", "parent": "what it stands in",
    "parent_column": "what its column stands in",
}  # fmt: skip
EARLIER_WORDS: dict[Literal["period", "year"], str] = {"period": "the period before", "year": "the year before"}
ONE_BEFORE = "the one before"
SAME_PART = "the same part of"
CHANGE_STARTS: dict[Literal["percent", "difference", "earlier"], str] = {
    "percent": "change in per cent on", "difference": "change on", "earlier": "value in",
}  # fmt: skip
BESIDE_STARTS: dict[Literal["difference", "ratio", "percent"], str] = {
    "difference": "difference from", "ratio": "ratio to", "percent": "percentage of",
}  # fmt: skip
ALONG_WORDS: dict[Side, str] = {"rows": "down the rows", "columns": "across the columns"}
AMONG_WORDS: dict[Side, str] = {"rows": "among the rows", "columns": "among the columns"}
RESTARTS = "in each group"
RUN_WORDS = {
    "running": "running total", "moving_mean": "moving average of", "moving_sum": "moving sum of", "index": "index",
    "rank": "rank", "cumulative": "cumulative share", "before": f"value in {ONE_BEFORE}",
}  # fmt: skip
BALANCE_WORDS: dict[Literal["opening", "movement", "closing"], str] = {
    "opening": "opening balance", "movement": "movement", "closing": "closing balance",
}  # fmt: skip
TO_DATE = "value to date in the"


@dataclass(frozen=True, slots=True)
class ViewNames:
    """Says the names that views have. `calendar` says nothing of the one that is meant where none is named."""

    level: Callable[[LevelName], str]
    calendar: Callable[[str], str]
    member: Callable[[str, str, MemberPath], str]
    measure: Callable[[str], str]


def plain_names(model: SemanticModel, members: Members | None = None) -> ViewNames:
    """Names as a sentence says them; of a member its key, where nothing is known of members."""

    def level(name: LevelName) -> str:
        return level_caption(find_dimension(model, name.dimension), name.level).lower()

    def calendar(name: str) -> str:
        return "" if calendars_of(model)[:1] == [name] else find_dimension(model, name).caption

    def member(dimension: str, hierarchy: str, path: MemberPath) -> str:
        if members is not None:
            return member_caption(path, members(dimension, hierarchy))
        return HIDDEN_MEMBER if is_veiled(path) else " › ".join(str(each) for each in path)

    return ViewNames(level, calendar, member, lambda name: find_measure(model, name).caption)


def view_words(view: View, names: ViewNames) -> str:
    """A view as the sentence names it after "its"."""
    match view:
        case Share():
            return f"share {_of(view, names)}"
        case Change():
            calendar = names.calendar(view.dimension) if view.on != "member" else ""
            along = f" along {calendar}" if calendar else ""
            return f"{CHANGE_STARTS[view.shows]} {elsewhere_words(view, names)}{along}"
        case RunningTotal() | Moving() | Index():
            return f"{_start(view)} {ALONG_WORDS[view.along]}{f' {RESTARTS}' if view.restarts else ''}"
        case Rank() | CumulativeShare():
            return f"{_start(view)} {AMONG_WORDS[view.along]}{f' {RESTARTS}' if view.restarts else ''}"
        case Step():
            where = f"{ONE_BEFORE} {ALONG_WORDS[view.along]}"
            return f"{CHANGE_STARTS[view.shows]} {where}{f' {RESTARTS}' if view.restarts else ''}"
        case Balance():
            return BALANCE_WORDS[view.shows]
        case Beside():
            return f"{BESIDE_STARTS[view.shows]} {names.measure(view.measure)}"
        case ToDate():
            return f"{TO_DATE} {names.level(view.level)}"
        case _:
            assert_never(view)


def heading_words(view: View, names: ViewNames) -> str:
    """A view as it heads a column beside its measure: "of the mode", "on the year before"."""
    match view:
        case Share():
            return _of(view, names)
        case Change():
            more = "more than " if view.on == "member" else "more than in "
            starts = {"percent": "on ", "difference": more, "earlier": ""}
            where = elsewhere_words(view, names) if view.on == "member" else EARLIER_WORDS[view.on]
            return f"{starts[view.shows]}{where}{', in part' if view.same_part else ''}"
        case RunningTotal() | Moving() | Index() | Rank() | CumulativeShare():
            return _start(view)
        case Step():
            starts = {"percent": "on ", "difference": "more than in ", "earlier": ""}
            return f"{starts[view.shows]}{ONE_BEFORE}"
        case Balance():
            return BALANCE_WORDS[view.shows]
        case ToDate():
            return f"to date in the {names.level(view.level)}"
        case Beside():
            starts = {"difference": "more than", "ratio": "over", "percent": "% of"}
            return f"{starts[view.shows]} {names.measure(view.measure)}"
        case _:
            assert_never(view)


def elsewhere_words(view: Change, names: ViewNames) -> str:
    """What a change is a change on: "the year before", "Plan"."""
    if view.on == "member":
        return names.member(view.dimension, view.hierarchy or "", view.path)
    return f"{SAME_PART} {EARLIER_WORDS[view.on]}" if view.same_part else EARLIER_WORDS[view.on]


def _of(view: Share, names: ViewNames) -> str:
    if view.level is not None:
        return f"of the {names.level(view.level)}"
    return f"of {OF_WORDS[view.of]}" if view.of != "level" else ""


def _start(view: RunningTotal | Moving | Index | Rank | CumulativeShare) -> str:
    match view:
        case RunningTotal():
            return RUN_WORDS["running"]
        case Moving():
            return f"{RUN_WORDS['moving_mean' if view.shows == 'average' else 'moving_sum']} {view.count}"
        case Index() | Rank() | CumulativeShare():
            return RUN_WORDS[view.kind]


def run_words(part: Runs) -> str:
    """What runs along the table in a formula, in the words that views have for it."""
    count = f" {part.count}" if part.how in ("moving_mean", "moving_sum") else ""
    where = (AMONG_WORDS if part.how in ("rank", "cumulative") else ALONG_WORDS)[part.along]
    return f"{RUN_WORDS[part.how]}{count} {where}{f' {RESTARTS}' if part.restarts else ''}"
