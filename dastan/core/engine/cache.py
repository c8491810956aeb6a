"""Keeps answered requests, so that going back, opening and turning need no second scan."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock

from dastan.core.engine.waist import Groups, Request


class GroupCache:
    """The groups of the latest requests, up to a size in bytes. Safe for threads.

    A request carries its reader's rights, so what one reader may see is never served to another.
    """

    def __init__(self, group: Callable[[Request], Groups], limit_bytes: int = 256 * 2**20) -> None:
        self._group = group
        self._limit = limit_bytes
        self._size = 0
        self._kept: OrderedDict[Request, Groups] = OrderedDict()
        self._lock = Lock()

    def group(self, request: Request) -> Groups:
        """The groups of a request, from memory where they are there."""
        with self._lock:
            found = self._kept.get(request)
            if found is not None:
                self._kept.move_to_end(request)
                return found
        groups = self._group(request)
        with self._lock:
            if request not in self._kept:
                self._kept[request] = groups
                self._size += _size_of(groups)
            while self._size > self._limit and len(self._kept) > 1:
                _, dropped = self._kept.popitem(last=False)
                self._size -= _size_of(dropped)
        return groups


def _size_of(groups: Groups) -> int:
    return sum(each.nbytes for each in groups.codes) + sum(
        each.data.nbytes + each.present.nbytes for each in groups.values
    )
