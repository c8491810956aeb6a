"""Views of a measure in words: "share of the row", "change in per cent on the year before", and back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, assert_never

from dastan.core.analysis.views import (
    BESIDE_STARTS,
    CHANGE_STARTS,
    EARLIER_WORDS,
    OF_WORDS,
    SAME_PART,
    Beside,
    Change,
    CumulativeShare,
    Index,
    Moving,
    Rank,
    RunningTotal,
    Share,
    View,
    along_start,
    calendars_of,
)
from dastan.core.model.conditions import LevelName, MemberFilter
from dastan.core.model.parts import MemberPath
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.vocabulary import Place, Vocabulary

_ALONG: dict[str, Literal["rows", "columns"]] = {"down the rows": "rows", "across the columns": "columns"}
_AMONG: dict[str, Literal["rows", "columns"]] = {"among the rows": "rows", "among the columns": "columns"}
_MOVING: dict[str, Literal["average", "sum"]] = {"moving average of": "average", "moving sum of": "sum"}
_EACH = "in each group"


@dataclass(frozen=True, slots=True)
class Names:
    """Writes the names that views have: of levels, dimensions, measures, and members with their hierarchies.

    `calendar` is the one that is meant where none is named.
    """

    level: Callable[[LevelName], str]
    dimension: Callable[[str], str]
    member: Callable[[str, str, MemberPath], str]
    measure: Callable[[str], str]
    calendar: str


def write_view(view: View, names: Names) -> str:
    """A view in words that can be read back."""
    match view:
        case Share():
            if view.level is not None or view.of == "level":
                return f"share of the {names.level(view.level)}" if view.level is not None else ""
            return f"share of {OF_WORDS[view.of]}"
        case Change():
            start = CHANGE_STARTS[view.shows]
            if view.on == "member":
                return f"{start} {names.member(view.dimension, view.hierarchy or '', view.path)}"
            along = f" along {names.dimension(view.dimension)}" if view.dimension != names.calendar else ""
            return f"{start} {SAME_PART if view.same_part else ''}{EARLIER_WORDS[view.on]}{along}"
        case RunningTotal() | Moving() | Index():
            way = next(words for words, along in _ALONG.items() if along == view.along)
            return f"{along_start(view)} {way}{f' {_EACH}' if view.restarts else ''}"
        case Rank() | CumulativeShare():
            among = next(words for words, along in _AMONG.items() if along == view.along)
            return f"{along_start(view)} {among}{f' {_EACH}' if view.restarts else ''}"
        case Beside():
            return f"{BESIDE_STARTS[view.shows]} {names.measure(view.measure)}"
        case _:
            assert_never(view)


def read_view(
    scan: Scanner,
    vocabulary: Vocabulary,
    level_of_place: Callable[[], tuple[Place, str | None]],
    level_only: Callable[[], tuple[Place, str | None]],
    members: Callable[[], MemberFilter],
    measure: Callable[[], str],
) -> View:
    """What `write_view` wrote, or a level by its name alone. Raises MissError."""

    def share() -> View:
        scan.take("share of")

        def named() -> View:
            return Share(of=scan.any_of({words: of for of, words in OF_WORDS.items()}))

        def level() -> View:
            scan.take("the")
            own, name = scan.longest_of(level_of_place, level_only)
            return Share(of="level", level=LevelName(dimension=own[0], hierarchy=own[1], level=name or ""))

        return scan.longest_of(named, level)

    def on_member() -> View:
        shows = scan.any_of({words: each for each, words in CHANGE_STARTS.items()})
        found = members()
        if len(found.members) != 1 or found.level is not None or found.prompt is not None:
            raise MissError
        known = vocabulary.members(found.dimension, found.hierarchy)
        path = found.members[0]
        code = known.find(path)
        caption = known.levels[len(path) - 1].captions[code] if code is not None else ""
        return Change(
            on="member", dimension=found.dimension, hierarchy=found.hierarchy, path=path, caption=caption, shows=shows
        )

    def change() -> View:
        calendars = calendars_of(vocabulary.model)
        if not calendars:
            raise MissError
        shows = scan.any_of({words: each for each, words in CHANGE_STARTS.items()})
        same_part = scan.has(SAME_PART.strip())
        on = scan.any_of({words: each for each, words in EARLIER_WORDS.items()})
        name = calendars[0]
        if scan.has("along"):
            name = scan.first_of(lambda: scan.name(vocabulary.dimensions, "a calendar"), scan.technical)
        return Change(on=on, dimension=name, same_part=same_part, shows=shows)

    def running() -> View:
        scan.take("running total")
        return RunningTotal(along=scan.any_of(_ALONG), restarts=scan.has(_EACH))

    def moving() -> View:
        shows = scan.any_of(_MOVING)
        count = scan.number()
        if not isinstance(count, int):
            raise MissError
        return Moving(along=scan.any_of(_ALONG), count=count, shows=shows, restarts=scan.has(_EACH))

    def index() -> View:
        scan.take("index")
        return Index(along=scan.any_of(_ALONG), restarts=scan.has(_EACH))

    def rank() -> View:
        scan.take("rank")
        return Rank(along=scan.any_of(_AMONG), restarts=scan.has(_EACH))

    def beside() -> View:
        shows = scan.any_of({words: each for each, words in BESIDE_STARTS.items()})
        return Beside(measure=measure(), shows=shows)

    def cumulative() -> View:
        scan.take("cumulative share")
        return CumulativeShare(along=scan.any_of(_AMONG), restarts=scan.has(_EACH))

    return scan.longest_of(share, change, on_member, running, moving, index, rank, cumulative, beside)
