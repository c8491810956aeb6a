"""Texts that a spreadsheet would take for a formula."""

from __future__ import annotations

_BEGINS_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def harmless(value: str) -> str:
    """The text as a spreadsheet shows it and does not compute it: with an apostrophe before what begins a formula.

    Source: OWASP, CSV injection. A plain number stays as it is.

    >>> harmless("=1+2"), harmless("-3.5"), harmless("Night ferry")
    ("'=1+2", '-3.5', 'Night ferry')
    """
    if not value.startswith(_BEGINS_FORMULA):
        return value
    digits = value[1:] if value[0] in "+-" else value
    is_number = digits.isascii() and digits.replace(".", "", 1).isdigit()
    return value if is_number else f"'{value}"
