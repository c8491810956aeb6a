"""What every document is made of: its parts, and the keys by which members are known."""

from __future__ import annotations

from typing import ClassVar

Key = str | int | float | bool | None
"""One member's own key, as JSON writes it; a date is its ISO text, None stands for a blank."""

MemberPath = tuple[Key, ...]
"""A member's keys from the top of its hierarchy down, so `("tram", "north")` is a group of trams."""


class Part:
    """A part of a document: unknown fields in it are faults, not silently dropped."""

    __slots__ = ()
    __pydantic_config__: ClassVar[dict[str, str]] = {"extra": "forbid"}


_VEILED = "hidden:"


def veiled(token: str) -> str:
    """The key that stands in place of one whose member a reader may not see."""
    return _VEILED + token


def token_of(key: Key) -> str | None:
    """The token of a key that stands for a hidden one; None for any other key."""
    return key[len(_VEILED) :] if isinstance(key, str) and key.startswith(_VEILED) else None


def is_veiled(path: MemberPath) -> bool:
    """Whether a path stands for a member that its reader may not see."""
    return any(token_of(key) is not None for key in path)
