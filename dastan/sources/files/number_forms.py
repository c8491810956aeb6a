"""Numbers as people write them, in the plain form that is read."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pyarrow as pa
import pyarrow.compute as pc

from dastan.core.model.document import NumberForm

_SIGN = r"[\p{Sc}%]"
_MINUS = r"^\s*[\p{Sc}%]?\s*[(\-−]|[\-−]\s*[\p{Sc}%]?\s*$"


WHOLE_UP_TO = 2**53
"""Beyond it a float does not tell whole numbers apart."""


def float_text(number: float) -> str:
    """A float as CSV has it: a whole one without a point."""
    return str(int(number)) if number.is_integer() and abs(number) < WHOLE_UP_TO else repr(number)


def plainly(values: pa.ChunkedArray, form: NumberForm) -> pa.ChunkedArray:
    """Text with its numbers written plainly, where all of it is numbers of that form; else as it is."""
    if not is_of(values, form):
        return values
    plain = pc.replace_substring_regex(values, f"[^0-9{form.decimal}]", "")
    plain = pc.replace_substring(plain, form.decimal, ".") if form.decimal != "." else plain
    signed = pc.binary_join_element_wise("-", plain, "")
    return pc.if_else(pc.match_substring_regex(values, _MINUS), signed, plain)


def is_of(values: pa.ChunkedArray, form: NumberForm) -> bool:
    """Whether all values are numbers of that form."""
    sample = values.drop_null()
    return bool(len(sample) and pc.all(pc.match_substring_regex(sample, _pattern(form))).as_py())


def fitting(values: pa.ChunkedArray, form: NumberForm) -> pa.ChunkedArray:
    """`(n,)` whether each value is a number of that form."""
    return pc.match_substring_regex(values, _pattern(form))


def number_forms(values: pa.ChunkedArray) -> Iterator[NumberForm]:
    """The forms by which all values are numbers, without marks that none of them has."""
    plain: list[str] = []
    for decimal, thousands in ((".", ""), (".", ","), (",", ""), (",", "."), (",", " "), (".", " "), (".", "'")):
        form = NumberForm(decimal=decimal, thousands=thousands)  # type: ignore[arg-type]
        if decimal not in plain and is_of(values, form):
            plain += [] if thousands else [decimal]
            yield form


def forms_of(values: pa.ChunkedArray) -> Iterator[str]:
    """The declarations by which all values are numbers."""
    for form in number_forms(values):
        parts = [] if form.decimal == "." else ['decimal: ","']
        parts += [f'thousands: "{form.thousands}"'] if form.thousands else []
        yield f"numbers: {{{', '.join(parts)}}}"


def _pattern(form: NumberForm) -> str:
    whole = rf"([0-9]{{1,3}}({re.escape(form.thousands)}[0-9]{{3}})+|[0-9]+)" if form.thousands else "[0-9]+"
    fraction = rf"({re.escape(form.decimal)}[0-9]+)?"
    return rf"^\s*{_SIGN}?\s*[(+\-−]?\s*{_SIGN}?\s*{whole}{fraction}\s*{_SIGN}?\s*[)\-−]?\s*{_SIGN}?\s*$"
