"""Dastan: ad hoc crosstabs over a shared semantic model."""

__version__ = "0.1.0"
