"""Parts of a question that words write as JSON, made from it.

Each raises TypeError or ValueError for a value that does not fit.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from dastan.core.analysis.document import HeaderPath, PlacedMember, Under
from dastan.core.model.conditions import Prompt, PromptAnswer
from dastan.core.model.parts import MemberPath

_Part = TypeVar("_Part")
_PROMPT_TYPES = ("text", "number", "date", "members")


def path_of(raw: Any) -> MemberPath:
    """A member's keys from the top down."""
    return tuple(_key(each) for each in _list(raw))


def header_path(raw: Any) -> HeaderPath:
    """A header: one path for each hierarchy."""
    return HeaderPath(members=tuple(path_of(each) for each in _list(raw)))


def under(raw: Any) -> Under:
    """The headers in which some members stand, each `[dimension, hierarchy, path]`."""
    members = []
    for dimension, hierarchy, path in _list(raw):
        members.append(PlacedMember(dimension=_text(dimension), hierarchy=_text(hierarchy), path=path_of(path)))
    return Under(members=tuple(members))


def prompt(raw: Any) -> Prompt:
    """A question that an analysis asks."""
    found = _part(Prompt, raw)
    for text in (found.name, found.caption, found.dimension or "", found.hierarchy or ""):
        _text(text)
    if found.type not in _PROMPT_TYPES or not isinstance(found.many, bool) or not isinstance(found.required, bool):
        raise ValueError(found.type)
    return found


def answer(raw: Any) -> PromptAnswer:
    """What was answered."""
    found = _part(PromptAnswer, raw)
    _text(found.prompt)
    return found


def _part(kind: Callable[..., _Part], raw: Any) -> _Part:
    """A part of those fields, its values and members checked. Raises TypeError for a field that it does not have."""
    if not isinstance(raw, dict):
        raise TypeError(raw)
    fields = dict(raw)
    if "values" in fields:
        fields["values"] = path_of(fields["values"])
    if "members" in fields:
        fields["members"] = tuple(path_of(each) for each in _list(fields["members"]))
    return kind(**fields)


def _key(raw: Any) -> Any:
    if raw is not None and not isinstance(raw, str | int | float | bool):
        raise TypeError(raw)
    return raw


def _list(raw: Any) -> list[Any]:
    if not isinstance(raw, list):
        raise TypeError(raw)
    return raw


def _text(raw: Any) -> str:
    if not isinstance(raw, str):
        raise TypeError(raw)
    return raw
