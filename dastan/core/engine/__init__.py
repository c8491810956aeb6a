"""From a document to an answer: plan, grouped requests, calculation, axes and cells."""

from dastan.core.engine.when_used import WhenFirstUsed

kernels = WhenFirstUsed(__name__, "kernels")
