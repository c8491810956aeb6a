"""Days in other forms than year, month and day: read as they are declared, and the declaration that fits, proposed."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime, timedelta
from itertools import combinations

import pyarrow as pa
import pyarrow.compute as pc

SERIAL = "serial"
"""The number of a day in a spreadsheet: 45,658 is 1 January 2025. Source: OpenDocument 1.3, null date 1899-12-30."""
_DAY_ZERO = date(1899, 12, 30)
_FIRST_SERIAL, _LAST_SERIAL = 61, 2_958_465
"""From 1 March 1900, before which spreadsheets count a day that never was, to the end of the year 9999."""
_LIKELY_SERIALS = range(14_000, 80_000)
"""Days from 1938 to 2119: other numbers are hardly meant as days."""
_DAYS = [
    *(f"{one}{sign}{two}{sign}%Y" for sign in "./-" for one, two in (("%d", "%m"), ("%m", "%d"))),
    *(f"{one}{sign}{two}{sign}%y" for sign in "./-" for one, two in (("%d", "%m"), ("%m", "%d"))),
    "%Y.%m.%d", "%Y%m%d", "%d %b %Y", "%d %B %Y", "%d-%b-%Y", "%d-%b-%y", "%b %d, %Y", "%B %d, %Y",
]  # fmt: skip
_LIKELY = [f"{day}{time}" for time in ("", " %H:%M", " %H:%M:%S") for day in _DAYS]
_ISO = "%Y-%m-%d"
_LOOKED_AT = 2_000
"""So many different values tell in which form a column is."""


class AmbiguousDayError(ValueError):
    """A value is another day in another of the forms that are declared."""


def days_by(values: pa.ChunkedArray, forms: tuple[str, ...]) -> pa.ChunkedArray:
    """Days written in some forms, each different value read once: Arrow itself takes 30.02. for the second of March.

    Raises: ArrowInvalid for a value that has none of the forms, or is two days by two of them.
    """
    coded = values.combine_chunks().dictionary_encode()
    coded = coded.chunk(0) if isinstance(coded, pa.ChunkedArray) else coded
    try:
        days = pa.array([day_of(str(each), forms) for each in coded.dictionary.to_pylist()], pa.date32())
    except ValueError as error:
        raise pa.ArrowInvalid(str(error)) from error
    return pa.chunked_array([days.take(coded.indices)])


def day_of(text: str, forms: Iterable[str]) -> date:
    """The day that a value is. Raises ValueError where it has none of the forms, AmbiguousDayError where it is two."""
    found: dict[date, str] = {}
    for form in forms:
        day = _day(text, form)
        if day is not None:
            found.setdefault(day, form)
    if len(found) > 1:
        meant = " and ".join(f"{day} by {form}" for day, form in found.items())
        raise AmbiguousDayError(f"“{text}” is {meant}")
    if not found:
        raise ValueError(text)
    return next(iter(found))


def proposed_forms(values: pa.ChunkedArray) -> list[tuple[str, ...]]:
    """The declarations by which all values are days, each of one form or of two; several where the values do not tell
    which is meant, none where no form fits."""
    seen = [str(each) for each in pc.unique(values.drop_null()).to_pylist()[:_LOOKED_AT]]
    if not seen:
        return []
    reads = {form: {each for each in seen if _is_likely(each, form)} for form in (SERIAL, _ISO, *_LIKELY)}
    whole: list[tuple[str, ...]] = [(form,) for form, read in reads.items() if len(read) == len(seen) and form != _ISO]
    if whole:
        # Between points the day stands first, unless it cannot.
        return _without_doubles(
            seen, [each for each in whole if _day_first(each) == each or _day_first(each) not in whole]
        )
    some = [form for form, read in reads.items() if read]
    pairs = (pair for pair in combinations(some, 2) if len(reads[pair[0]] | reads[pair[1]]) == len(seen))
    return _without_doubles(seen, [pair for pair in pairs if not _is_ambiguous(seen, pair)])


def told(values: pa.ChunkedArray, column: str) -> str:
    """The declarations that fit, as a model says them; where there are two, with a value that tells them apart.
    "" where none does."""
    found = proposed_forms(values)[:2]
    each_once = (str(each) for each in pc.unique(values.drop_null()).to_pylist()) if len(found) > 1 else ()
    first = next((each for each in each_once if len({day_of(each, forms) for forms in found}) > 1), "")
    lines = []
    for forms in found:
        form = f'"{forms[0]}"' if len(forms) == 1 else "[" + ", ".join(f'"{each}"' for each in forms) + "]"
        said = f"`columns: {{{column}: {{type: date, date_format: {form}}}}}`"
        lines.append(f"{said} reads {first} as {day_of(first, forms)}" if len(found) > 1 else said)
    return ", ".join(lines[:-1]) + (" and " if len(lines) > 1 else "") + lines[-1] if lines else ""


def _day_first(forms: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(each.replace("%m.%d.", "%d.%m.") for each in forms)


def _day(text: str, form: str) -> date | None:
    if form == SERIAL:
        number = int(text.split(".")[0]) if text.replace(".", "", 1).isdecimal() else 0
        return _DAY_ZERO + timedelta(number) if _FIRST_SERIAL <= number <= _LAST_SERIAL else None
    try:
        return datetime.strptime(text.strip(), form).date()
    except ValueError:
        return None


def _is_likely(text: str, form: str) -> bool:
    if form == SERIAL:
        return text.replace(".", "", 1).isdecimal() and int(text.split(".")[0]) in _LIKELY_SERIALS
    return _day(text, form) is not None


def _is_ambiguous(seen: list[str], forms: tuple[str, ...]) -> bool:
    try:
        for each in seen:
            day_of(each, forms)
    except AmbiguousDayError:
        return True
    return False


def _without_doubles(seen: list[str], found: list[tuple[str, ...]]) -> list[tuple[str, ...]]:
    """Of declarations by which every value is the same day, the first."""
    by_days = {tuple(day_of(each, forms) for each in seen): forms for forms in reversed(found)}
    return [forms for forms in found if forms in by_days.values()]
