"""An answer as JSON: both axes with their members' paths, and the cells that are not empty."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import Any

import orjson

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.reading.window import member_header
from dastan.exports.grid import Grid


def json_texts(answer: Answer, sentence: str, warnings: Sequence[str] = ()) -> Iterator[bytes]:
    """The answer part by part. Whole numbers and floats as numbers; decimals as text, so that no reader loses a cent.

    `rows` and `columns` list each header that has figures as the members from the outermost down (none for the grand
    total); `values` holds, per row, one list per column with one entry per measure, null where empty.

    Raises: LimitError before anything is written.
    """
    grid, count = Grid(answer), len(answer.measures)
    body = {
        "sentence": sentence,
        "warnings": list(warnings),
        "measures": [{"name": each.name, "caption": each.caption, "unit": each.unit} for each in answer.measures],
    }
    yield orjson.dumps(body, option=orjson.OPT_INDENT_2).removesuffix(b"\n}")
    yield from _listed("rows", (_dumped(_header(answer.rows, entry)) for entry in grid.rows.tolist()))
    yield from _listed("columns", (_dumped(_header(answer.columns, entry)) for entry in grid.columns.tolist()))
    width = len(grid.columns) * count
    by_row = (
        [values[at : at + count] for at in range(0, width, count)] if count else [] for _, values in grid.values()
    )
    yield from _listed("values", map(_dumped, by_row))
    yield b"\n}\n"


def _listed(name: str, parts: Iterator[bytes]) -> Iterator[bytes]:
    """A member of the whole that is a list, a line for each of its parts."""
    yield f',\n  "{name}": ['.encode()
    before = b"\n    "
    for each in parts:
        yield before + each
        before = b",\n    "
    yield b"\n  ]"


def _dumped(value: object) -> bytes:
    return orjson.dumps(value, default=_decimal)


def _header(axis: Axis, entry: int) -> list[dict[str, Any]]:
    headers = [member_header(axis, each) for each in axis.chain(entry)]
    return [
        {"dimension": each.dimension, "level": each.level, "path": each.path, "caption": each.caption}
        for each in headers
    ]


def _decimal(value: object) -> str:
    if isinstance(value, Decimal):
        return str(value)
    raise TypeError(type(value))
