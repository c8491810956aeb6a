"""An answer as JSON: both axes with their members' paths, and the cells that are not empty."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

import orjson

from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.reading.window import member_header
from dastan.exports.grid import grid_rows


def to_json(answer: Answer, sentence: str, warnings: Sequence[str] = ()) -> bytes:
    """Whole numbers and floats as numbers; decimals as text, so that no reader loses a cent.

    `rows` and `columns` list each header as the members from the outermost down (none for the grand
    total); `values` holds, per row, one list per column with one entry per measure, null where empty.
    """
    count = len(answer.measures)
    body = {
        "sentence": sentence,
        "warnings": list(warnings),
        "measures": [{"name": each.name, "caption": each.caption, "unit": each.unit} for each in answer.measures],
        "rows": [_header(answer.rows, entry) for entry in range(len(answer.rows))],
        "columns": [_header(answer.columns, entry) for entry in range(len(answer.columns))],
        "values": [
            [list(row.values[at : at + count]) for at in range(0, len(row.values), count)] if count else []
            for row in grid_rows(answer)
        ],
    }
    return orjson.dumps(body, default=_decimal, option=orjson.OPT_INDENT_2 | orjson.OPT_APPEND_NEWLINE)


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
