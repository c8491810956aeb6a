"""What was made of a model's tables, by key: in memory for as long as the model is open, mapped from beside its folder,
or for a while, where it is large and soon made again."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock, RLock
from typing import TypeVar

from dastan.sources.columnar.prepared import MISSING, Prepared, size_of

_T = TypeVar("_T")
Key = tuple[object, ...]
"""Begins with a word for what it is the key of."""

CODED = ("column", "own", "pointers", "way", "summand", "dates")
"""What the records come to in numbers and codes: all else is worked out from it."""
WORKED_OUT = ("newest", "summary", "zones", "postings", "level", "in order", "values in order", "ordered")
"""What takes a pass over the records, and is kept as far as there is room for it; where there is too little, the last
of these are let go first."""
_LASTING = (*CODED, *WORKED_OUT)
ROOM = 1.0
"""So many times the size of what is coded may be kept of what is worked out from it."""
BRIEFLY_BYTES = 512 * 2**20


class Kept:
    """Safe for threads: its dictionaries are changed under one lock, and one thing is made by one thread, under a lock
    of its own.

    Args: `room` is how much of what is worked out is kept beside the folder, times what is coded.
    """

    def __init__(self, prepared: Prepared | None, room: float = ROOM, briefly_bytes: int = BRIEFLY_BYTES) -> None:
        self._prepared = prepared
        self._room = room
        self._found: dict[Key, object] = {}
        self._locks: dict[Key, RLock] = {}
        self._lock = Lock()
        self._lately: OrderedDict[Key, tuple[object, int]] = OrderedDict()
        """What has no room beside the folder, with its bytes, the latest asked for last."""
        self._lately_bytes = 0
        self._briefly_bytes = briefly_bytes

    def keep(self, key: Key, make: Callable[[], _T], *, is_brief: bool = False) -> _T:
        """What was made under a key before, in this process or prepared by another, or is made now.

        Args: `is_brief` for what is soon made again from what is kept: of a large folder it is held for a while only.
        """
        # One lock for each thing made, so that making one never holds up a question that needs another.
        with self._lock:
            lock = self._locks.setdefault(key, RLock())
        with lock:
            # Read once: meanwhile all may be forgotten.
            found = self._known(key)
            if found is MISSING:
                found = self._made(key, make, is_brief)
            return found  # type: ignore[return-value]

    def known(self) -> set[Key]:
        """Of all that is in memory or mapped."""
        with self._lock:
            return {*self._found, *self._lately}

    def clear(self) -> None:
        """Forgets all: it is made anew, or mapped again, when it is needed."""
        self._drop(lambda _: True)

    def map_anew(self) -> None:
        """Lets go of what is mapped, and of what is held for a while."""
        self._drop(lambda key: key[0] in _LASTING)

    def trim(self) -> None:
        """Takes what is too much away from beside the folder, what saves least first."""
        if self._prepared is None:
            return
        for kind in reversed(WORKED_OUT):
            too_much = self._worked_out_bytes() - self._most_bytes()
            if too_much > 0:
                self._prepared.remove(kind, too_much)

    def _drop(self, is_dropped: Callable[[Key], bool]) -> None:
        with self._lock:
            self._found = {key: own for key, own in self._found.items() if not is_dropped(key)}
            self._lately.clear()
            self._lately_bytes = 0

    def _known(self, key: Key) -> object:
        with self._lock:
            found = self._found.get(key, MISSING)
            if found is MISSING and key in self._lately:
                self._lately.move_to_end(key)
                found = self._lately[key][0]
            return found

    def _made(self, key: Key, make: Callable[[], object], is_brief: bool) -> object:
        """What is prepared under a key, or else what is made of it, which is then prepared for the next time."""
        if self._prepared is None or not (is_brief or key[0] in _LASTING):
            found = make()
        else:
            found = MISSING if is_brief else self._prepared.get(key)
            if found is MISSING:
                found = make()
                if is_brief or not self._has_room(key, found):
                    self._hold(key, found)
                    return found
                found = self._prepared.put(key, found)
        with self._lock:
            self._found[key] = found
        return found

    def _has_room(self, key: Key, made: object) -> bool:
        return key[0] in CODED or self._worked_out_bytes() + size_of(made) <= self._most_bytes()

    def _worked_out_bytes(self) -> int:
        return self._prepared.size_bytes(WORKED_OUT) if self._prepared is not None else 0

    def _most_bytes(self) -> int:
        return int(self._room * self._prepared.size_bytes(CODED)) if self._prepared is not None else 0

    def _hold(self, key: Key, made: object) -> None:
        size = size_of(made)
        if size > self._briefly_bytes:
            return
        with self._lock:
            self._lately[key] = (made, size)
            self._lately_bytes += size
            while self._lately_bytes > self._briefly_bytes:
                self._lately_bytes -= self._lately.popitem(last=False)[1][1]
