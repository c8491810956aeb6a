"""Scans a fact a block at a time, on every processor: choose rows, make keys, add up.

Blocks in which no record can be meant are skipped by the least and greatest code that each holds; so records that
stand in order of date are hardly touched by a question about one year. What is added up is dense: one place for each
possible group. Questions that could have too many groups for that, or need more than counts and sums, take the plain
way instead; both give the same numbers, and tests compare them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from threading import Lock
from typing import TypeVar

import numpy as np

from dastan.core.engine import kernels
from dastan.core.engine.grouping import unpacked_rows
from dastan.core.engine.stopping import check_here, one_after_another
from dastan.core.values import Values
from dastan.sources.columnar import block_kernels, blocks
from dastan.sources.columnar.blocks import Level, Test
from dastan.sources.columnar.postings import Postings

_T = TypeVar("_T")

DENSE_LIMIT = 1 << 24
"""Beyond so many possible groups, accumulators are not dense."""

FOLD_LIMIT = 1 << 13
"""Up to so many possible groups, the floats of a block are added by themselves first, which is faster and as exact."""


@dataclass(frozen=True, slots=True, eq=False)
class Summand:
    """What is added up: `(n_records,)` float64 or whole numbers in as few bytes as hold them, zero where missing;
    `present` is None where none is missing. No sum of whole numbers is farther from zero than `most`."""

    data: np.ndarray
    present: np.ndarray | None
    most: int = 0

    @property
    def is_whole(self) -> bool:
        """Whether its sums are exact."""
        return self.data.dtype != np.float64


@dataclass(frozen=True, slots=True, eq=False)
class Totals:
    """What was added up for the groups that have records: their codes by level, how many records, and for each summand
    how many it had, and sums. In ascending order of codes."""

    codes: tuple[np.ndarray, ...]
    counts: np.ndarray
    present: list[np.ndarray]
    sums: list[np.ndarray]


RUN = 8
"""Blocks that are chosen from, or added up whole, in one call: fewer, and workers would wait for one another; more, and
a question that was taken back would go on."""


FEW = 32
"""One record in so many is looked at by itself sooner than all are scanned."""


@dataclass(frozen=True, slots=True, eq=False)
class Run:
    """The records from `first` to before `end`, or `some` of them, for which the tests `open` have to be looked at."""

    at: int
    first: int
    end: int
    open: tuple[int, ...]
    some: np.ndarray | None = None

    def __len__(self) -> int:
        return self.end - self.first if self.some is None else len(self.some)


_Work = Callable[[Run, np.ndarray | None], None]
"""Takes a run and its chosen rows, counted from its first; None where all are."""


class Scan:
    """One pass over a fact: the tests that its records have to pass, all of them."""

    def __init__(self, count: int, tests: Sequence[Test], postings: Sequence[Postings] = ()) -> None:
        """Args: `postings` are of the same records, in their own order."""
        self.count = count
        self._tests = tests
        self._postings = postings
        self._spans = [each.span for each in tests]
        verdicts = [each.verdicts() for each in tests]
        self._verdicts = np.array(verdicts, np.int8).reshape(len(tests), -(-count // blocks.BLOCK))
        self.left = np.flatnonzero((self._verdicts > 0).all(axis=0))
        """The blocks in which a record may pass, `(n,) int64`."""

    def rows(self) -> np.ndarray:
        """The records that pass, `(n,) int64`, ascending."""
        found: dict[int, np.ndarray] = {}

        def work(run: Run, chosen: np.ndarray | None) -> None:
            found[run.at] = np.arange(run.first, run.end) if chosen is None else chosen.astype(np.int64) + run.first

        self._run(lambda: work, RUN)
        return one_after_another([found[each] for each in sorted(found)])

    def add_up(self, levels: Sequence[Level], summands: Sequence[Summand]) -> Totals:
        """Counts the records of each group and adds up their summands."""
        room = int(np.prod([each.size for each in levels], dtype=np.int64))
        compact = _Compact.of(levels, summands, room)
        made: list[_Sums] = []
        lock = Lock()

        def begin() -> _Work:
            own = _Sums(room, levels, summands, self.count)
            with lock:
                made.append(own)
            return own.add if compact is None else compact.adding(own)

        self._run(begin, 1 if compact is None else RUN)
        return _merged(made or [_Sums(room, levels, summands, self.count)], levels, summands)

    def each_block(self, begin: Callable[[], Callable[[Run, np.ndarray | None], None]]) -> None:
        """Gives every block with its chosen rows, counted from its first record, to some worker: None where all are.

        Args: `begin` makes what one worker gives them to.
        """
        self._run(begin, 1)

    def _runs(self, most: int) -> list[Run]:
        """What is left: runs of at most so many blocks, or the records in them that postings tell."""
        if not len(self.left):
            return []
        posted = self._posted()
        if posted is None:
            return [Run(at, *each) for at, each in enumerate(self._alike(most))]
        told, records = posted
        runs: list[Run] = []
        for first, end, open_ in self._alike(len(self.left)):
            own = records[slice(*np.searchsorted(records, np.array([first, end], np.uint32)))]
            untold = tuple(at for at in open_ if at not in told)
            for start in range(0, len(own), blocks.BLOCK):
                runs.append(Run(len(runs), 0, self.count, untold, own[start : start + blocks.BLOCK]))
        return runs

    def _alike(self, most: int) -> Iterator[tuple[int, int, tuple[int, ...]]]:
        """Stretches of what is left, of at most so many blocks in which the same tests have to be looked at: their
        first record, that after their last, and the tests."""
        left, is_open = self.left, self._verdicts[:, self.left] == 1
        differs = (np.diff(left) != 1) | (is_open[:, 1:] != is_open[:, :-1]).any(axis=0)
        for part in np.split(np.arange(len(left)), np.flatnonzero(differs) + 1):
            for some in np.split(part, range(most, len(part), most)):
                first, last = int(left[some[0]]), int(left[some[-1]])
                end = min((last + 1) * blocks.BLOCK, self.count)
                yield first * blocks.BLOCK, end, tuple(np.flatnonzero(is_open[:, some[0]]).tolist())

    def _posted(self) -> tuple[set[int], np.ndarray] | None:
        """The tests that postings answer, and the records that these leave; None where a scan is as good."""
        fewest = len(self.left) * blocks.BLOCK // FEW
        first, end = int(self.left[0]) * blocks.BLOCK, min(int(self.left[-1] + 1) * blocks.BLOCK, self.count)
        best = None
        allowed = {each.dimension: each.allowed for each in self._tests}
        for each in self._postings:
            groups = each.groups(allowed) if each.sizes.keys() & allowed.keys() else None
            if groups is None:
                continue
            # As if they lay evenly: a guess is enough to choose by.
            found = each.count(groups) * (end - first) // self.count
            if found <= fewest:
                best, fewest = (each, groups), found
        if best is None:
            return None
        told = {at for at, each in enumerate(self._tests) if each.dimension in best[0].sizes}
        return told, best[0].of(best[1], first, end)

    def _run(self, begin: Callable[[], _Work], most: int) -> None:
        """Gives every run with its chosen rows to some worker. Ends early where it is taken back."""
        runs, check = self._runs(most), check_here()
        left, lock = iter(runs), Lock()

        def work() -> None:
            own = begin()
            chosen, mask = blocks.room_to_choose(most)
            for run in taken(left, lock):
                check()
                tests, spans = [self._tests[at] for at in run.open], [self._spans[at] for at in run.open]
                if run.some is not None:
                    found = blocks.choose_among(tests, run.some, chosen)
                elif run.open:
                    found = blocks.choose(tests, spans, run.first, run.end, mask, chosen)
                else:
                    own(run, None)
                    continue
                if found:
                    own(run, chosen[:found])

        # Waking another worker takes longer than a block.
        filled = sum(len(each) for each in runs) // blocks.BLOCK
        blocks.together(work, max(1, min(blocks.WORKERS, len(runs), filled)))


def taken(left: Iterator[Run], lock: Lock) -> Iterator[Run]:
    """The runs that one worker takes of those that are left for all."""
    while True:
        with lock:
            run = next(left, None)
        if run is None:
            return
        yield run


MOST_LEVELS, _MOST_SUMMANDS = 3, 4


def as_bytes(levels: Sequence[Level]) -> tuple[tuple[np.ndarray, ...], tuple[int, ...], tuple[int, ...]]:
    """Up to three levels as a kernel takes them: codes as bytes, the width of each code, and sizes."""
    return (
        _padded([each.codes.view(np.uint8) for each in levels], MOST_LEVELS, np.zeros(0, np.uint8)),
        _padded([each.codes.itemsize for each in levels], MOST_LEVELS, 1),
        _padded([each.size for each in levels], MOST_LEVELS, 1),
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Compact:
    """The commonest questions, for they are those that people wait for: a few levels and a few sums, so that one call
    does for a whole run."""

    levels: Sequence[Level]
    summands: Sequence[Summand]

    @classmethod
    def of(cls, levels: Sequence[Level], summands: Sequence[Summand], room: int) -> _Compact | None:
        """None where it is another question."""
        has_floats = not all(each.is_whole for each in summands)
        if len(summands) > _MOST_SUMMANDS or len(levels) > MOST_LEVELS or (has_floats and room > FOLD_LIMIT):
            return None
        return cls(levels, summands)

    def adding(self, own: _Sums) -> _Work:
        """What adds a run to a worker's accumulators."""
        nothing, no_room = np.zeros(0, np.uint8), np.zeros(0, np.int64)
        has = [nothing if each.present is None else each.present.view(np.uint8) for each in self.summands]
        # Floats are added for one run by themselves, and then to those before.
        parts = zip(self.summands, own.sums, own.block, strict=True)
        sums = [whole if each.is_whole else part.view(np.int64) for each, whole, part in parts]
        more = [1 << own.shift if at == own.packed else 0 for at in range(len(self.summands))]
        added = (
            len(self.levels), *as_bytes(self.levels), len(self.summands),
            _padded([each.data.view(np.uint8) for each in self.summands], _MOST_SUMMANDS, nothing),
            _padded([each.data.itemsize if each.is_whole else 0 for each in self.summands], _MOST_SUMMANDS, 1),
            _padded(more, _MOST_SUMMANDS, 0), _padded(has, _MOST_SUMMANDS, nothing),
            _padded(sums, _MOST_SUMMANDS, no_room), _padded(own.present, _MOST_SUMMANDS, no_room), own.counts,
        )  # fmt: skip

        def add(run: Run, chosen: np.ndarray | None) -> None:
            if chosen is None:
                block_kernels.add_run(run.first, run.end, *added)
            else:
                block_kernels.add_run_at(run.first, run.end, chosen, *added)
            own.fold()

        return add


def _padded(own: Sequence[_T], size: int, rest: _T) -> tuple[_T, ...]:
    """As many as a kernel takes."""
    return (*own, *(rest for _ in range(size - len(own))))


class _Sums:
    """One worker's accumulators."""

    def __init__(self, room: int, levels: Sequence[Level], summands: Sequence[Summand], count: int) -> None:
        self._levels = levels
        self._summands = summands
        self._key = np.zeros(blocks.BLOCK, np.uint32)
        self.shift, self.packed = _packing(summands, count)
        self.counts = np.zeros(room if self.packed is None else 0, np.int64)
        self.present = [np.zeros(0 if each.present is None else room, np.int64) for each in summands]
        self.sums = [np.zeros(room, np.int64 if each.is_whole else np.float64) for each in summands]
        self.lost = [np.zeros(0 if each.is_whole else room) for each in summands]
        folds = room <= FOLD_LIMIT
        self.block = [np.zeros(0 if each.is_whole or not folds else room) for each in summands]

    def all(self) -> list[np.ndarray]:
        """Every accumulator."""
        return [self.counts, *self.present, *self.sums, *self.lost]

    def fold(self) -> None:
        """Adds the floats of a run to those before."""
        for at, own in enumerate(self.block):
            if len(own):
                block_kernels.fold_floats(own, self.sums[at], self.lost[at])

    def add(self, run: Run, chosen: np.ndarray | None) -> None:
        """Adds the rows of a run of one block."""
        start, end = run.first, run.end
        size = end - start if chosen is None else len(chosen)
        key = blocks.keys(self._levels, start, end, self._key[:size], chosen)
        if self.packed is None:
            kernels.count_rows(key, self.counts)
        for at, each in enumerate(self._summands):
            data = each.data[start:end]
            if each.present is not None:
                present = each.present[start:end]
                if chosen is None:
                    kernels.count_present(key, present, self.present[at])
                else:
                    block_kernels.count_present_at(key, present, chosen, self.present[at])
            self._add(at, key, data, chosen)

    def _add(self, at: int, key: np.ndarray, data: np.ndarray, chosen: np.ndarray | None) -> None:
        sums, block = self.sums[at], self.block[at]
        if self._summands[at].is_whole:
            more = 1 << self.shift if at == self.packed else 0
            if chosen is None:
                block_kernels.add_whole(key, data, more, sums)
            else:
                block_kernels.add_whole_at(key, data, chosen, more, sums)
        elif len(block):
            if chosen is None:
                block_kernels.add_float(key, data, block)
            else:
                block_kernels.add_float_at(key, data, chosen, block)
            block_kernels.fold_floats(block, sums, self.lost[at])
        elif chosen is None:
            block_kernels.add_float_carefully(key, data, sums, self.lost[at])
        else:
            block_kernels.add_float_carefully_at(key, data, chosen, sums, self.lost[at])


def _packing(summands: Sequence[Summand], count: int) -> tuple[int, int | None]:
    """Which summand's sums can carry the counts in their upper bits, and from which bit on: one update for two."""
    for at, each in enumerate(summands):
        shift = max(each.most, 1).bit_length() + 1
        if each.is_whole and shift + count.bit_length() <= 63:
            return shift, at
    return 0, None


def _merged(made: list[_Sums], levels: Sequence[Level], summands: Sequence[Summand]) -> Totals:
    first = made[0]
    for each in made[1:]:
        for own, other in zip(first.all(), each.all(), strict=True):
            np.add(own, other, out=own)
    for own, lost in zip(first.sums, first.lost, strict=True):
        if len(lost):
            np.add(own, lost, out=own)
    sums = list(first.sums)
    if first.packed is None:
        places = np.flatnonzero(first.counts)
        codes, counts = unpacked_rows(places, [each.size for each in levels]), first.counts[places]
    else:
        codes, counts, sums[first.packed] = _unpacked(sums[first.packed], first.shift, levels)
        is_alone = len(sums) == 1 and summands[0].present is None
        places = np.empty(0, np.int64) if is_alone else _places(codes, levels, len(counts))
    for at, own in enumerate(sums):
        if at != first.packed:
            sums[at] = own[places]
    present = [
        counts if each.present is None else own[places] for each, own in zip(summands, first.present, strict=True)
    ]
    return Totals(codes, counts, present, sums)


def _unpacked(
    both: np.ndarray, shift: int, levels: Sequence[Level]
) -> tuple[tuple[np.ndarray, ...], np.ndarray, np.ndarray]:
    """The codes of the groups that have records, their counts, and the sums that carried them."""
    outer = levels[:-1]
    runs = int(np.prod([each.size for each in outer], dtype=np.int64))
    outer_codes = np.array(unpacked_rows(np.arange(runs), [each.size for each in outer]), np.int32).reshape(
        len(outer), runs
    )
    codes, counts, sums = np.empty((len(levels), len(both)), np.int32), np.empty_like(both), np.empty_like(both)
    found = int(block_kernels.unpack_groups(both, shift, outer_codes, codes, counts, sums))
    return tuple(each[:found] for each in codes), counts[:found], sums[:found]


def _places(codes: tuple[np.ndarray, ...], levels: Sequence[Level], count: int) -> np.ndarray:
    """The places of groups among all that are possible."""
    return np.ravel_multi_index(codes, [each.size for each in levels]) if levels else np.arange(count)


def summand_of(values: Values, count: int) -> Summand | None:
    """What is added up; None where a sum might leave 64 bits, which the plain way notices."""
    is_full = bool(values.present.all())
    data = values.data if is_full else np.where(values.present, values.data, 0)
    present = None if is_full else values.present
    if values.scale is None:
        return Summand(data, present)
    least, greatest = int(data.min(initial=0)), int(data.max(initial=0))
    most = max(-least, greatest) * max(count, 1)
    return None if most >= 2**62 else Summand(smallest_whole(data), present, most)


def values_of(added: Summand, scale: int | None) -> Values:
    """What is added up, as values again."""
    data = added.data.astype(np.int64) if added.is_whole else added.data
    present = added.present if added.present is not None else np.ones(len(data), np.bool_)
    return Values(data, scale, present)


def smallest_whole(numbers: np.ndarray) -> np.ndarray:
    """Whole numbers in as few bytes as hold them."""
    least, greatest = int(numbers.min(initial=0)), int(numbers.max(initial=0))
    kinds = (np.int8, np.int16, np.int32, np.int64)
    return numbers.astype(next(each for each in kinds if -least <= np.iinfo(each).max >= greatest))
