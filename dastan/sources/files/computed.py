"""Columns that are worked out from others, all records at once: numbers exactly as everywhere, the rest by Arrow."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from typing import Any, TypeAlias

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.errors import FormulaError, LimitError, SourceError
from dastan.core.formula.arithmetic import operate
from dastan.core.formula.columns import (
    TYPES,
    Apply,
    Choice,
    ColumnFormula,
    ColumnOf,
    Kind,
    Written,
    kind_of,
    parse_column,
)
from dastan.core.formula.functions import apply
from dastan.core.values import Values
from dastan.sources.files.columns import Place, numbers
from dastan.sources.files.guessing import FLOAT

_STAMP = pa.timestamp("us")
_CLOCK = r"[T ]([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9](\.[0-9]+)?)?"
_ZONE = r"(Z|[+-]([01][0-9]|2[0-3]):?[0-5][0-9])"
_EXACT_DIGITS = 18
_ORDERED = {
    "=": pc.equal, "<>": pc.not_equal, "<": pc.less, "<=": pc.less_equal, ">": pc.greater, ">=": pc.greater_equal,
}  # fmt: skip

Column = Callable[[ColumnOf], tuple[pa.ChunkedArray, Place]]
"""A column of the records, or of what they lead to, one value for each record; and where it comes from."""
Cells: TypeAlias = "Values | pa.Array"
"""Numbers and truths (1 and 0) as `Values`, texts, dates and timestamps as Arrow arrays."""


def work_out(text: str, place: Place, row_count: int, column: Column) -> pa.ChunkedArray:
    """The values of a formula, `(row_count,)`: whole numbers, decimals or floats, texts, dates, timestamps or truths.

    Raises: SourceError for a formula that cannot be read or whose kinds do not go together, with its place; and where a
        number no longer fits 64 bits.
    """
    where = f"Column “{place.column}” of table “{place.table}”"
    try:
        formula, column = parse_column(text), cache(column)
        kind = kind_of(formula, lambda each: _kind(column(each)[0].type))
        found = _Work(row_count, column).cells(formula)
    except FormulaError as error:
        raise SourceError(f"{where}: {error.message}", error.hint) from error
    except LimitError as error:
        raise SourceError(f"{where}: {error.message}", error.hint) from error
    except pa.lib.ArrowException as error:
        raise SourceError(
            f"{where} cannot be worked out: {str(error).splitlines()[0]}.", "Change its formula."
        ) from error
    return _stored(found, kind)


def _kind(kind: pa.DataType) -> Kind:
    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    if pa.types.is_boolean(kind):
        return "truth"
    if pa.types.is_integer(kind) or pa.types.is_decimal(kind) or pa.types.is_floating(kind):
        return "number"
    if pa.types.is_date(kind):
        return "date"
    if pa.types.is_timestamp(kind):
        return "timestamp"
    return "nothing" if pa.types.is_null(kind) else "text"


def _stored(found: Cells, wanted: Kind) -> pa.ChunkedArray:
    """As a column is kept."""
    if not isinstance(found, Values):
        return pa.chunked_array([found])
    missing = ~found.present
    if wanted == "truth":
        return pa.chunked_array([pa.array(found.data != 0, pa.bool_(), mask=missing)])
    if found.scale is None:
        return pa.chunked_array([pa.array(found.data, pa.float64(), mask=missing)])
    if not found.scale:
        return pa.chunked_array([pa.array(found.data, pa.int64(), mask=missing)])
    # The same whole numbers, read with a point in them: no digit changes.
    whole = pa.array(found.data, pa.int64(), mask=missing).cast(pa.decimal128(38, 0))
    kind = pa.decimal128(38, found.scale)
    return pa.chunked_array([pa.Array.from_buffers(kind, len(whole), whole.buffers(), offset=whole.offset)])


@dataclass(frozen=True)
class _Work:
    row_count: int
    column: Column

    def cells(self, formula: ColumnFormula) -> Cells:
        match formula:
            case Written():
                return self._written(formula)
            case ColumnOf():
                return self._read(formula)
            case Choice(branches=branches, otherwise=otherwise):
                return self._chosen(branches, otherwise)
            case Apply():
                return self._applied(formula)

    def _written(self, formula: Written) -> Cells:
        if formula.kind == "number":
            whole, _, fraction = formula.value.partition(".")
            return self._same(int(whole + fraction), len(fraction))
        if formula.kind == "truth":
            return self._same(int(formula.value == "true"), 0)
        kind = {"text": pa.string(), "date": pa.date32()}.get(formula.kind)
        if kind is None:
            return pa.nulls(self.row_count)
        return pa.repeat(pa.scalar(formula.value).cast(kind), self.row_count)

    def _same(self, digits: int, scale: int) -> Values:
        if len(str(abs(digits))) > _EXACT_DIGITS:
            raise LimitError(f"A number has at most {_EXACT_DIGITS} digits.", "Write fewer.")
        return Values(np.full(self.row_count, digits, np.int64), scale, np.ones(self.row_count, np.bool_))

    def _read(self, formula: ColumnOf) -> Cells:
        values, place = self.column(formula)
        kind = _kind(values.type)
        if kind in ("number", "truth"):
            return numbers(values, place)
        if pa.types.is_dictionary(values.type):
            values = values.cast(values.type.value_type)
        if kind == "timestamp":
            values = values.cast(pa.timestamp("us", values.type.tz))
        elif kind == "date":
            values = values.cast(pa.date32())
        found = values.combine_chunks()
        return pa.concat_arrays(found.chunks) if isinstance(found, pa.ChunkedArray) else found

    def _chosen(
        self, branches: tuple[tuple[ColumnFormula, ColumnFormula], ...], otherwise: ColumnFormula | None
    ) -> Cells:
        truths = [self._numeric(truth) for truth, _ in branches]
        values = [self.cells(value) for _, value in branches]
        last = self.cells(otherwise) if otherwise is not None else pa.nulls(self.row_count)
        if all(isinstance(each, Values) or pa.types.is_null(each.type) for each in (*values, last)):
            turned = [part for truth, value in zip(truths, values, strict=True) for part in (truth, _as_values(value))]
            return apply("case", [*turned, _as_values(last)])
        typed = _one_type([*values, last])
        holds = [pa.array(each.present & (each.data != 0)) for each in truths]
        return pc.case_when(pa.StructArray.from_arrays(holds, [str(at) for at in range(len(holds))]), *typed)

    def _numeric(self, formula: ColumnFormula) -> Values:
        return _as_values(self.cells(formula))

    def _applied(self, formula: Apply) -> Cells:
        name, values = formula.name, [self.cells(each) for each in formula.values]
        are_numbers = all(isinstance(each, Values) or pa.types.is_null(each.type) for each in values)
        match name:
            case "+" | "-" if not are_numbers:
                return self._moved(name, values)
            case "+" | "-" | "*" | "/":
                return operate(name, *map(_as_values, values))
            case "negative":
                return operate("*", self._same(-1, 0), _as_values(values[0]))
            case "is null":
                here = values[0].present if isinstance(values[0], Values) else ~_missing(values[0])
                return _truths(~here, np.ones(self.row_count, np.bool_))
            case "in":
                own, *wanted = values
                found = [self._compared("=", [own, each]) for each in wanted]
                return apply("or", found) if len(found) > 1 else found[0]
            case _ if name in _ORDERED:
                return self._compared(name, values)
            case "like":
                return _of_arrow(pc.match_like(_text(values[0]), formula.detail))
            case "||":
                return pc.binary_join_element_wise(*map(_text, values), "")
            case "extract":
                return _part_of_time(values[0], formula.detail)
            case "cast":
                return self._cast(values[0], formula)
            case "zone":
                stamp: pa.Array = values[0]
                if pa.types.is_null(stamp.type):
                    return stamp
                utc = stamp.cast(pa.timestamp("us", "UTC")) if stamp.type.tz is None else stamp
                return pc.local_timestamp(utc.cast(pa.timestamp("us", formula.detail)))
            case "date":
                return _day_of(*map(_as_values, values))
            case "band" | "band_number":
                return self._banded(formula, values)
            case "upper" | "lower" | "trim" | "char_length" | "substring" | "replace" | "part":
                return _of_text(formula, _text(values[0]))
            case "coalesce" if not are_numbers:
                return pc.coalesce(*_one_type(values))
            case "nullif" if not are_numbers:
                own, other = _one_type(values)
                return pc.if_else(pc.fill_null(pc.equal(own, other), False), pa.scalar(None, own.type), own)
            case "least" | "greatest" if not are_numbers:
                extreme = pc.min_element_wise if name == "least" else pc.max_element_wise
                return extreme(*_one_type(values), skip_nulls=False)
            case _:
                return apply(name, [_as_values(each) for each in values])

    def _compared(self, operator: str, values: Sequence[Cells]) -> Values:
        if all(isinstance(each, Values) or pa.types.is_null(each.type) for each in values):
            return apply(operator, [_as_values(each) for each in values])
        return _of_arrow(_ORDERED[operator](*_one_type(list(values))))

    def _moved(self, operator: str, values: list[Cells]) -> Cells:
        """Days after or before a date, or the days between two."""
        own, other = values
        days = _day_numbers(own)
        if not isinstance(other, Values) and pa.types.is_date(other.type):
            last = _day_numbers(other)
            return Values(operate("-", days, last).data, 0, days.present & last.present)
        more = apply("floor", [_as_values(other)])
        moved = operate("+" if operator == "+" else "-", days, more)
        return _dates(Values(moved.data, 0, days.present & more.present))

    def _cast(self, own: Cells, formula: Apply) -> Cells:
        wanted = TYPES[formula.detail]
        if isinstance(own, Values):
            if wanted == "truth":
                return _truths(own.data != 0, own.present)
            if wanted == "text":
                is_truth = kind_of(formula.values[0], lambda each: _kind(self.column(each)[0].type)) == "truth"
                return _stored(own, "truth" if is_truth else "number").combine_chunks().cast(pa.string())
            return _of_number_type(own, formula.detail)
        if pa.types.is_null(own.type):
            return _as_values(own) if wanted in ("number", "truth") else own
        if wanted == "text":
            return _as_text(own)
        if wanted == "number":
            read = _float_from if formula.detail == "float" else _number_from
            return _of_number_type(read(_text(own)), formula.detail)
        if wanted == "truth":
            return _truth_from(_text(own))
        if wanted == "timestamp":
            return own.cast(_STAMP) if not pa.types.is_string(own.type) else _time_from(own)
        if pa.types.is_timestamp(own.type):
            return (pc.local_timestamp(own) if own.type.tz is not None else own).cast(pa.date32(), safe=False)
        return own if pa.types.is_date(own.type) else _date_from(own)

    def _banded(self, formula: Apply, values: list[Cells]) -> Cells:
        own, limits = _as_values(values[0]), [_as_values(each) for each in values[1:]]
        number = self._same(1, 0)
        for each in limits:
            number = operate("+", number, apply(">=", [own, each]))
        number = Values(number.data, 0, own.present)
        if formula.name == "band_number":
            return number
        said = [_digits(each) for each in limits]
        names = [f"under {said[0]}", *(f"{one} to {other}" for one, other in pairwise(said))]
        names.append(f"{said[-1]} and over")
        codes = pa.array(number.data - 1, pa.int32(), mask=~own.present)
        return pa.array(names, pa.string()).take(codes)


def _as_values(found: Cells) -> Values:
    if isinstance(found, Values):
        return found
    return Values(np.zeros(len(found), np.int64), 0, np.zeros(len(found), np.bool_))


def _missing(found: pa.Array) -> np.ndarray:
    return np.asarray(found.is_null().to_numpy(zero_copy_only=False), np.bool_)


def _truths(holds: np.ndarray, present: np.ndarray) -> Values:
    return Values(holds.astype(np.int64), 0, present)


def _of_arrow(found: pa.Array) -> Values:
    """Numbers or truths that Arrow worked out."""
    data = pc.fill_null(found.cast(pa.int64()), 0).to_numpy(zero_copy_only=False)
    return Values(np.array(data, np.int64), 0, ~_missing(found))


def _text(found: Cells) -> pa.Array:
    assert not isinstance(found, Values)
    return found.cast(pa.string())


def _one_type(found: list[Cells]) -> list[pa.Array]:
    """Arrays of one kind, where some are of nothing but blanks."""
    arrays: list[Any] = [each for each in found if not isinstance(each, Values)]
    kind = next((each.type for each in arrays if not pa.types.is_null(each.type)), pa.null())
    return [each if each.type == kind else each.cast(kind) for each in arrays]


def _day_numbers(found: Cells) -> Values:
    assert not isinstance(found, Values)
    return _of_arrow(found.cast(pa.date32()).cast(pa.int32()))


def _dates(days: Values) -> pa.Array:
    fits = days.present & (np.abs(days.data) < 2**31)
    return pa.array(np.where(fits, days.data, 0).astype(np.int32), pa.int32(), mask=~fits).cast(pa.date32())


def _day_of(year: Values, month: Values, day: Values) -> pa.Array:
    """Dates from their parts; empty where there is no such day."""
    year, month, day = (apply("floor", [each]) for each in (year, month, day))
    fits = year.present & month.present & day.present & (month.data >= 1) & (month.data <= 12) & (day.data >= 1)
    fits &= (year.data >= 1) & (year.data <= 9999)
    months = (np.where(fits, year.data, 1970) - 1970) * 12 + np.where(fits, month.data, 1) - 1
    first = months.astype("datetime64[M]")
    found = first.astype("datetime64[D]") + (np.where(fits, day.data, 1) - 1).astype("timedelta64[D]")
    fits &= found.astype("datetime64[M]") == first
    return pa.array(found.astype("datetime64[D]").astype(np.int32), pa.int32(), mask=~fits).cast(pa.date32())


_PARTS: dict[str, Callable[[pa.Array], pa.Array]] = {
    "year": pc.year, "quarter": pc.quarter, "month": pc.month, "day": pc.day, "week": pc.iso_week,
    "week_year": pc.iso_year, "hour": pc.hour, "minute": pc.minute, "second": pc.second,
    "weekday": lambda each: pc.add(pc.day_of_week(each), 1),
}  # fmt: skip


def _part_of_time(found: Cells, part: str) -> Values:
    if isinstance(found, Values) or pa.types.is_null(found.type):
        return _as_values(pa.nulls(len(found)))
    return _of_arrow(_PARTS[part](found))


def _of_text(formula: Apply, own: pa.Array) -> Cells:
    further = [each.value for each in formula.values[1:] if isinstance(each, Written)]
    match formula.name:
        case "upper":
            return pc.utf8_upper(own)
        case "lower":
            return pc.utf8_lower(own)
        case "trim":
            return pc.utf8_trim_whitespace(own)
        case "char_length":
            return _of_arrow(pc.utf8_length(own))
        case "substring":
            start = int(further[0]) - 1
            stop = start + int(further[1]) if len(further) > 1 else None
            return pc.utf8_slice_codeunits(own, start, stop)
        case "replace":
            return pc.replace_substring(own, further[0], further[1])
        case _:
            return _nth_part(own, further[0], int(further[1]))


def _nth_part(own: pa.Array, separator: str, number: int) -> pa.Array:
    """What stands before, between or after separators; empty where there are not so many parts."""
    parts = pc.split_pattern(own, separator)
    has = pc.fill_null(pc.greater_equal(pc.list_value_length(parts), number), False)
    padded = pc.if_else(has, parts, pa.scalar(None, parts.type))
    flat = pc.list_flatten(padded)
    lengths = np.array(pc.fill_null(pc.list_value_length(padded), 0).to_numpy(zero_copy_only=False), np.int64)
    first = np.cumsum(lengths) - lengths
    return flat.take(pa.array(first + number - 1, pa.int64(), mask=~np.asarray(has.to_numpy(zero_copy_only=False))))


def _as_text(own: pa.Array) -> pa.Array:
    if pa.types.is_timestamp(own.type):
        return pc.strftime(own.cast(pa.timestamp("s", own.type.tz), safe=False), "%Y-%m-%d %H:%M:%S")
    return own.cast(pa.string())


_NUMBER = r"^\s*-?[0-9]{1,18}(\.[0-9]{1,9})?\s*$"


def _number_from(own: pa.Array) -> Values:
    """Numbers as texts write them; empty where a text is none."""
    fits = pc.match_substring_regex(own, _NUMBER)
    trimmed = pc.utf8_trim_whitespace(pc.if_else(pc.fill_null(fits, False), own, pa.scalar(None, pa.string())))
    places = _places(trimmed)
    if places:
        return numbers(pa.chunked_array([trimmed.cast(pa.decimal128(38, places))]), Place("", "", str))
    return numbers(pa.chunked_array([trimmed.cast(pa.int64())]), Place("", "", str))


def _float_from(own: pa.Array) -> Values:
    trimmed = pc.utf8_trim_whitespace(own)
    fits = pc.fill_null(pc.match_substring_regex(trimmed, FLOAT), False)
    floats = pc.if_else(fits, trimmed, pa.scalar(None, pa.string())).cast(pa.float64())
    return numbers(pa.chunked_array([floats]), Place("", "", str))


def _places(own: pa.Array) -> int:
    point = pc.find_substring(own, ".")
    digits = pc.if_else(pc.less(point, 0), 0, pc.subtract(pc.subtract(pc.utf8_length(own), point), 1))
    return int(pc.max(digits).as_py() or 0)


def _of_number_type(own: Values, wanted: str) -> Values:
    if wanted == "float":
        return Values(own.as_float(), None, own.present)
    if wanted == "integer":
        # Towards zero, as standard SQL casts.
        whole = apply("floor", [apply("abs", [own])])
        data = whole.data if whole.scale is not None else np.where(whole.present, whole.data, 0).astype(np.int64)
        return Values(np.where(own.data < 0, -data, data), 0, own.present)
    return own


def _truth_from(own: pa.Array) -> Values:
    low = pc.utf8_lower(pc.utf8_trim_whitespace(own))
    yes, no = (pc.is_in(low, pa.array(each)) for each in (["true", "yes", "1"], ["false", "no", "0"]))
    return _truths(
        np.asarray(yes.to_numpy(zero_copy_only=False)), np.asarray(pc.or_(yes, no).to_numpy(zero_copy_only=False))
    )


def _date_from(own: pa.Array) -> pa.Array:
    """Dates as texts write them, year first; empty where a text is none."""
    days = pc.replace_substring(pc.utf8_slice_codeunits(pc.utf8_trim_whitespace(own), 0, 10), "/", "-")
    parts = [_number_from(pc.utf8_slice_codeunits(days, *at)) for at in ((0, 4), (5, 7), (8, 10))]
    fits = pc.fill_null(pc.match_substring_regex(days, r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$"), False)
    return pc.if_else(fits, _day_of(*parts), pa.scalar(None, pa.date32()))


def _time_from(own: pa.Array) -> pa.Array:
    """Timestamps as texts write them: `2025-01-31T08:15:00`, with Z or an offset in UTC; empty where a text is none."""
    fits = pc.match_substring_regex(own, f"^[0-9]{{4}}-[0-9]{{2}}-[0-9]{{2}}{_CLOCK}{_ZONE}?$")
    fits = pc.and_(pc.fill_null(fits, False), _date_from(own).is_valid())
    texts = pc.if_else(fits, own, pa.scalar(None, pa.string()))
    texts = pc.replace_substring_regex(texts, r"(\.[0-9]{6})[0-9]+", r"\1")  # finer than a microsecond is nothing here
    zoned = pc.fill_null(pc.match_substring_regex(texts, f"{_ZONE}$"), False)
    with_zone = pc.if_else(zoned, texts, pa.scalar(None, pa.string())).cast(pa.timestamp("us", "UTC"))
    without = pc.if_else(zoned, pa.scalar(None, pa.string()), texts).cast(_STAMP)
    return pc.coalesce(pc.local_timestamp(with_zone), without)


def _digits(each: Values) -> str:
    """A limit as it is written."""
    value = each.at(0) if len(each) else 0
    return f"{value}"
