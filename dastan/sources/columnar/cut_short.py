"""A file that is cut short while it is mapped into memory: noticed, where it would otherwise end the process.

Touching a page of a mapped file that the file no longer has is answered by the system with a signal that ends the
process. Here a page of zeros is put in the place of what is gone, and counted: whoever reads mapped files looks at the
count before and after, throws away what it read when it has grown, and reads anew. A process that answers one question
and ends does without: to begin to watch takes a second. Source: POSIX, mmap and SIGBUS.
"""

from __future__ import annotations

import ctypes
import os
import signal
import sys
from contextlib import suppress
from threading import Lock

_PAGE = os.sysconf("SC_PAGE_SIZE")
_READ_WRITE, _ANONYMOUS_FIXED_PRIVATE = 0x3, 0x20 | 0x10 | 0x02
_SA_SIGINFO = 4
_ADDRESS_AT = 2
"""The place of the faulting address in the signal's description, in words of 8 bytes; so on all Linux of 64 bits."""


class _Action(ctypes.Structure):
    """`struct sigaction` of glibc on Linux."""

    _fields_ = (
        ("handler", ctypes.c_void_p), ("mask", ctypes.c_ubyte * 128), ("flags", ctypes.c_int),
        ("restorer", ctypes.c_void_p),
    )  # fmt: skip


class CutShort:
    """How often mapped files turned out to be cut short, in this process. Safe for threads."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._count = 0
        self._event: int | None = None
        self._kept: tuple[object, ...] = ()

    def watch(self) -> None:
        """Begins to notice. Where the system is another one, nothing is noticed and nothing changes."""
        with self._lock:
            if self._event is not None or not sys.platform.startswith("linux") or sys.maxsize < 2**32:
                return
            self._event = os.eventfd(0, os.EFD_NONBLOCK | os.EFD_CLOEXEC)
            handler = _handler(self._event)
            action = _Action(handler=handler.address, flags=_SA_SIGINFO)
            libc = ctypes.CDLL(None, use_errno=True)
            libc.sigaction(int(signal.SIGBUS), ctypes.byref(action), None)
            self._kept = (handler, action)

    def count(self) -> int:
        """How often by now."""
        if self._event is None:
            return 0
        with self._lock:
            with suppress(BlockingIOError):  # nothing since
                self._count += os.eventfd_read(self._event)
            return self._count


def _handler(event: int):  # type: ignore[no-untyped-def]
    """What the signal calls, compiled: it may run in any thread, at any place, and calls the system alone."""
    from numba import cfunc, types

    libc = ctypes.CDLL(None)
    put = libc.mmap
    put.argtypes = [ctypes.c_uint64, ctypes.c_uint64, ctypes.c_int, ctypes.c_int, ctypes.c_int, ctypes.c_int64]
    put.restype = ctypes.c_int64
    tell = libc.eventfd_write
    tell.argtypes = [ctypes.c_int, ctypes.c_uint64]
    tell.restype = ctypes.c_int
    page = _PAGE

    description = types.CPointer(types.uint64)  # type: ignore[no-untyped-call]

    @cfunc(types.void(types.int32, description, types.voidptr))
    def handle(_, info, __):  # type: ignore[no-untyped-def]
        start = info[_ADDRESS_AT] // page * page
        put(start, page, _READ_WRITE, _ANONYMOUS_FIXED_PRIVATE, -1, 0)
        tell(event, 1)

    return handle


CUT_SHORT = CutShort()
