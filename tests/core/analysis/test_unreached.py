"""What cannot join an analysis, and why."""

from __future__ import annotations

from dastan.core.analysis.checks import unreached
from tests.core.asked import STAR, by, question


def test_hierarchies_of_dimensions_that_reach_no_shown_records_are_named_with_the_reason() -> None:
    assert unreached(question(), STAR.model) == {}
    found = unreached(question("closing"), STAR.model)
    # The fleet points at days and lines, and at no fare.
    assert ("fare", "fare") in found
    assert "does not reach the records of" in found["fare", "fare"]
    assert not {each for each in found if each[0] in ("line", "calendar")}
    # Another measure that fares reach lets them in; one that stands there may be moved.
    assert ("fare", "fare") not in unreached(question("closing", "boardings"), STAR.model)
    assert ("fare", "fare") not in unreached(question("closing", rows=(by("fare", "family"),)), STAR.model)
