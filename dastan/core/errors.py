"""The one tree of errors that a person may see.

AppError(code, message, hint, details)
├ InputError      ModelError · FormulaError(span)
├ NotFoundError   ├ ConflictError   ├ ForbiddenError
├ LimitError (too many groups, a sum too large)
├ SourceError (tables that cannot be read)
└ CancelledError (a question that was taken back)

The message says what happened, in the user's own names; the hint says what to do next.
"""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches
from typing import Any


class AppError(Exception):
    """An expected failure, shown to people as it stands."""

    code = "error"

    def __init__(
        self, message: str, hint: str = "", *, code: str | None = None, details: dict[str, Any] | None = None
    ) -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint
        self.details = details or {}
        if code is not None:
            self.code = code

    def __str__(self) -> str:
        return f"{self.message} {self.hint}".strip()


class InputError(AppError):
    """What was asked cannot be understood or does not fit."""

    code = "input"


class ModelError(InputError):
    """A model document with faults; `details["faults"]` lists each with its place."""

    code = "model"


class FormulaError(InputError):
    """A formula that cannot be read; `details["span"]` is (start, end) in characters."""

    code = "formula"


class NotFoundError(AppError):
    """Something named does not exist, or not for this reader."""

    code = "not-found"


class ConflictError(AppError):
    """Somebody else changed it first."""

    code = "conflict"


class ForbiddenError(AppError):
    """This person may not do that."""

    code = "forbidden"


class LimitError(AppError):
    """A question too large to answer."""

    code = "limit"


class SourceError(AppError):
    """Rows that cannot be read from where they come from."""

    code = "source"


class CancelledError(AppError):
    """Somebody took the question back."""

    code = "cancelled"


def nearest_name(name: str, known: Iterable[str]) -> str | None:
    """The known name that is most like `name`; None where none is near."""
    lowered = {each.lower(): each for each in sorted(set(known))}
    close = get_close_matches(name.lower(), list(lowered), n=1, cutoff=0.6)
    return lowered[close[0]] if close else None


def did_you_mean(name: str, known: Iterable[str]) -> str:
    """A hint that names at most three known names close to `name`, or says what there is.

    >>> did_you_mean("Bordings", ["Boardings", "Distance"])
    'Did you mean "Boardings"?'
    """
    names = sorted(set(known))
    lowered = {each.lower(): each for each in names}
    close = [lowered[each] for each in get_close_matches(name.lower(), list(lowered), n=3, cutoff=0.6)]
    if close:
        return "Did you mean " + " or ".join(f"“{each}”" for each in close) + "?"
    if not names:
        return ""
    shown = ", ".join(f"“{each}”" for each in names[:6])
    more = f" and {len(names) - 6} more" if len(names) > 6 else ""
    return f"There is {shown}{more}."
