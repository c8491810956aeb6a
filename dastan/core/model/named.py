"""What a part of a document names: measures, dimensions, ready-made filters, lists, joint members and prompts of its
model."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from typing import Any, TypeVar

from dastan.core.model.conditions import ReadyFilter
from dastan.core.model.document import Measure, ModelJoint

Name = tuple[str, str]
"""A kind, "measure", and the name of one of that kind."""

_Part = TypeVar("_Part")
_FIELDS = {
    "measure": "measure", "numerator": "measure", "denominator": "measure", "dimension": "dimension",
    "time": "dimension", "list": "list", "prompt": "prompt",
}  # fmt: skip
"""Fields that hold a name, with its kind."""


def _kind_of(part: Any, field: str) -> str | None:
    if isinstance(part, ReadyFilter) and field == "name":
        return "filter"
    if isinstance(part, ModelJoint) and field == "name":
        return "joint" if getattr(part, "of_model", False) else None
    return _FIELDS.get(field)


def named_in(part: Any) -> Iterator[Name]:
    """Every name that a part holds, at whatever depth."""
    if is_dataclass(part):
        if isinstance(part, Measure):
            yield from (("dimension", each) for each in part.roles)
        for field in fields(part):
            value = getattr(part, field.name)
            kind = _kind_of(part, field.name)
            if isinstance(value, str) and kind is not None:
                yield kind, value
            else:
                yield from named_in(value)
    elif isinstance(part, list | tuple):
        for each in part:
            yield from named_in(each)


def with_renames(part: _Part, renames: Mapping[Name, str]) -> _Part:
    """A part under the new names; the very same where it holds none of the old ones."""
    found: Any = part
    if isinstance(part, tuple):
        found = tuple(with_renames(each, renames) for each in part)
        return found if any(one is not other for one, other in zip(found, part, strict=True)) else part
    if not is_dataclass(part):
        return part
    changed: dict[str, Any] = {}
    for field in fields(part):
        value = getattr(part, field.name)
        kind = _kind_of(part, field.name)
        is_name = isinstance(value, str) and kind is not None
        other = renames.get((str(kind), value), value) if is_name else with_renames(value, renames)
        if other is not value:
            changed[field.name] = other
    if isinstance(part, Measure):
        roles = {renames.get(("dimension", each), each): role for each, role in part.roles.items()}
        changed |= {"roles": roles} if roles != part.roles else {}
    return replace(found, **changed) if changed else part
