"""The records behind a table, to be written beside it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

BATCH = 20_000
"""So many records are asked for at a time."""


@dataclass(frozen=True, slots=True)
class RecordSheet:
    """Records that stand behind a table: what they are called, their columns, how many there are, and themselves."""

    caption: str
    columns: Sequence[str]
    total: int
    rows: Callable[[], Iterator[Sequence[object]]]
