"""How much memory there is to share out, and giving back what a large question used."""

from __future__ import annotations

import ctypes
import gc
import os
from pathlib import Path
from threading import Event

import pyarrow as pa

_RARELY = (5_000, 100, 1_000_000)
"""So many new objects bring a pass over the newest, which is short with so few; so many of these one over those that
outlived it; and so many of these one over all."""
_CGROUP_LIMITS = (Path("/sys/fs/cgroup/memory.max"), Path("/sys/fs/cgroup/memory/memory.limit_in_bytes"))


def machine_bytes() -> int:
    """The memory that this process may use: the machine's, or what its container was given."""
    found = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    for each in _CGROUP_LIMITS:
        try:
            found = min(found, int(each.read_text()))
        except (OSError, ValueError):
            continue  # no such limit
    return found


def resident_bytes() -> int:
    """The memory that this process takes now, what it shares included; 0 where the system does not tell."""
    try:
        return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    except (OSError, ValueError, IndexError):
        return 0


def keep_still() -> None:
    """Lets later collections pass over all that is there by now, which is there to stay: with the libraries and models
    they go through a million objects, and hold every thread up for a quarter of a second every few seconds. Nothing is
    collected before: that would hold everybody up just so once more, for some hundred objects. What comes and goes in
    circles is collected less often: a pass over all that is younger took a quarter of a second too, for some hundred
    objects, and came every few seconds with fifty people. What is old is left to `collect`."""
    gc.freeze()
    gc.set_threshold(*_RARELY)


_LEFT_BEHIND = Event()
"""Set while a large question may have left something in circles that is not young any more."""


def collect() -> None:
    """Collects what is left in circles, and gives back what becomes free. It holds every thread up, so it is for when
    nobody waits; after two minutes with fifty people for a seventh of a second, for some thousand objects."""
    _LEFT_BEHIND.clear()
    gc.collect()
    trim()


def is_left_behind() -> bool:
    """Whether a large question has ended since the last collection."""
    return _LEFT_BEHIND.is_set()


def give_back() -> None:
    """Gives memory that is free after a large question back to the system. Of what is left in circles it collects what
    is young: to look through all holds every thread up for a quarter of a second, and is for when nobody waits."""
    gc.collect(1)
    _LEFT_BEHIND.set()
    trim()


def trim() -> None:
    """Gives what is free by now back to the system: the allocators keep it for themselves otherwise."""
    pa.default_memory_pool().release_unused()
    try:
        ctypes.CDLL(None).malloc_trim(0)
    except (OSError, AttributeError):
        return  # another C library, which has no such call
