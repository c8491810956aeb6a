"""Loops that are compiled ahead, each loaded from the disk when it is first called: a question needs few of them."""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from types import ModuleType
from typing import Any

from numba import njit


class Compiled:
    """A loop over whole arrays, for the kinds of arguments that are declared. It releases the interpreter lock.

    Safe for threads: it is loaded once, under a lock.
    """

    def __init__(self, signatures: Any, run: Callable[..., Any]) -> None:
        self._signatures = signatures
        self._run = run
        self._loaded: Callable[..., Any] | None = None
        self._lock = Lock()
        self.__doc__ = run.__doc__

    def __call__(self, *arguments: Any) -> Any:
        return (self._loaded or self.load())(*arguments)

    def load(self) -> Callable[..., Any]:
        """Compiles it, or reads it from where it was kept when it was compiled."""
        with self._lock:
            if self._loaded is None:
                self._loaded = njit(self._signatures, cache=True, nogil=True)(self._run)
            return self._loaded


def compiled(signatures: Any) -> Callable[[Callable[..., Any]], Compiled]:
    """Lets a loop be compiled for these kinds of arguments, one signature or several."""
    return lambda run: Compiled(signatures, run)


def load_all(module: ModuleType) -> None:
    """Loads all loops of a module."""
    for each in vars(module).values():
        if isinstance(each, Compiled):
            each.load()
