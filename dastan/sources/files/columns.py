"""Turns read columns into typed arrays: exact numbers, dates as ISO text, text coded by dictionary."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.errors import SourceError
from dastan.core.model.document import Column, NumberForm
from dastan.core.model.parts import Key
from dastan.core.values import Values
from dastan.sources.files.day_forms import AmbiguousDayError, day_of, days_by, told
from dastan.sources.files.guessing import FLOAT, Guess, days_of, guessed, longest_fraction
from dastan.sources.files.number_forms import forms_of, plainly

Locate = Callable[[int], str]
"""Says where record `row` stands in its file, "journeys.csv, line 17"."""


@dataclass(frozen=True, slots=True)
class Place:
    """Where a column comes from, for messages."""

    table: str
    column: str
    locate: Locate


def typed(
    values: pa.ChunkedArray, declared: Column | None, place: Place, is_untyped: bool, form: NumberForm | None = None
) -> Guess:
    """A column in the type that is declared, or else that all its values fit, as `guessed` finds it for untyped text
    (a CSV file's); and what is to be noticed of that.

    Raises: SourceError naming the first value that does not fit the declared type, or is no text.
    """
    if pa.types.is_large_string(values.type):
        values = values.cast(pa.string())
    if pa.types.is_binary(values.type) or pa.types.is_large_binary(values.type) or _is_fixed_binary(values.type):
        values = _as_text(values, place)
    if pa.types.is_timestamp(values.type) and values.type.tz is not None:
        values = pc.local_timestamp(values)  # the time that its own zone's clocks showed
    if declared is not None and declared.type is None and declared.day_forms:
        declared = replace(declared, type="date")
    if declared is not None and declared.type is not None:
        if pa.types.is_dictionary(values.type):
            values = values.cast(values.type.value_type)
        if form is not None and declared.type in _NUMERIC and pa.types.is_string(values.type):
            values = plainly(values, form)
        return Guess(_declared(values, declared, place))
    return guessed(values, form) if is_untyped else Guess(values)


_NUMERIC = ("integer", "decimal", "float")


def _is_fixed_binary(kind: pa.DataType) -> bool:
    return bool(pa.types.is_fixed_size_binary(kind)) and not pa.types.is_decimal(kind)


def _as_text(values: pa.ChunkedArray, place: Place) -> pa.ChunkedArray:
    """Bytes that are text, as some programs write it. Raises SourceError for others."""
    try:
        return values.cast(pa.binary()).cast(pa.string())
    except pa.ArrowInvalid as exc:
        raise SourceError(
            f"Column “{place.column}” of table “{place.table}” holds bytes that are no text.",
            "Leave the column out of the model, or write it as text (UTF-8).",
        ) from exc


def _declared(values: pa.ChunkedArray, declared: Column, place: Place) -> pa.ChunkedArray:
    target = {
        "text": pa.string(), "integer": pa.int64(), "float": pa.float64(), "date": pa.date32(), "boolean": pa.bool_(),
    }.get(declared.type or "")  # fmt: skip
    if target is None:
        scale = declared.scale
        if scale is None:
            scale = longest_fraction(values.drop_null()) if pa.types.is_string(values.type) else _scale_of(values.type)
        target = pa.decimal128(38, scale)
    try:
        return _cast(values, target, declared)
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError) as exc:
        raise _misfit(values, target, declared, place) from exc


def _cast(values: pa.ChunkedArray, target: pa.DataType, declared: Column) -> pa.ChunkedArray:
    if declared.type == "date" and declared.day_forms and not pa.types.is_temporal(values.type):
        return days_by(values, declared.day_forms)
    if declared.type == "date" and pa.types.is_string(values.type):
        return days_of(values)
    return values.cast(target)


def _scale_of(kind: pa.DataType) -> int:
    return kind.scale if pa.types.is_decimal(kind) else 0


def _misfit(values: pa.ChunkedArray, target: pa.DataType, declared: Column, place: Place) -> SourceError:
    for row, value in enumerate(values):
        try:
            _cast(pa.chunked_array([pa.array([value.as_py()], values.type)]), target, declared)
        except (pa.ArrowInvalid, pa.ArrowNotImplementedError):
            fitting = told(values, place.column) if declared.type == "date" else ""
            return SourceError(
                f"{place.locate(row)}: “{value.as_py()}” in column “{place.column}” is {_no(declared, value.as_py())}.",
                f"Say at table “{place.table}” in the model how its dates are written: {fitting}."
                if fitting
                else f"Mend the value, or declare another type for the column at table “{place.table}” in the model.",
            )
    return SourceError(f"Column “{place.column}” of table “{place.table}” cannot be read as {_a(declared.type)}.")


def _no(declared: Column, value: object) -> str:
    """What a value is not, or that it is two days."""
    try:
        day_of(str(value), declared.day_forms)
    except AmbiguousDayError as error:
        return str(error).split(" is ", 1)[1]
    except ValueError:
        pass
    return f"not {_a(declared.type)}"


def _a(kind: str | None) -> str:
    return {"text": "text", "integer": "a whole number", "date": "a date (YYYY-MM-DD or its date_format)"}.get(
        kind or "", f"a {kind}"
    )


def numbers(values: pa.ChunkedArray, place: Place) -> Values:
    """A numeric column as `Values`. Decimals become scaled integers; NaN and infinity become empty.

    Raises: SourceError for a column that holds no numbers, naming the first value that is none.
    """
    kind = values.type
    present = np.asarray(values.is_valid().to_numpy(), np.bool_).copy()
    if pa.types.is_null(kind):
        return Values(np.zeros(len(values), np.int64), 0, present)
    if pa.types.is_integer(kind) or pa.types.is_boolean(kind):
        try:
            return Values(_filled(values.cast(pa.int64())), 0, present)
        except pa.ArrowInvalid as exc:
            raise SourceError(
                f"Column “{place.column}” of table “{place.table}” has whole numbers beyond {_LARGEST:,}.",
                f"Declare them: `columns: {{{place.column}: {{type: float}}}}`, where digits may be lost; or text.",
            ) from exc
    if pa.types.is_decimal(kind):
        return Values(_scaled(values, place), kind.scale, present)
    if pa.types.is_floating(kind):
        data = _filled(values.cast(pa.float64()))
        finite = np.isfinite(data)
        return Values(np.where(finite, data, 0.0), None, present & finite)
    raise _not_a_number(values, place)


_LARGEST = 2**63 - 1


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


WORDS_FOR_NOTHING = ("n/a", "na", "nan", "null", "none", "nil", "-", "–", "—", ".", "?", "#n/a", "missing", "unknown")


def _not_a_number(values: pa.ChunkedArray, place: Place) -> SourceError:
    where = f"Column “{place.column}” of table “{place.table}”"
    if pa.types.is_dictionary(values.type):
        values = values.cast(pa.string())
    if pa.types.is_string(values.type):
        wrong = pc.invert(pc.match_substring_regex(values, FLOAT))
        row = pc.index(pc.fill_null(wrong, False), True).as_py()
        if row >= 0:
            found = values[row].as_py()
            hint = "Mend the value (leave it empty if there is none), or let the measure use another column."
            forms = " or ".join(f"`{each}`" for each in forms_of(values))
            if forms:
                hint = f"If these are numbers, say at the table in the model how they are written: {forms}."
            elif found.strip().casefold() in WORDS_FOR_NOTHING:
                hint = f'If that stands for nothing, say so at the table in the model: `blanks: ["{found}"]`.'
            return SourceError(f"{where} is not all numbers: {place.locate(row)} has “{found}”.", hint)
        return SourceError(
            f"{where} is kept as text: as numbers some values would lose digits, or be equal as 1.1 and 1.10 are.",
            f"Say at the table in the model that it has numbers: `columns: {{{place.column}: {{type: decimal}}}}`, or "
            "float, where digits may be lost.",
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


_SAFE = 2**53 - 1
"""The largest whole number up to which JSON's readers keep every one apart."""
_SAFE_DIGITS = 15


def keys_of(values: pa.ChunkedArray, for_order: bool = False) -> list[Key]:
    """A column's values as member keys, blanks as None: days and moments as ISO text, decimals as floats; as text all
    numbers of a column of which some would not be told apart otherwise, unless they are `for_order` alone."""
    if pa.types.is_dictionary(values.type):
        values = values.cast(values.type.value_type)
    kind = values.type
    if pa.types.is_date(kind):
        values = values.cast(pa.date32()).cast(pa.string())
    elif pa.types.is_timestamp(kind):
        values = _iso(values)
    elif pa.types.is_integer(kind) and not for_order and _most(values) > _SAFE:
        values = values.cast(pa.string())
    elif pa.types.is_decimal(kind):
        is_long = not for_order and len(str(int(_most(values).scaleb(kind.scale)))) > _SAFE_DIGITS
        values = values.cast(pa.string() if is_long else pa.float64())
    keys: list[Key] = values.to_pylist()
    return keys


def _most(values: pa.ChunkedArray) -> Decimal:
    """The number that is furthest from 0, without its sign."""
    return max(abs(Decimal(each or 0)) for each in pc.min_max(values).as_py().values())


def _iso(values: pa.ChunkedArray) -> pa.ChunkedArray:
    """Days where no moment has a time of day; else moments, with parts of a second where any has."""
    for unit in ("s", "us", "ns"):
        with suppress(pa.ArrowInvalid):
            moments = values.cast(pa.timestamp(unit))
            break
    days = moments.cast(pa.date32(), safe=False)
    is_day = pc.all(pc.equal(days.cast(moments.type), moments)).as_py()
    return (moments if is_day is False else days).cast(pa.string())


def decimals_of(values: pa.ChunkedArray) -> list[Decimal | None]:
    """A decimal column with all its digits; read from text, for Arrow takes several times as long over each."""
    return [None if each is None else Decimal(each) for each in values.cast(pa.string()).to_pylist()]


def captions_of(values: pa.ChunkedArray) -> list[str]:
    """A column's values as captions, blanks as an empty text."""
    return ["" if each is None else str(each) for each in keys_of(values)]
