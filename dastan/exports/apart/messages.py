"""What a process that writes and the one that it writes for say to each other, over a pipe that only these two have."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True, slots=True)
class Expected:
    """So many more parts are coming."""

    parts: int


PartDone = Literal["part done"]
PART_DONE: PartDone = "part done"


@dataclass(frozen=True, slots=True)
class RowsWanted:
    """The next records of a sheet are wanted, or the first."""

    sheet: int
    is_first: bool


Rows = Sequence[Sequence[object]]
"""The reply to it: so many records, none at the end."""


@dataclass(frozen=True, slots=True)
class TakenBack:
    """Nobody wants the file any more."""


@dataclass(frozen=True, slots=True)
class Ended:
    """The file is written, or why it is not: an error to be shown, or how it came to one that was not foreseen."""

    trouble: Exception | str | None
