"""The built-in engine behind the waist: coded facts in memory, and the ways of answering."""

from importlib import import_module

from dastan.core.engine.when_used import WhenFirstUsed

block_kernels = WhenFirstUsed(__name__, "block_kernels")


def load_kernels() -> None:
    """Loads the compiled kernels now, in whichever thread can wait for it."""
    for name in ("dastan.core.engine.kernels", f"{__name__}.block_kernels"):
        import_module(name)
