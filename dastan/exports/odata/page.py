"""The system query options of OData on entities: which of them, in which order, how many at a time."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from urllib.parse import quote, urlencode

import numpy as np
import orjson

from dastan.core.errors import InputError, did_you_mean
from dastan.exports.flat import digits_of
from dastan.exports.odata.entities import Entities
from dastan.exports.odata.filtering import filtered

PAGE = 5_000
"""So many entities go out at a time; the rest is at the next link."""
OPTIONS = ("$select", "$filter", "$orderby", "$top", "$skip", "$count", "$skiptoken", "$format", "$apply")
LONGEST = 4_000


@dataclass(frozen=True, slots=True, eq=False)
class Chosen:
    """The rows that are asked for, in their order, and the properties; `count` is how many a filter leaves, whatever
    the page, where that is asked for."""

    rows: np.ndarray
    places: tuple[int, ...]
    count: int | None
    start: int
    """The first of the rows of this page."""


def check_options(options: Mapping[str, str], more: tuple[str, ...] = ()) -> None:
    """Raises InputError for a system query option that is not taken here."""
    for name, value in options.items():
        if name.startswith("$") and name not in (*OPTIONS, *more):
            raise InputError(
                f"{name} is not taken here.", did_you_mean(name, OPTIONS) or f"There are {', '.join(OPTIONS)}."
            )
        if len(value) > LONGEST:
            raise InputError(f"{name} is longer than {LONGEST} characters.", "Ask for less.")
    if options.get("$format", "json").split(";")[0] not in ("json", "application/json"):
        raise InputError("Only JSON goes out.", "Leave $format away, or write $format=json.")


def chosen(entities: Entities, options: Mapping[str, str]) -> Chosen:
    """What system query options ask of entities. Raises InputError."""
    rows = np.arange(len(entities))
    if "$filter" in options:
        rows = rows[filtered(options["$filter"], entities)]
    count = len(rows) if _is_true(options.get("$count", "false")) else None
    if "$orderby" in options:
        rows = rows[_order(entities, options["$orderby"], rows)]
    rows = rows[_number(options, "$skip", 0) :]
    rows = rows[: _number(options, "$top", len(rows))]
    return Chosen(rows, _places(entities, options.get("$select", "*")), count, _number(options, "$skiptoken", 0))


def page_of(
    entities: Entities, asked: Chosen, context: str, address: str, options: Iterable[tuple[str, str]], size: int = PAGE
) -> Iterator[bytes]:
    """A page of entities as JSON, some bytes at a time. Args: `address` is that of the set, without its options."""
    names = [entities.properties[place].name for place in asked.places]
    selected = "" if len(names) == len(entities.properties) else f"({','.join(names)})"
    yield b'{"@odata.context":' + orjson.dumps(f"{context}{selected}")
    if asked.count is not None:
        yield b',"@odata.count":%d' % asked.count
    rows = asked.rows[asked.start : asked.start + size]
    columns = [entities.exact(place, rows) for place in asked.places]
    keys = [orjson.dumps(name) + b":" for name in names]
    yield b',"value":['
    for at in range(len(rows)):
        parts = (key + _json(column[at]) for key, column in zip(keys, columns, strict=True))
        yield (b",{" if at else b"{") + b",".join(parts) + b"}"
    yield b"]"
    if asked.start + size < len(asked.rows):
        own = [(name, value) for name, value in options if name != "$skiptoken"]
        rest = urlencode([*own, ("$skiptoken", str(asked.start + size))], quote_via=quote, safe="$")
        yield b',"@odata.nextLink":' + orjson.dumps(f"{address}?{rest}")
    yield b"}"


def _json(value: object) -> bytes:
    if value is None:
        return b"null"
    return orjson.dumps(value) if isinstance(value, str) else digits_of(value).encode()


def _is_true(text: str) -> bool:
    if text not in ("true", "false"):
        raise InputError("$count is true or false.", "Write $count=true.")
    return text == "true"


def _number(options: Mapping[str, str], name: str, otherwise: int) -> int:
    text = options.get(name, str(otherwise))
    if not text.isascii() or not text.isdecimal() or len(text) > 12:
        raise InputError(f"{name} is a whole number from 0 on.", f"Write {name}=10.")
    return int(text)


def _places(entities: Entities, text: str) -> tuple[int, ...]:
    names = [each.strip() for each in text.split(",")]
    if "*" in names:
        return tuple(range(len(entities.properties)))
    return tuple(dict.fromkeys(entities.place(each) for each in names))


def _order(entities: Entities, text: str, rows: np.ndarray) -> np.ndarray:
    """Where each of the rows goes; what is nothing comes first ascending, and ties stay as they are."""
    keys: list[np.ndarray] = []
    for part in text.split(","):
        name, _, direction = part.strip().partition(" ")
        if direction.strip() not in ("", "asc", "desc"):
            raise InputError(f"“{part.strip()}” is no order.", "Write a property, and desc for the other way round.")
        own = entities.vector(entities.place(name))
        _, ranks = np.unique(own.data[rows], return_inverse=True)
        ranks = np.where(own.present[rows], np.asarray(ranks).ravel() + 1, 0)
        keys.append(-ranks if direction.strip() == "desc" else ranks)
    return np.lexsort(keys[::-1])
