"""What a changed model does to a saved analysis: whether it goes on as it is, and how it follows what is renamed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, is_dataclass
from typing import Any, Literal

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.model.differences import Difference, Touched
from dastan.core.model.document import SemanticModel

EffectKind = Literal["breaks", "changes", "mended", "follows"]


@dataclass(frozen=True, slots=True)
class Effect:
    """What becomes of an analysis. `breaks`: something that it names would be gone; `changes`: its numbers may be
    others; `mended`: what was gone is there again; `follows`: it goes on under the new names."""

    kind: EffectKind
    words: tuple[str, ...]


def effect_on(
    document: Analysis, before: SemanticModel, after: SemanticModel, found: Sequence[Difference], touches: Touched
) -> Effect | None:
    """What becomes of an analysis; none where it goes on as it is. Args: `found` are the models' differences."""
    names = tuple(_named(document))
    renames = renames_of(found)
    is_renamed = any(each in renames for each in names)
    if not is_renamed:
        lost_before = {each.text for each in fitted(document, before)[1]}
        lost_after = tuple(each.text for each in fitted(document, after)[1] if each.text not in lost_before)
        if lost_after:
            return Effect("breaks", lost_after)
        if lost_before and not fitted(document, after)[1]:
            return Effect("mended", tuple(sorted(lost_before)))
    measures = {name for part, name in names if part == "measure"}
    dimensions = {name for part, name in names if part == "dimension"}
    other = [before.measure(each).caption for each in sorted(measures & touches.measures)]
    other += [before.dimension(each).caption for each in sorted(dimensions & touches.dimensions)]
    other += _by_ties(measures, dimensions, before, touches)
    if other:
        return Effect("changes", tuple(dict.fromkeys(other)))
    return (
        Effect("follows", tuple(renames[each] for each in dict.fromkeys(names) if each in renames))
        if is_renamed
        else None
    )


def _by_ties(measures: set[str], dimensions: set[str], model: SemanticModel, touches: Touched) -> Iterator[str]:
    tables = {each.table for each in model.measures if each.name in measures}
    for each in model.dimensions:
        if each.name in dimensions and any((table, each.table) in touches.ties for table in tables):
            yield each.caption


def _named(part: Any) -> Iterator[tuple[str, str]]:
    """Every measure, dimension, filter, list and prompt that a document names."""
    if is_dataclass(part):
        for each in fields(part):
            value = getattr(part, each.name)
            if isinstance(value, str) and each.name in _NAMES:
                yield each.name, value
            else:
                yield from _named(value)
    elif isinstance(part, list | tuple):
        for each in part:
            yield from _named(each)


_NAMES = ("measure", "dimension", "filter", "list", "prompt")


def renames_of(found: Sequence[Difference]) -> dict[tuple[str, str], str]:
    """The new names of what is called otherwise, by kind and old name."""
    return {(each.part, each.name): each.became for each in found if each.what == "renamed"}


def with_renames(plain: Any, renames: Mapping[tuple[str, str], str]) -> Any:
    """A document, as mappings and lists, under the new names."""
    if isinstance(plain, dict):
        return {
            key: renames.get((key, value), value)
            if isinstance(value, str) and key in _NAMES
            else with_renames(value, renames)
            for key, value in plain.items()
        }
    if isinstance(plain, list):
        return [with_renames(each, renames) for each in plain]
    return plain
