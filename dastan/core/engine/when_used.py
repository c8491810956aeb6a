"""Compiled kernels take seconds to load.

They are loaded when first called, not when imported, so that a server is up at once and loads them while its people
are signing in.
"""

from __future__ import annotations

from importlib import import_module
from types import ModuleType
from typing import Any


class WhenFirstUsed(ModuleType):
    """Stands for a module of a package, whose code runs at the first use of anything in it: once, whatever number of
    threads begin at the same time."""

    def __init__(self, package: str, name: str) -> None:
        super().__init__(name)
        self._whole_name = f"{package}.{name}"

    def __getattr__(self, name: str) -> Any:
        # The import system lets one thread run the code and the others wait for it.
        found = getattr(import_module(self._whole_name), name)
        setattr(self, name, found)
        return found
