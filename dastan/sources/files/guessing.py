"""The type that all values of a column of text fit, where none is declared.

Nothing is lost by it: what would become equal, lose digits or lose a zone as another type stays text, which a measure
then refuses; and where its author may have meant another number, it is told how the column was read.
"""

from __future__ import annotations

from dataclasses import dataclass

import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.model.document import NumberForm
from dastan.sources.files.number_forms import plainly

_WHOLE = r"^-?[0-9]{1,18}$"
_LEADING_ZERO = r"^-?0[0-9]"
_PLAIN = r"^-?([0-9]+(\.[0-9]*)?|\.[0-9]+)$"
FLOAT = r"^-?([0-9]+(\.[0-9]*)?|\.[0-9]+)([eE][-+]?[0-9]+)?$"
_CODE_WITH_E = r"^-?[0-9]+[eE][0-9]+$"
"""No program writes a number so: each has a point, or a sign after the e."""
_LONG = r"^-?0*\.?0*[1-9](\.?[0-9]){15,}"
"""Of more digits than a float holds for sure."""
_THOUSANDS = r"^-?[1-9][0-9]{0,2}\.[0-9]{3}$"
_DATE = r"^[0-9]{4}([-/])[0-9]{2}[-/][0-9]{2}$"
_TIME = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?$"
_FIRST, _MANY = 2_000, 20_000
"""So many values are looked at first, where there are many."""
_DIGITS = 18
"""Of a decimal: as many as 64 bits hold of any number, and one more of some."""
_FRACTION = 9
"""What has more digits after the point was measured or worked out: a float, as long as that keeps all of them."""
_READ_AS_FRACTIONS = "has three digits after each point, and was read as fractions: 1.234 is less than two"


@dataclass(frozen=True, slots=True)
class Guess:
    """A column in the type that was found, and what is to be noticed of that; "" where nothing is."""

    values: pa.ChunkedArray
    noticed: str = ""


def guessed(values: pa.ChunkedArray, form: NumberForm | None = None) -> Guess:
    """Text as whole numbers, decimals, floats, days or moments, in this order; codes with leading zeros stay text.

    Args: `form` says how numbers are written.
    """
    if form is not None:
        plain = plainly(values, form)
        found = guessed(plain)
        # What is no number after all is what stood there.
        return Guess(values if pa.types.is_string(found.values.type) else found.values)
    sample = values.drop_null()
    first = sample[:_FIRST]
    if len(sample) > _MANY and pa.types.is_string(guessed(first).values.type):
        return Guess(values)  # what the first of them do not fit, all of them do not
    if not len(sample) or _any(sample, _LEADING_ZERO):
        return Guess(values)
    if _all(sample, _WHOLE):
        return Guess(values.cast(pa.int64()))
    if _all(sample, FLOAT):
        return _number(values, sample)
    try:
        if _all(sample, _DATE):
            return Guess(days_of(values))
        if _all(sample, f"({_DATE})|({_TIME})"):
            return Guess(_moments(values))
    except pa.ArrowInvalid:  # there is no such day
        return Guess(values)
    return Guess(values)


def days_of(values: pa.ChunkedArray) -> pa.ChunkedArray:
    """Days from text that begins with year, month and day; a time of day is dropped. Raises ArrowInvalid."""
    days = pc.replace_substring(pc.utf8_slice_codeunits(values, 0, 10), "/", "-")
    return days.cast(pa.date32())


def longest_fraction(values: pa.ChunkedArray) -> int:
    """The most digits after a point."""
    return int(pc.max(_fractions(values)).as_py() or 0) if len(values) else 0


def _number(values: pa.ChunkedArray, sample: pa.ChunkedArray) -> Guess:
    if not _any(sample, r"[.eE]") or _any(sample, _CODE_WITH_E):
        return Guess(values)  # keys and codes, which numbers would not tell apart
    is_plain = _all(sample, _PLAIN)
    scale = longest_fraction(sample) if is_plain else 0
    fits = is_plain and _fits(sample, scale)
    if not (fits and scale <= _FRACTION) and _keeps_digits(sample):
        found = values.cast(pa.float64())
    elif fits:
        found = values.cast(pa.decimal128(38, scale))
    else:
        return Guess(values)
    if _merges(sample, found):
        return Guess(values)
    may_be_thousands = is_plain and _all(sample, _THOUSANDS)
    return Guess(found, _READ_AS_FRACTIONS if may_be_thousands else "")


def is_code(values: pa.ChunkedArray) -> bool:
    """Whether values look like numbers and are none: some have zeros in front that numbers would not keep."""
    return _any(values, _LEADING_ZERO)


def _fits(sample: pa.ChunkedArray, scale: int) -> bool:
    """Whether 64 bits hold the digits of each decimal."""
    digits = _whole_digits(sample) + scale
    if digits != _DIGITS + 1:
        return digits <= _DIGITS
    ends = pc.min_max(sample.cast(pa.decimal128(38, scale))).as_py()
    return bool(max(abs(each.scaleb(scale)) for each in ends.values()) < 2**63)


def _moments(values: pa.ChunkedArray) -> pa.ChunkedArray:
    """Days where no value has a time of day; else moments, to the millionth of a second."""
    texts = pc.replace_substring(pc.replace_substring(values, "T", " "), "/", "-")
    found = texts.cast(pa.timestamp("us"))
    days = found.cast(pa.date32(), safe=False)
    return days if pc.all(pc.equal(days.cast(pa.timestamp("us")), found)).as_py() else found


def _keeps_digits(sample: pa.ChunkedArray) -> bool:
    """Whether floats keep every digit that is written."""
    long = sample.filter(pc.match_substring_regex(sample, _LONG))
    if not len(long):
        return True
    exact = pa.decimal256(76, 36)
    try:
        return bool(pc.all(pc.equal(long.cast(exact), long.cast(pa.float64()).cast(pa.string()).cast(exact))).as_py())
    except pa.ArrowInvalid:  # too large, or too small, to be held against each other
        return False


def _merges(sample: pa.ChunkedArray, found: pa.ChunkedArray) -> bool:
    """Whether different texts are one number; 0 apart, which is written with a sign too."""
    lengths = pc.min_max(_fractions(sample)).as_py()
    if lengths["min"] == lengths["max"] or not _any(sample, r"(^-?\.)|(\.[0-9]*0$)|(\.$)|[eE]"):
        return False
    numbers = found.drop_null()
    has = pc.not_equal(numbers, pa.scalar(0).cast(found.type))
    texts, different = (pc.count_distinct(each.filter(has)).as_py() for each in (sample, numbers))
    return bool(texts != different)


def _fractions(values: pa.ChunkedArray) -> pa.ChunkedArray:
    point = pc.find_substring(values, ".")
    digits = pc.subtract(pc.subtract(pc.utf8_length(values), point), 1)
    return pc.if_else(pc.less(point, 0), 0, digits)


def _whole_digits(values: pa.ChunkedArray) -> int:
    plain = pc.replace_substring(values, "-", "")
    point = pc.find_substring(plain, ".")
    return int(pc.max(pc.if_else(pc.less(point, 0), pc.utf8_length(plain), point)).as_py() or 0)


def _all(values: pa.ChunkedArray, pattern: str) -> bool:
    return bool(pc.all(pc.match_substring_regex(values, pattern)).as_py())


def _any(values: pa.ChunkedArray, pattern: str) -> bool:
    return bool(pc.any(pc.match_substring_regex(values, pattern)).as_py())
