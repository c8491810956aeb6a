"""What does not add up, of each group: the least and the greatest value, and the variance. All of them together take
one more pass over the blocks than what is counted and added up."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from threading import Lock
from typing import Protocol

import numpy as np

from dastan.core.formula.bases import BaseAggregate
from dastan.core.values import Values
from dastan.sources.columnar import block_kernels, blocks
from dastan.sources.columnar.blocks import Level
from dastan.sources.columnar.moments import Moments, mean_of
from dastan.sources.columnar.scan import Run, Scan, Summand

FOLDED = ("min", "max", "variance")
_EVERY = np.zeros(0, np.bool_)
"""Says of the values of a block that all are there."""
_MOST_SQUARES = 2**62
"""Squares of whole numbers are added up exactly where their sum stays below."""


class _Fold(Protocol):
    """What one worker keeps of each group, `(room,)` in each of its parts, from the blocks that it is given."""

    def take(self, key: np.ndarray, data: np.ndarray, present: np.ndarray) -> None:
        """Takes the keys of some records, their values, and which of these are there."""


@dataclass(frozen=True, slots=True, eq=False)
class Folded:
    """The groups that have records: their codes by level, `(n,)` each; the place of each among all possible groups; and
    for each aggregate its values or, of a variance, what it is worked out from."""

    codes: tuple[np.ndarray, ...]
    places: np.ndarray
    found: tuple[Values | Moments, ...]


def folded(
    scan: Scan, levels: Sequence[Level], aggregates: Sequence[BaseAggregate], of: Sequence[tuple[Summand, int | None]]
) -> Folded:
    """Folds the values of some records by group.

    Args: `of` has for each aggregate its values as they would be added up, and their scale.
    """
    summands = list({id(each): each for each, _ in of}.values())
    totals = scan.add_up(levels, summands)
    room = int(np.prod([each.size for each in levels], dtype=np.int64))
    places = np.zeros(len(totals.counts), np.int64)
    for own, level in zip(totals.codes, levels, strict=True):
        places = places * level.size + own
    added = {id(each): own for each, own in zip(summands, zip(totals.present, totals.sums, strict=True), strict=True)}
    wanted: dict[tuple[int, bool], tuple[Summand, Callable[[], _Fold]]] = {}
    for aggregate, (summand, scale) in zip(aggregates, of, strict=True):
        is_variance = aggregate.kind == "variance"
        begin: Callable[[], _Fold] = partial(_Ends, room, summand.is_whole)
        if is_variance and _has_exact_squares(summand):
            begin = partial(_WholeSquares, room)
        elif is_variance:
            present, sums = added[id(summand)]
            mean = np.zeros(room)
            mean[places] = mean_of(sums, present, scale)
            begin = partial(_Away, room, mean, scale)
        wanted[id(summand), is_variance] = summand, begin
    parts = dict(zip(wanted, _passed(scan, levels, list(wanted.values())), strict=True))
    found: list[Values | Moments] = []
    for aggregate, (summand, scale) in zip(aggregates, of, strict=True):
        kept, (present, sums) = parts[id(summand), aggregate.kind == "variance"], added[id(summand)]
        if aggregate.kind == "variance":
            found.append(_moments(kept, places, Moments(present, sums, scale)))
        else:
            best = _end(kept, places, summand.is_whole, is_least=aggregate.kind == "min")
            has = present > 0
            found.append(Values(np.where(has, best, best.dtype.type(0)), scale, has))
    return Folded(totals.codes, places, tuple(found))


def _has_exact_squares(summand: Summand) -> bool:
    """Whether the squares of all values together stay within a whole number of 64 bits."""
    furthest = summand.most // max(len(summand.data), 1)
    return summand.is_whole and furthest * summand.most < _MOST_SQUARES


def _end(kept: list[_Fold], places: np.ndarray, is_whole: bool, *, is_least: bool) -> np.ndarray:
    own = [each for each in kept if isinstance(each, _Ends)]
    if not own:  # no block had a record
        return np.zeros(len(places), np.int64 if is_whole else np.float64)
    choose = np.minimum if is_least else np.maximum
    return np.asarray(choose.reduce([each.least if is_least else each.greatest for each in own])[places])


def _moments(kept: list[_Fold], places: np.ndarray, added: Moments) -> Moments:
    exact = [each.squares for each in kept if isinstance(each, _WholeSquares)]
    if exact:
        return replace(added, squares=np.sum(exact, axis=0)[places])
    away = [each.squares + each.lost for each in kept if isinstance(each, _Away)]
    return replace(added, away=np.sum(away, axis=0)[places] if away else np.zeros(len(places)))


class _Ends:
    """The least and greatest value of each group."""

    def __init__(self, room: int, is_whole: bool) -> None:
        whole = np.iinfo(np.int64)
        first, last = (whole.min, whole.max) if is_whole else (-np.inf, np.inf)
        kind = np.dtype(np.int64 if is_whole else np.float64)
        self.least, self.greatest = np.full(room, last, kind), np.full(room, first, kind)

    def take(self, key: np.ndarray, data: np.ndarray, present: np.ndarray) -> None:
        block_kernels.keep_ends(key, data, present, self.least, self.greatest)


class _WholeSquares:
    """The squares of the whole numbers of each group, added up exactly."""

    def __init__(self, room: int) -> None:
        self.squares = np.zeros(room, np.int64)

    def take(self, key: np.ndarray, data: np.ndarray, _: np.ndarray) -> None:
        block_kernels.add_whole_squares(key, data, self.squares)


class _Away:
    """How far each value lies from the mean of its group, squared and added up; and what rounding lost of it."""

    def __init__(self, room: int, mean: np.ndarray, scale: int | None) -> None:
        self.mean, self.unit = mean, 10.0 ** (scale or 0)
        self.squares, self.lost = np.zeros(room), np.zeros(room)

    def take(self, key: np.ndarray, data: np.ndarray, present: np.ndarray) -> None:
        values = data if self.unit == 1 and data.dtype == np.float64 else data / self.unit
        block_kernels.add_squares(key, values, present, self.mean, self.squares, self.lost)


def _passed(
    scan: Scan, levels: Sequence[Level], wanted: Sequence[tuple[Summand, Callable[[], _Fold]]]
) -> list[list[_Fold]]:
    """What the workers have after a pass, for each that is wanted: of each worker its own."""
    parts: list[list[_Fold]] = [[] for _ in wanted]
    lock = Lock()

    def begin_one() -> Callable[[Run, np.ndarray | None], None]:
        folds = [(summand, begin()) for summand, begin in wanted]
        buffer = np.zeros(blocks.BLOCK, np.uint32)
        with lock:
            for part, (_, fold) in zip(parts, folds, strict=True):
                part.append(fold)

        def take(run: Run, chosen: np.ndarray | None) -> None:
            size = run.end - run.first if chosen is None else len(chosen)
            key = blocks.keys(levels, run.first, run.end, buffer[:size], chosen)
            for summand, fold in folds:
                data, present = summand.data[run.first : run.end], summand.present
                is_there = _EVERY if present is None else present[run.first : run.end]
                if chosen is not None:
                    data, is_there = data[chosen], is_there if present is None else is_there[chosen]
                fold.take(key, data, is_there)

        return take

    scan.each_block(begin_one)
    return parts
