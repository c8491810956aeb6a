"""Whether the people of a role would see more by the way: where nothing ties records to what the role is told by."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.model.document import Dimension, Role, SemanticModel
from dastan.core.model.named import named_in
from dastan.core.model.proposing.naming import table_caption
from dastan.core.model.reach import grain_of, reaches


def widened(before: SemanticModel, after: SemanticModel) -> tuple[str, ...]:
    """For each role that is the same in both, which records its people would see all of that it held back until now.

    A role that lets nothing be seen of what it does not reach can only hold back more.
    """
    known = {each.name: each for each in before.roles}
    same = [each for each in after.roles if known.get(each.name) == each and each.elsewhere == "everything"]
    return tuple(dict.fromkeys(words for each in same for words in _of_role(each, before, after)))


def _of_role(role: Role, before: SemanticModel, after: SemanticModel) -> Iterator[str]:
    named = {name for kind, name in named_in(role.conditions) if kind == "dimension"}
    old = {each.name: each for each in before.dimensions}
    for dimension in after.dimensions:
        if dimension.name in named & old.keys():
            held = {each for each in _counted(before) if _reaches(before, each, old[dimension.name])}
            for table in held:
                if table in _counted(after) and not _reaches(after, table, dimension):
                    yield (
                        f"The people of the role “{role.caption}” would see all of {table_caption(table)}: nothing "
                        f"says any more which {dimension.caption} its records belong to."
                    )


def _counted(model: SemanticModel) -> list[str]:
    """The tables whose records are counted, in the order of their measures."""
    return list(dict.fromkeys(each.table for each in model.measures if not each.is_of_others))


def _reaches(model: SemanticModel, table: str, dimension: Dimension) -> bool:
    """Whether every measure of a table can be held back by a dimension."""
    grains = {grain_of(each) for each in model.measures if each.table == table and not each.is_of_others}
    return all(reaches(model, each, dimension) for each in grains)
