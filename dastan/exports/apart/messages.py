"""What a process that writes and the one that it writes for say to each other, over a pipe that only these two have."""

from __future__ import annotations

import pickle
from collections.abc import Sequence
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Literal

from dastan.exports.order import Order


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


@dataclass(frozen=True, slots=True)
class Coming:
    """An order without its arrays, of which so many follow. Nothing else could run here while they were copied into one
    text: of a large table that took a second."""

    order: bytes
    arrays: int


def send_order(pipe: Connection, order: Order) -> None:
    """Sends an order, its arrays as they lie in memory."""
    arrays: list[pickle.PickleBuffer] = []
    text = pickle.dumps(order, protocol=5, buffer_callback=arrays.append)
    pipe.send(Coming(text, len(arrays)))
    for each in arrays:
        pipe.send_bytes(each.raw())


def receive_order(pipe: Connection, coming: Coming) -> Order:
    """The order that was said to come. Its arrays cannot be written to."""
    order: Order = pickle.loads(coming.order, buffers=[pipe.recv_bytes() for _ in range(coming.arrays)])
    return order
