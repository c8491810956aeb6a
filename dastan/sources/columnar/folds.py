"""What does not add up, of each group: the least and the greatest value, and the variance. Each takes one more pass
over the blocks than what is counted and added up."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from threading import Lock

import numpy as np

from dastan.core.engine.aggregates import too_large
from dastan.core.formula.bases import BaseAggregate
from dastan.core.values import Values
from dastan.sources.columnar import block_kernels, blocks
from dastan.sources.columnar.blocks import Level
from dastan.sources.columnar.scan import Run, Scan, Summand

FOLDED = ("min", "max", "variance")
_EVERY = np.zeros(0, np.bool_)
"""Says of the values of a block that all are there."""
_Fold = Callable[[np.ndarray, np.ndarray, np.ndarray], None]
"""Takes the keys of some records, their values, and which of these are there."""


def folded(
    scan: Scan, levels: Sequence[Level], aggregates: Sequence[BaseAggregate], of: Sequence[tuple[Summand, int | None]]
) -> tuple[tuple[np.ndarray, ...], list[Values]]:
    """The codes of the groups that have records, `(n,)` for each level, and what each aggregate comes to in them.

    Args: `of` has for each aggregate its values as they would be added up, and their scale.
    Raises: LimitError where a variance leaves all bounds.
    """
    summands = list({id(each): each for each, _ in of}.values())
    totals = scan.add_up(levels, summands)
    room = int(np.prod([each.size for each in levels], dtype=np.int64))
    key = np.zeros(len(totals.counts), np.int64)
    for own, level in zip(totals.codes, levels, strict=True):
        key = key * level.size + own
    found: list[Values] = []
    for aggregate, (summand, scale) in zip(aggregates, of, strict=True):
        at = next(place for place, each in enumerate(summands) if each is summand)
        present, sums = totals.present[at], totals.sums[at]
        if aggregate.kind == "variance":
            found.append(_variance(scan, levels, room, key, summand, scale, sums, present))
            if not np.isfinite(found[-1].data).all():
                raise too_large(f"“{aggregate.argument}”")
        else:
            best = _extreme(scan, levels, room, summand, is_least=aggregate.kind == "min")[key]
            has = present > 0
            found.append(Values(np.where(has, best, best.dtype.type(0)), scale, has))
    return totals.codes, found


def _extreme(scan: Scan, levels: Sequence[Level], room: int, summand: Summand, *, is_least: bool) -> np.ndarray:
    kind = np.dtype(np.int64 if summand.is_whole else np.float64)
    furthest = (np.iinfo(np.int64).max, np.iinfo(np.int64).min) if summand.is_whole else (np.inf, -np.inf)
    worst = furthest[0] if is_least else furthest[1]
    run = block_kernels.keep_least if is_least else block_kernels.keep_greatest

    def begin() -> tuple[np.ndarray, _Fold]:
        best = np.full(room, worst, kind)
        return best, lambda key, data, present: run(key, data.astype(kind, copy=False), present, best)

    parts = _passed(scan, levels, summand, begin)
    choose = np.minimum if is_least else np.maximum
    return np.asarray(choose.reduce([np.full(room, worst, kind), *parts]))


def _variance(
    scan: Scan, levels: Sequence[Level], room: int, key: np.ndarray, summand: Summand, scale: int | None,
    sums: np.ndarray, present: np.ndarray,
) -> Values:  # fmt: skip
    """The sample variance: how far each value lies from the mean of its group, squared; empty for fewer than two."""
    unit = np.float64(10 ** (scale or 0))
    mean = np.zeros(room)
    mean[key] = np.divide(sums / unit, present, out=np.zeros(len(key)), where=present > 0)

    def begin() -> tuple[np.ndarray, _Fold]:
        squares = np.zeros((2, room))

        def fold(key: np.ndarray, data: np.ndarray, is_there: np.ndarray) -> None:
            block_kernels.add_squares(key, data / unit, is_there, mean, squares[0], squares[1])

        return squares, fold

    parts = _passed(scan, levels, summand, begin)
    total = np.sum([each[0] + each[1] for each in parts], axis=0) if parts else np.zeros(room)
    has = present > 1
    return Values(np.divide(total[key], present - 1, out=np.zeros(len(key)), where=has), None, has)


def _passed(
    scan: Scan, levels: Sequence[Level], summand: Summand, begin: Callable[[], tuple[np.ndarray, _Fold]]
) -> list[np.ndarray]:
    """What the workers have after a pass: of each its own part."""
    parts: list[np.ndarray] = []
    lock = Lock()

    def begin_one() -> Callable[[Run, np.ndarray | None], None]:
        part, fold = begin()
        buffer = np.zeros(blocks.BLOCK, np.uint32)
        with lock:
            parts.append(part)

        def take(run: Run, chosen: np.ndarray | None) -> None:
            size = run.end - run.first if chosen is None else len(chosen)
            key = blocks.keys(levels, run.first, run.end, buffer[:size], chosen)
            data, present = summand.data[run.first : run.end], summand.present
            is_there = _EVERY if present is None else present[run.first : run.end]
            if chosen is not None:
                data, is_there = data[chosen], is_there if present is None else is_there[chosen]
            fold(key, data, is_there)

        return take

    scan.each_block(begin_one)
    return parts
