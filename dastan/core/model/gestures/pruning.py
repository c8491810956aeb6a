"""Takes out of a model what names something that is gone from it, and tells what that was."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from dastan.core.errors import InputError
from dastan.core.model.check import Fault, check_model
from dastan.core.model.document import SemanticModel

_MOST_ROUNDS = 500
_KINDS = {
    "measures": "measure", "filters": "filter", "lists": "list", "joints": "joint member",
    "prompts": "question", "dimensions": "dimension", "relationships": "tie",
}  # fmt: skip


def pruned(model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
    """The model without the parts that have lost what they are made of; and these, in words.

    Raises: InputError where that is a role: what people may see is never widened by the way.
    """
    gone: list[str] = []
    for _ in range(_MOST_ROUNDS):
        faults = check_model(model)
        if not faults:
            break
        model, words = _without(model, faults[0])
        gone.append(words)
    return model, tuple(gone)


def _without(model: SemanticModel, fault: Fault) -> tuple[SemanticModel, str]:
    section, *rest = fault.place
    at = rest[0] if rest else None
    if section == "roles" and isinstance(at, int):
        caption = model.roles[at].caption
        raise InputError(
            f"The role “{caption}” is told by it, and would no longer hold.",
            "Change that role first: what people may see does not change by the way.",
        )
    if not isinstance(at, int) or section not in _KINDS:
        raise InputError(fault.message, fault.hint)
    parts = getattr(model, str(section))
    if section == "dimensions" and len(rest) > 2 and rest[1] in ("hierarchies", "attributes"):
        dimension = model.dimensions[at]
        inner = str(rest[1])
        found = getattr(dimension, inner)
        kept = tuple(each for number, each in enumerate(found) if number != rest[2])
        if kept:
            fewer: dict[str, Any] = {inner: kept}
            changed = replace(dimension, **fewer)
            lost = found[int(rest[2])]
            dimensions = tuple(changed if each is dimension else each for each in parts)
            return replace(model, dimensions=dimensions), f"{lost.caption or lost.name} of {dimension.caption}"
    lost = parts[at]
    called = lost.role if section == "relationships" else lost.caption
    left: dict[str, Any] = {str(section): tuple(each for each in parts if each is not lost)}
    return replace(model, **left), f"the {_KINDS[str(section)]} {called}"


def also_words(gone: tuple[str, ...]) -> str:
    """What went with something, to be put behind what was done."""
    if not gone:
        return ""
    return f", and with it {gone[0]}" if len(gone) == 1 else f", and with it {len(gone)} parts that were made of it"
