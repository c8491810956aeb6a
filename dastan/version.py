"""The version, which stands nowhere else."""

__version__ = "0.1.0"
