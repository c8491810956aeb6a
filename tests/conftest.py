"""What holds for all tests."""

from __future__ import annotations

from hypothesis import settings

# A busy machine is slow, not wrong; and every run tries the same examples unless more are asked for.
settings.register_profile("patient", deadline=None, derandomize=True)
settings.load_profile("patient")
