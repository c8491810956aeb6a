"""The built-in engine behind the waist: coded facts in memory, and the ways of answering."""

from importlib import import_module

from dastan.core.engine.when_used import WhenFirstUsed

block_kernels = WhenFirstUsed(__name__, "block_kernels")


def load_kernels() -> None:
    """Loads all compiled kernels now, in whichever thread can wait for it."""
    from dastan.core.engine.compiled import load_all

    for name in ("dastan.core.engine.kernels", f"{__name__}.block_kernels"):
        load_all(import_module(name))
