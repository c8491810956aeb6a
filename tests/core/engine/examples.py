"""How many random analyses are tried: the same few on every run of the tests, and others each time `make fuzz` asks."""

from __future__ import annotations

import os

EXAMPLES = int(os.environ.get("DASTAN_EXAMPLES", "400"))
IS_FUZZING = "DASTAN_EXAMPLES" in os.environ
