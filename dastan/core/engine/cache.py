"""Keeps answered requests, so that going back, opening, closing and turning need no second scan.

Two things beyond remembering. A request whose groups follow from finer ones that are kept is added up from them. And a
scan costs hardly more at the finest levels of its hierarchies than at those that were asked for, as long as the
groups are few beside the records; so they are asked for at once, and every step down, up or into a member after that
is added up from what is there.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from threading import Lock

import numpy as np

from dastan.core.engine.aggregates import COUNT
from dastan.core.engine.grouping import find_rows
from dastan.core.engine.rolling import Members, Rolled, finer_level, rolled_up
from dastan.core.engine.waist import (
    Condition,
    Conditions,
    Groups,
    GroupSet,
    Joined,
    LevelRef,
    MemberSet,
    Not,
    Request,
    Rights,
)
from dastan.core.model.reach import Grain

CUBE_LIMIT = 1 << 17
"""So many possible groups are asked for at once where fewer were wanted: their sums stay in a processor's cache."""

KEPT = 2_000
"""So many requests are kept at most: each new one is held against them."""


class GroupCache:
    """The groups of the latest requests, up to a size in bytes. Safe for threads.

    A request carries its reader's rights: what is kept serves all readers with the very same, and nobody else.

    Args: `group` answers a request, as a source does; `members` are its hierarchies.
    """

    def __init__(self, group: Callable[[Request], Groups], members: Members, limit_bytes: int = 256 * 2**20) -> None:
        self._group = group
        self._members = cache(members)
        self._limit = limit_bytes
        self._size = 0
        self._kept: OrderedDict[Request, Groups] = OrderedDict()
        self._alike: dict[tuple[Grain, Rights], dict[Request, frozenset[tuple[str, str]]]] = {}
        """The requests kept for each grain and reader, with the hierarchies that they are grouped by."""
        self._lock = Lock()

    def group(self, request: Request) -> Groups:
        """The groups of a request, from memory where they are there, or follow from what is there."""
        request = replace(request, rights=request.rights.alone)
        found = self._remembered(request)
        if found is not None:
            return found
        if not _adds_up(request):
            groups = self._group(request)
            for levels, along in groups.along.items():
                self._keep(replace(request, levels=levels), along)
            return self._keep(request, replace(groups, along={}))
        finer = self._finer(request)
        if finer is None:
            wider = _deepened(request, self._members)
            groups = self._keep(wider, self._group(wider))
            if wider == request:
                return groups
            finer = (wider, groups)
        return self._keep(request, rolled(*finer, request, self._members))

    def _remembered(self, request: Request) -> Groups | None:
        with self._lock:
            found = self._kept.get(request)
            if found is not None:
                self._kept.move_to_end(request)
            return found

    def _keep(self, request: Request, groups: Groups) -> Groups:
        with self._lock:
            if request not in self._kept:
                self._kept[request] = groups
                self._size += _size_of(groups)
                alike = self._alike.setdefault((request.grain, request.rights), {})
                alike[request] = _hierarchies(request)
            while len(self._kept) > KEPT or (self._size > self._limit and len(self._kept) > 1):
                dropped, own = self._kept.popitem(last=False)
                self._size -= _size_of(own)
                alike = self._alike[dropped.grain, dropped.rights]
                del alike[dropped]
                if not alike:
                    del self._alike[dropped.grain, dropped.rights]
        return groups

    def _finer(self, request: Request) -> tuple[Request, Groups] | None:
        """The smallest of what is kept from which a request can be added up."""
        wanted = _hierarchies(request)
        with self._lock:
            alike = self._alike.get((request.grain, request.rights), {})
            kept = [(each, self._kept[each]) for each, own in alike.items() if own >= wanted]
        for each, groups in sorted(kept, key=lambda one: len(one[1])):
            if covers(each, request, self._members):
                self._remembered(each)  # what is added up from is still in use
                return each, groups
        return None


def _hierarchies(request: Request) -> frozenset[tuple[str, str]]:
    return frozenset((each.dimension, each.hierarchy) for each in request.levels)


def covers(finer: Request, request: Request, members: Members) -> bool:
    """Whether the groups of one request add up to those of another.

    They are of the same records, but for conditions on members that the finer groups tell apart.
    """
    if finer.grain != request.grain or finer.rights != request.rights:
        return False
    if not set(request.aggregates) <= set(finer.aggregates) or not _adds_up(request):
        return False
    for each in finer.levels:
        if members(each.dimension, each.hierarchy).spread is not None and each not in request.levels:
            return False  # a record stands in several sets of a list, so that they never add up
    more = _more(finer, request)
    if more is None:
        return False
    return all(finer_level(each, finer.levels, members) is not None for each in request.levels) and all(
        _tells_apart(each, finer.levels, members) for each in more
    )


def rolled(finer: Request, groups: Groups, request: Request, members: Members) -> Groups:
    """A request's groups from those of a finer one that covers it."""
    kept = np.ones(len(groups), np.bool_)
    for each in _more(finer, request) or ():
        kept &= _holds(each, finer, groups, members)
    chosen = np.flatnonzero(kept)
    count, is_all = len(chosen), len(chosen) == len(groups)
    levels = []
    for wanted in request.levels:
        source = finer_level(wanted, finer.levels, members)
        assert source is not None
        known = members(wanted.dimension, wanted.hierarchy)
        codes = groups.codes[finer.levels.index(source)]
        depths = known.depth_of(source.level), known.depth_of(wanted.level)
        levels.append(Rolled(codes if is_all else codes[chosen], known, *depths))
    values = [groups.values[finer.aggregates.index(each)] for each in request.aggregates]
    return rolled_up(levels, request.aggregates, values if is_all else [each.take(chosen) for each in values], count)


def _holds(condition: Condition, finer: Request, groups: Groups, members: Members) -> np.ndarray:
    """`(n_groups,) bool`: for which groups a condition holds that they tell apart."""
    match condition:
        case MemberSet(dimension, hierarchy, paths, is_kept):
            level = next(each for each in finer.levels if (each.dimension, each.hierarchy) == (dimension, hierarchy))
            known = members(dimension, hierarchy)
            depth = known.depth_of(level.level)
            allowed = np.zeros(len(known.levels[depth]), np.bool_)
            for path in paths:
                code = known.find(path)
                if code is not None:
                    allowed |= known.at_depth(np.arange(len(allowed)), depth, len(path) - 1) == code
            return np.asarray(allowed[groups.codes[finer.levels.index(level)]] == is_kept)
        case GroupSet(levels):
            codes, rooms = [], []
            for wanted in levels:
                source = finer_level(wanted, finer.levels, members)
                assert source is not None
                known = members(wanted.dimension, wanted.hierarchy)
                own, depth = groups.codes[finer.levels.index(source)], known.depth_of(wanted.level)
                codes.append(known.at_depth(own, known.depth_of(source.level), depth))
                rooms.append(len(known.levels[depth]))
            wide = np.column_stack(codes) if codes else np.zeros((len(groups), 0), np.int32)
            return find_rows(wide, condition.codes, rooms) >= 0
        case Not(part):
            return ~_holds(part, finer, groups, members)
        case Joined(join, parts):
            found = [_holds(each, finer, groups, members) for each in parts]
            if not found:
                return np.full(len(groups), join == "all")
            return np.asarray(np.all(found, axis=0) if join == "all" else np.any(found, axis=0))
        case _:
            raise AssertionError(condition)


def _adds_up(request: Request) -> bool:
    return all(each.rolls_up for each in request.aggregates)


def _more(finer: Request, request: Request) -> Conditions | None:
    """What holds for a request beyond what holds for the finer one; None where it is not all of that one's."""
    rest = list(request.condition)
    for each in finer.condition:
        if each not in rest:
            return None
        rest.remove(each)
    return tuple(rest)


def _tells_apart(condition: Condition, levels: tuple[LevelRef, ...], members: Members) -> bool:
    """Whether groups by some levels lie either wholly inside a condition or wholly outside."""
    match condition:
        case Not(part):
            return _tells_apart(part, levels, members)
        case Joined(_, parts):
            return all(_tells_apart(each, levels, members) for each in parts)
        case GroupSet(wanted):
            return all(finer_level(each, levels, members) is not None for each in wanted)
        case MemberSet(dimension, hierarchy, paths, _, None):
            own = [each for each in levels if (each.dimension, each.hierarchy) == (dimension, hierarchy)]
            known = members(dimension, hierarchy)
            deepest = max((len(path) for path in paths), default=1)
            return bool(own) and known.spread is None and deepest - 1 <= known.depth_of(own[0].level)
        case _:
            return False


def _deepened(request: Request, members: Members) -> Request:
    """The request at the finest levels of its hierarchies, the first that fit one after another."""
    known = [members(each.dimension, each.hierarchy) for each in request.levels]
    if any(each.spread is not None for each in known):
        return request
    levels = list(request.levels)
    for place, own in enumerate(known):
        for depth in range(len(own.levels) - 1, own.depth_of(levels[place].level), -1):
            others = [
                len(one.levels[one.depth_of(level.level)])
                for at, (one, level) in enumerate(zip(known, levels, strict=True))
                if at != place
            ]
            if len(own.levels[depth]) * int(np.prod(others, dtype=np.int64)) <= CUBE_LIMIT:
                levels[place] = levels[place]._replace(level=own.levels[depth].name)
                break
    # With the count of records, what follows can tell which groups there are.
    return replace(request, levels=tuple(levels), aggregates=tuple(dict.fromkeys((COUNT, *request.aggregates))))


def _size_of(groups: Groups) -> int:
    return sum(each.nbytes for each in groups.codes) + sum(
        each.data.nbytes + each.present.nbytes for each in groups.values
    )
