"""Dastan: ad hoc crosstabs over a shared semantic model."""

from dastan.from_code import Model, Table, open

__all__ = ["Model", "Table", "open"]
__version__ = "0.1.0"
