"""What a changed model does to a saved analysis: whether it goes on as it is, and how it follows what is renamed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.lost import fitted
from dastan.core.model.differences import Difference, Touched
from dastan.core.model.document import SemanticModel, next_named
from dastan.core.model.named import Name, named_in, with_renames

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
    renames = renames_of(found)
    names = tuple(dict.fromkeys(named_in(document)))
    lost_before = {each.text for each in fitted(document, before)[1]}
    lost = tuple(each.text for each in fitted(with_renames(document, renames), after)[1])
    new = tuple(each for each in lost if each not in lost_before)
    if new:
        return Effect("breaks", new)
    other = [_caption(each, before) for each in names if each in touches.parts]
    other += _by_ties(names, before, touches)
    if other:
        return Effect("changes", tuple(dict.fromkeys(other)))
    if any(each in renames for each in names):
        return Effect("follows", tuple(renames[each] for each in names if each in renames))
    return Effect("mended", tuple(sorted(lost_before))) if lost_before and not lost else None


_SECTIONS = {
    "measure": "measures", "dimension": "dimensions", "filter": "filters", "list": "lists", "joint": "joints",
    "prompt": "prompts",
}  # fmt: skip


def _caption(named: Name, model: SemanticModel) -> str:
    """What people call a part of a model."""
    part, name = named
    return str(next_named(getattr(model, _SECTIONS[part]), name).caption)


def _by_ties(names: Sequence[Name], model: SemanticModel, touches: Touched) -> Iterator[str]:
    tables = {each.table for each in model.measures if ("measure", each.name) in names}
    for each in model.dimensions:
        if ("dimension", each.name) in names and any((table, each.table) in touches.ties for table in tables):
            yield each.caption


def renames_of(found: Sequence[Difference]) -> dict[Name, str]:
    """The new names of what is called otherwise, by kind and old name."""
    return {(each.part, each.name): each.became for each in found if each.what == "renamed"}
