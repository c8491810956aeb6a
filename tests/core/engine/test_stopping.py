"""Long passes end between two slices once nobody wants them any more."""

from __future__ import annotations

import numpy as np
import pytest

from dastan.core.engine import stopping
from dastan.core.engine.aggregates import reduce_values
from dastan.core.engine.grouping import group_rows
from dastan.core.engine.stopping import check_here, checked_by, slices
from dastan.core.errors import CancelledError
from dastan.core.values import Values


class Looks:
    """Counts how often a pass looks; takes the question back at a look."""

    def __init__(self, taken_back_at: int | None = None) -> None:
        self.count = 0
        self._at = taken_back_at

    def __call__(self) -> None:
        self.count += 1
        if self.count == self._at:
            raise CancelledError("The question was taken back.")


@pytest.fixture(autouse=True)
def short_slices(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(stopping, "SLICE", 3)


def test_slices_cover_every_row_once_with_a_look_before_each() -> None:
    looks = Looks()
    with checked_by(looks):
        found = [np.arange(8)[each].tolist() for each in slices(8)]
    assert found == [[0, 1, 2], [3, 4, 5], [6, 7]]
    assert looks.count == 3
    assert list(slices(0)) == []


def test_a_pass_that_is_taken_back_ends_before_its_next_slice() -> None:
    done = []

    def work() -> None:
        for each in slices(100):
            done.append(each)

    with pytest.raises(CancelledError), checked_by(Looks(3)):
        work()
    assert len(done) == 2
    check_here()()  # outside nobody takes anything back


@pytest.mark.parametrize("room", [7, 1 << 40])
def test_grouping_and_adding_up_in_slices_is_the_same_as_at_once(room: int, monkeypatch: pytest.MonkeyPatch) -> None:
    codes = np.array([5, 1, 5, 0, 1, 1, 6, 5], np.int32)
    lookup = np.arange(7, dtype=np.int32)
    # Of the wide key only some of the places exist, so that groups are found by hashing.
    levels = [(codes, lookup, 7)] + ([(codes, lookup, room // 7)] if room > 7 else [])
    data = Values(np.arange(8, dtype=np.int64), 0, np.array([True, True, False, True, True, True, True, True]))
    found = []
    for size in (3, 100):
        monkeypatch.setattr(stopping, "SLICE", size)
        grouped = group_rows(levels, 8)
        found.append((grouped.group.tolist(), grouped.count))
        for kind, expected in (
            ("sum", [3, 1 + 4 + 5, 0 + 7, 6]),
            ("max", [3, 5, 7, 6]),
            ("count_values", [1, 3, 2, 1]),
        ):
            values = reduce_values(kind, data, grouped.group, grouped.count, "n")  # type: ignore[arg-type]
            assert values.data.tolist() == expected
    # The codes in ascending order are 0, 1, 5 and 6.
    assert found[0] == found[1] == ([2, 1, 2, 0, 1, 1, 3, 2], 4)
