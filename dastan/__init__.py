"""Dastan: ad hoc crosstabs over a shared semantic model."""

from dastan.from_code import Model, Table, open
from dastan.version import __version__

__all__ = ["Model", "Table", "__version__", "open"]
