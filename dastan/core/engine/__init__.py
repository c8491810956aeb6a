"""From a document to an answer: plan, grouped requests, calculation, axes and cells.

The compiled kernels take seconds to load. They are loaded when first called, not when imported, so that a
server is up at once and loads them while its people are signing in.
"""

from __future__ import annotations

import sys
from importlib.util import LazyLoader, find_spec, module_from_spec
from types import ModuleType


def _when_first_used(name: str) -> ModuleType:
    """A module of this package whose code runs at the first use of anything in it."""
    spec = find_spec(f"{__name__}.{name}")
    if spec is None or spec.loader is None:
        raise ImportError(name)
    spec.loader = LazyLoader(spec.loader)
    module = module_from_spec(spec)
    sys.modules[spec.name] = module
    spec.loader.exec_module(module)
    return module


kernels = _when_first_used("kernels")
block_kernels = _when_first_used("block_kernels")


def load_kernels() -> None:
    """Loads the kernels now, in whichever thread can wait for it."""
    dir(kernels.push_level)
    dir(block_kernels.set_key)
