"""Reads a view of a measure from words: what `view_words` writes, or a level by its name alone."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal, TypeVar

from dastan.core.analysis.view_words import (
    ALONG_WORDS,
    AMONG_WORDS,
    BALANCE_WORDS,
    BESIDE_STARTS,
    CHANGE_STARTS,
    EARLIER_WORDS,
    OF_WORDS,
    ONE_BEFORE,
    RESTARTS,
    SAME_PART,
    TO_DATE,
)
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
    View,
    calendars_of,
)
from dastan.core.model.conditions import LevelName, MemberFilter
from dastan.core.words.names import NameReader
from dastan.core.words.scanner import MissError

_MOVING: dict[str, Literal["average", "sum"]] = {"moving average of": "average", "moving sum of": "sum"}


def read_view(names: NameReader, member: Callable[[], MemberFilter]) -> View:
    """A view of a measure. Args: `member` reads one member. Raises MissError."""
    scan = names.scanner

    def level_name() -> LevelName:
        dimension, hierarchy, level = scan.longest_of(names.level_of_place, names.level_near)
        return LevelName(dimension=dimension, hierarchy=hierarchy, level=level)

    def share() -> View:
        scan.take("share of")

        def named() -> View:
            of: Literal["whole", "row", "column", "parent", "parent_column"] = scan.any_of(_meaning(OF_WORDS))
            return Share(of=of)

        def level() -> View:
            scan.take("the")
            return Share(of="level", level=level_name())

        return scan.longest_of(named, level)

    def on_member() -> View:
        shows = scan.any_of(_meaning(CHANGE_STARTS))
        found = member()
        if len(found.members) != 1 or found.level is not None or found.prompt is not None or found.list is not None:
            raise MissError
        place = {"dimension": found.dimension, "hierarchy": found.hierarchy, "path": found.members[0]}
        return Change(on="member", **place, shows=shows)  # type: ignore[arg-type]

    def change() -> View:
        calendars = calendars_of(names.vocabulary.model)
        if not calendars:
            raise MissError
        shows = scan.any_of(_meaning(CHANGE_STARTS))
        same_part = scan.has(SAME_PART)
        on = scan.any_of(_meaning(EARLIER_WORDS))
        name = calendars[0]
        if scan.has("along"):
            name = names.dimension()
        return Change(on=on, dimension=name, same_part=same_part, shows=shows)

    def to_date() -> View:
        scan.take(TO_DATE)
        return ToDate(level=level_name())

    def running() -> View:
        scan.take("running total")
        return RunningTotal(along=scan.any_of(_meaning(ALONG_WORDS)), restarts=scan.has(RESTARTS))

    def moving() -> View:
        shows = scan.any_of(_MOVING)
        count = scan.number()
        if not isinstance(count, int):
            raise MissError
        return Moving(along=scan.any_of(_meaning(ALONG_WORDS)), count=count, shows=shows, restarts=scan.has(RESTARTS))

    def index() -> View:
        scan.take("index")
        return Index(along=scan.any_of(_meaning(ALONG_WORDS)), restarts=scan.has(RESTARTS))

    def rank() -> View:
        scan.take("rank")
        return Rank(along=scan.any_of(_meaning(AMONG_WORDS)), restarts=scan.has(RESTARTS))

    def step() -> View:
        shows = scan.any_of(_meaning(CHANGE_STARTS))
        scan.take(ONE_BEFORE)
        return Step(along=scan.any_of(_meaning(ALONG_WORDS)), shows=shows, restarts=scan.has(RESTARTS))

    def balance() -> View:
        return Balance(shows=scan.any_of(_meaning(BALANCE_WORDS)))

    def beside() -> View:
        shows = scan.any_of(_meaning(BESIDE_STARTS))
        return Beside(measure=names.measure(), shows=shows)

    def cumulative() -> View:
        scan.take("cumulative share")
        return CumulativeShare(along=scan.any_of(_meaning(AMONG_WORDS)), restarts=scan.has(RESTARTS))

    return scan.longest_of(
        share, change, to_date, on_member, running, moving, index, rank, cumulative, step, balance, beside
    )


_Value = TypeVar("_Value")


def _meaning(words: Mapping[_Value, str]) -> dict[str, _Value]:
    """What some words mean, from the words that things are written by."""
    return {each: own for own, each in words.items()}
