"""A model as it is answered: with the levels that its data or its attributes give.

A hierarchy of parents and children has as many levels as its longest branch, a list has one, and an attribute
that stands in no hierarchy is a level of its own.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from dastan.core.model.document import Attribute, Dimension, Hierarchy, SemanticModel


def complete_model(model: SemanticModel, depths: Mapping[tuple[str, str], int]) -> SemanticModel:
    """The model with a level wherever one can be shown.

    Args: `depths` holds, by dimension and hierarchy name, how deep parents and children go.
    """
    return replace(model, dimensions=tuple(_complete(each, depths) for each in model.dimensions))


def _complete(dimension: Dimension, depths: Mapping[tuple[str, str], int]) -> Dimension:
    attributes = list(dimension.attributes)
    hierarchies = []
    for each in dimension.hierarchies:
        if each.parent_child is not None:
            count = max(depths.get((dimension.name, each.name), 1), 1)
            levels = tuple(f"{each.name}_{number}" for number in range(1, count + 1))
            for number, level in enumerate(levels, 1):
                caption = f"Level {number}"
                attributes.append(Attribute(name=level, key=each.parent_child.key, caption=caption))
            hierarchies.append(replace(each, levels=levels))
        elif each.is_list:
            caption = each.caption or each.name.replace("_", " ").capitalize()
            attributes.append(Attribute(name=each.name, key="", caption=caption))
            hierarchies.append(replace(each, levels=(each.name,)))
        else:
            hierarchies.append(each)
    names = {each.name for each in hierarchies}
    used = {level for each in hierarchies for level in each.levels}
    for attribute in dimension.attributes:
        if attribute.name not in used | names:
            hierarchies.append(Hierarchy(name=attribute.name, caption=attribute.caption, levels=(attribute.name,)))
    return replace(dimension, attributes=tuple(attributes), hierarchies=tuple(hierarchies))
