"""From a document to an answer: plan, grouped requests, calculation, axes and cells.

The compiled kernels take seconds to load. They are loaded when first called, not when imported, so that a
server is up at once and loads them while its people are signing in.
"""

from __future__ import annotations

from importlib import import_module
from types import ModuleType
from typing import Any


class _WhenFirstUsed(ModuleType):
    """Stands for a module of this package, whose code runs at the first use of anything in it: once, whatever number of
    threads begin at the same time."""

    def __getattr__(self, name: str) -> Any:
        # The import system lets one thread run the code and the others wait for it.
        found = getattr(import_module(f"{__name__}.{self.__name__}"), name)
        setattr(self, name, found)
        return found


kernels = _WhenFirstUsed("kernels")
block_kernels = _WhenFirstUsed("block_kernels")


def load_kernels() -> None:
    """Loads the kernels now, in whichever thread can wait for it."""
    for name in ("kernels", "block_kernels"):
        import_module(f"{__name__}.{name}")
