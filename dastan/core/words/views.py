"""Views of a measure in words: "share of the row", "change in per cent on the year before", and back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, assert_never

from dastan.core.analysis.views import (
    CHANGE_STARTS,
    EARLIER_WORDS,
    OF_WORDS,
    Change,
    Rank,
    RunningTotal,
    Share,
    View,
    calendars_of,
)
from dastan.core.model.conditions import LevelName
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.vocabulary import Place, Vocabulary

_ALONG: dict[str, Literal["rows", "columns"]] = {"down the rows": "rows", "across the columns": "columns"}
_AMONG: dict[str, Literal["rows", "columns"]] = {"among the rows": "rows", "among the columns": "columns"}
_EACH = "in each group"


def write_view(view: View, level: Callable[[LevelName], str], dimension: Callable[[str], str], first: str) -> str:
    """A view in words that can be read back.

    Args: `level` and `dimension` write their names; `first` is the calendar that is meant where none is named.
    """
    match view:
        case Share():
            if view.level is not None or view.of == "level":
                return f"share of the {level(view.level)}" if view.level is not None else ""
            return f"share of {OF_WORDS[view.of]}"
        case Change():
            along = f" along {dimension(view.dimension)}" if view.dimension != first else ""
            return f"{CHANGE_STARTS[view.shows]} {EARLIER_WORDS[view.on]}{along}"
        case RunningTotal():
            way = next(words for words, along in _ALONG.items() if along == view.along)
            return f"running total {way}{f' {_EACH}' if view.restarts else ''}"
        case Rank():
            among = next(words for words, along in _AMONG.items() if along == view.along)
            return f"rank {among}{f' {_EACH}' if view.restarts else ''}"
        case _:
            assert_never(view)


def read_view(
    scan: Scanner,
    vocabulary: Vocabulary,
    level_of_place: Callable[[], tuple[Place, str | None]],
    level_only: Callable[[], tuple[Place, str | None]],
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

    def change() -> View:
        calendars = calendars_of(vocabulary.model)
        if not calendars:
            raise MissError
        shows = scan.any_of({words: each for each, words in CHANGE_STARTS.items()})
        on = scan.any_of({words: each for each, words in EARLIER_WORDS.items()})
        name = calendars[0]
        if scan.has("along"):
            name = scan.first_of(lambda: scan.name(vocabulary.dimensions, "a calendar"), scan.technical)
        return Change(on=on, dimension=name, shows=shows)

    def running() -> View:
        scan.take("running total")
        return RunningTotal(along=scan.any_of(_ALONG), restarts=scan.has(_EACH))

    def rank() -> View:
        scan.take("rank")
        return Rank(along=scan.any_of(_AMONG), restarts=scan.has(_EACH))

    return scan.longest_of(share, change, running, rank)
