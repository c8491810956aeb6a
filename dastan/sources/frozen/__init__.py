"""Frozen copies: a source that replies what another one replied once, to one reader, and nothing else."""
