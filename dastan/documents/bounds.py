"""How large a JSON text may be in every direction, before anything is made of it.

A document is written by people: it has neither a hundred thousand parts nor parts inside one another without end. What
goes beyond is refused here, with its place, so that nothing further in has to expect it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import orjson

from dastan.core.errors import InputError


@dataclass(frozen=True, slots=True)
class Bounds:
    """`depth` counts lists and objects inside one another; `parts` every value, list and object."""

    depth: int = 64
    parts: int = 200_000
    text: int = 2_000
    """Characters of one text, but for a text that stands at the top."""
    top_text: int = 20_000
    number: int = 2**63
    """No number is as large, nor as small below zero."""


def bounded_json(raw: bytes, what: str = "What was sent", bounds: Bounds = Bounds()) -> Any:
    """What a JSON text says. Raises InputError where it is none, or goes beyond the bounds."""
    try:
        found = orjson.loads(raw)
    except orjson.JSONDecodeError as exc:
        raise InputError(f"{what}, line {exc.lineno}: this is not JSON: {exc.msg}.", "Mend it there.") from exc
    _check(found, what, bounds)
    return found


def _check(found: Any, what: str, bounds: Bounds) -> None:
    count = 0
    waiting: list[tuple[Any, int]] = [(found, 0)]
    while waiting:
        part, depth = waiting.pop()
        if depth > bounds.depth:
            raise InputError(
                f"{what} has more than {bounds.depth} parts inside one another.", "Write it flatter.", code="too-deep"
            )
        if isinstance(part, dict):
            count += len(part)
            for name, value in part.items():
                _check_text(name, what, bounds.text)
                waiting.append((value, depth + 1))
        elif isinstance(part, list):
            count += len(part)
            waiting.extend((value, depth + 1) for value in part)
        elif isinstance(part, str):
            _check_text(part, what, bounds.top_text if depth <= 1 else bounds.text)
        elif isinstance(part, int | float) and not -bounds.number < part < bounds.number:
            raise InputError(
                f"{what} holds the number {part:.4g}, which is too large.", "Use one of 18 digits at most."
            )
        if count > bounds.parts:
            raise InputError(f"{what} has more than {bounds.parts:,} parts.", "Make it smaller.", code="too-many-parts")


def _check_text(text: str, what: str, most: int) -> None:
    if len(text) > most:
        raise InputError(
            f"{what} holds a text of {len(text):,} characters, where {most:,} are the most: “{text[:40]}…”.",
            "Shorten it.",
            code="text-too-long",
        )
    if "\0" in text:
        raise InputError(f"{what} holds a text with a NUL character.", "Take it out.")
