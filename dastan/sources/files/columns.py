"""Turns read columns into typed arrays: exact numbers, dates as ISO text, text coded by dictionary."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.errors import SourceError
from dastan.core.model.document import Column
from dastan.core.model.parts import Key
from dastan.core.values import Values

_NUMBER = r"^-?[0-9]{1,18}$"
_LEADING_ZERO = r"^-?0[0-9]"
_DECIMAL = r"^-?[0-9]{1,18}(\.[0-9]{1,9})?$"
FLOAT = r"^-?([0-9]+(\.[0-9]*)?|\.[0-9]+)([eE][-+]?[0-9]+)?$"
_DATE = r"^[0-9]{4}([-/])[0-9]{2}[-/][0-9]{2}([T ][0-9:.]+Z?)?$"

Locate = Callable[[int], str]
"""Says where record `row` stands in its file, "journeys.csv, line 17"."""


@dataclass(frozen=True, slots=True)
class Place:
    """Where a column comes from, for messages."""

    table: str
    column: str
    locate: Locate


def typed(values: pa.ChunkedArray, declared: Column | None, place: Place, is_untyped: bool) -> pa.ChunkedArray:
    """A column in the type that is declared, or else that all its values fit.

    Untyped text (a CSV file's) becomes, in this order, whole numbers, decimals, floats, dates; codes with
    leading zeros stay text.
    Raises: SourceError naming the first value that does not fit the declared type.
    """
    if pa.types.is_large_string(values.type):
        values = values.cast(pa.string())
    if declared is not None and declared.type is not None:
        if pa.types.is_dictionary(values.type):
            values = values.cast(values.type.value_type)
        return _declared(values, declared, place)
    if not is_untyped:
        return values
    sample = values.drop_null()
    if not len(sample) or _any(sample, _LEADING_ZERO):
        return values
    if _all(sample, _NUMBER):
        return values.cast(pa.int64())
    if _all(sample, _DECIMAL):
        return values.cast(pa.decimal128(38, _longest_fraction(sample)))
    if _all(sample, FLOAT):
        return values.cast(pa.float64())
    if _all(sample, _DATE):
        try:
            return _dates(values)
        except pa.ArrowInvalid:
            return values
    return values


def _dates(values: pa.ChunkedArray) -> pa.ChunkedArray:
    """Days from text that begins with year, month and day; a time of day is dropped."""
    days = pc.replace_substring(pc.utf8_slice_codeunits(values, 0, 10), "/", "-")
    return days.cast(pa.date32())


def _declared(values: pa.ChunkedArray, declared: Column, place: Place) -> pa.ChunkedArray:
    target = {
        "text": pa.string(), "integer": pa.int64(), "float": pa.float64(), "date": pa.date32(), "boolean": pa.bool_(),
    }.get(declared.type or "")  # fmt: skip
    if target is None:
        scale = declared.scale
        if scale is None:
            scale = _longest_fraction(values.drop_null()) if pa.types.is_string(values.type) else _scale_of(values.type)
        target = pa.decimal128(38, scale)
    try:
        return _cast(values, target, declared)
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError) as exc:
        raise _misfit(values, target, declared, place) from exc


def _cast(values: pa.ChunkedArray, target: pa.DataType, declared: Column) -> pa.ChunkedArray:
    if declared.type == "date" and pa.types.is_string(values.type):
        if declared.date_format is not None:
            return pc.strptime(values, format=declared.date_format, unit="s").cast(target)
        return _dates(values)
    return values.cast(target)


def _scale_of(kind: pa.DataType) -> int:
    return kind.scale if pa.types.is_decimal(kind) else 0


def _misfit(values: pa.ChunkedArray, target: pa.DataType, declared: Column, place: Place) -> SourceError:
    for row, value in enumerate(values):
        try:
            _cast(pa.chunked_array([pa.array([value.as_py()], values.type)]), target, declared)
        except (pa.ArrowInvalid, pa.ArrowNotImplementedError):
            return SourceError(
                f"{place.locate(row)}: “{value.as_py()}” in column “{place.column}” is not {_a(declared.type)}.",
                f"Mend the value, or declare another type for the column at table “{place.table}” in the model.",
            )
    return SourceError(f"Column “{place.column}” of table “{place.table}” cannot be read as {_a(declared.type)}.")


def _a(kind: str | None) -> str:
    return {"text": "text", "integer": "a whole number", "date": "a date (YYYY-MM-DD or its date_format)"}.get(
        kind or "", f"a {kind}"
    )


def _all(values: pa.ChunkedArray, pattern: str) -> bool:
    return bool(pc.all(pc.match_substring_regex(values, pattern)).as_py())


def _any(values: pa.ChunkedArray, pattern: str) -> bool:
    return bool(pc.any(pc.match_substring_regex(values, pattern)).as_py())


def _longest_fraction(values: pa.ChunkedArray) -> int:
    if not len(values):
        return 0
    point = pc.find_substring(values, ".")
    digits = pc.subtract(pc.subtract(pc.utf8_length(values), point), 1)
    return int(pc.max(pc.if_else(pc.less(point, 0), 0, digits)).as_py() or 0)


def numbers(values: pa.ChunkedArray, place: Place) -> Values:
    """A numeric column as `Values`. Decimals become scaled integers; NaN and infinity become empty.

    Raises: SourceError for a column that holds no numbers, naming the first value that is none.
    """
    kind = values.type
    present = np.asarray(values.is_valid().to_numpy(), np.bool_).copy()
    if pa.types.is_null(kind):
        return Values(np.zeros(len(values), np.int64), 0, present)
    if pa.types.is_integer(kind) or pa.types.is_boolean(kind):
        return Values(_filled(values.cast(pa.int64())), 0, present)
    if pa.types.is_decimal(kind):
        return Values(_scaled(values, place), kind.scale, present)
    if pa.types.is_floating(kind):
        data = _filled(values.cast(pa.float64()))
        finite = np.isfinite(data)
        return Values(np.where(finite, data, 0.0), None, present & finite)
    raise _not_a_number(values, place)


def _filled(values: pa.ChunkedArray) -> np.ndarray:
    return np.array(pc.fill_null(values, 0).to_numpy())


def _scaled(values: pa.ChunkedArray, place: Place) -> np.ndarray:
    """`(n,) int64`: the decimals' digits, read straight from Arrow's 128-bit little-endian integers."""
    parts = [np.empty(0, np.int64)]
    for chunk in values.cast(pa.decimal128(38, values.type.scale)).chunks:
        words = np.frombuffer(chunk.buffers()[1], np.int64)
        words = words[2 * chunk.offset : 2 * (chunk.offset + len(chunk))].reshape(-1, 2)
        low, high = words[:, 0], words[:, 1]
        if chunk.null_count:
            has = chunk.is_valid().to_numpy(zero_copy_only=False)
            low, high = np.where(has, low, 0), np.where(has, high, 0)
        if np.any(high != (low >> 63)):
            raise SourceError(
                f"Column “{place.column}” of table “{place.table}” has decimals of more than 18 digits.",
                "Declare it as float in the model, or store fewer digits.",
            )
        parts.append(low)
    return np.concatenate(parts)


def _not_a_number(values: pa.ChunkedArray, place: Place) -> SourceError:
    where = f"Column “{place.column}” of table “{place.table}”"
    if pa.types.is_dictionary(values.type):
        values = values.cast(pa.string())
    if pa.types.is_string(values.type):
        wrong = pc.invert(pc.match_substring_regex(values, FLOAT))
        row = pc.index(pc.fill_null(wrong, False), True).as_py()
        if row >= 0:
            return SourceError(
                f"{where} is not all numbers: {place.locate(row)} has “{values[row].as_py()}”.",
                "Mend the value (leave it empty if there is none), or let the measure use another column.",
            )
    return SourceError(f"{where} holds no numbers.", "Let the measure use another column, or count instead.")


def one_dictionary(values: pa.ChunkedArray) -> pa.DictionaryArray:
    """The column coded by a single dictionary, whatever its chunks had."""
    if not values.num_chunks:
        return pa.array([], values.type).dictionary_encode()
    encoded = values if pa.types.is_dictionary(values.type) else values.dictionary_encode()
    whole = encoded.unify_dictionaries().combine_chunks()
    return whole.chunk(0) if isinstance(whole, pa.ChunkedArray) else whole


def codes_of(values: pa.ChunkedArray) -> np.ndarray:
    """`(n,) int32`: equal values have equal codes, a blank has -1. For exact distinct counts."""
    encoded = one_dictionary(values)
    return np.array(pc.fill_null(encoded.indices, -1).to_numpy(zero_copy_only=False), np.int32)


def keys_of(values: pa.ChunkedArray) -> list[Key]:
    """A column's values as member keys: dates as ISO text, decimals as floats, blanks as None."""
    if pa.types.is_dictionary(values.type):
        values = values.cast(values.type.value_type)
    kind = values.type
    if pa.types.is_date32(kind):
        values = values.cast(pa.string())
    elif pa.types.is_date(kind) or pa.types.is_timestamp(kind):
        values = pc.strftime(values.cast(pa.timestamp("s")), "%Y-%m-%d")
    elif pa.types.is_decimal(kind):
        values = values.cast(pa.float64())
    keys: list[Key] = values.to_pylist()
    return keys


def decimals_of(values: pa.ChunkedArray) -> list[Decimal | None]:
    """A decimal column with all its digits; read from text, for Arrow takes several times as long over each."""
    return [None if each is None else Decimal(each) for each in values.cast(pa.string()).to_pylist()]


def captions_of(values: pa.ChunkedArray) -> list[str]:
    """A column's values as captions, blanks as an empty text."""
    return ["" if each is None else str(each) for each in keys_of(values)]
