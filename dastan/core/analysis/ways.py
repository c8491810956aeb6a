"""Ways down: hierarchies that a person made on the spot, of dimensions nested in the table.

A way's first step stands on an axis like any hierarchy; each further one stands inside it and breaks down only the
headers that were opened. So a member opens into the next step as it would into the next level.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from dastan.core.analysis.captions import level_caption
from dastan.core.analysis.document import Analysis, PlacedDimension, WayDown, WayStep
from dastan.core.analysis.placing import axis_of, is_same_hierarchy
from dastan.core.analysis.resolve import check_level, find_dimension, find_hierarchy
from dastan.core.errors import InputError, NotFoundError
from dastan.core.model.document import SemanticModel

LEAST_STEPS = 2


def find_way(document: Analysis, caption: str) -> WayDown:
    """The way of that caption. Raises NotFoundError."""
    for each in document.ways_down:
        if each.caption == caption:
            return each
    raise NotFoundError(f"There is no way down called “{caption}”.", "Look at the catalogue for those there are.")


def way_caption(steps: Sequence[WayStep | PlacedDimension], model: SemanticModel) -> str:
    """What a way is called unless said: the levels that it goes through."""
    return " › ".join(level_caption(find_dimension(model, each.dimension), each.level) for each in steps)


def leads_on(document: Analysis, outer: PlacedDimension, inner: PlacedDimension) -> bool:
    """Whether members of one hierarchy open into the other, which stands just inside it: as a way goes.

    One that breaks nothing down yet can be opened into as well: nothing else would show it.
    """
    pair = [(each.dimension, each.hierarchy) for each in (outer, inner)]
    if not inner.only_under:
        return inner.only_under is not None
    return any(
        [(each.dimension, each.hierarchy) for each in way.steps[at : at + 2]] == pair
        for way in document.ways_down
        for at in range(len(way.steps) - 1)
    )


def is_led_to(document: Analysis, placed: PlacedDimension) -> bool:
    """Whether a hierarchy stands as a further step of a way down, which stays when it is closed."""
    axis = axis_of(document.question, placed)
    on_axis = document.question.axis(axis) if axis else ()
    return any(
        is_same_hierarchy(inner, placed) and leads_on(document, outer, inner) for outer, inner in pairwise(on_axis)
    )


def check_way(way: WayDown, model: SemanticModel) -> None:
    """Raises NotFoundError or InputError for the first thing in a way that the model cannot answer."""
    if not way.caption.strip():
        raise InputError("A way down has no name.", "Give it one.")
    if len(way.steps) < LEAST_STEPS or len({(each.dimension, each.hierarchy) for each in way.steps}) < len(way.steps):
        raise InputError(
            f"The way down “{way.caption}” does not go through two hierarchies or more, each once.",
            "Nest the dimensions in the table, then make the way of them.",
        )
    for each in way.steps:
        dimension = find_dimension(model, each.dimension)
        check_level(dimension, find_hierarchy(dimension, each.hierarchy), each.level)
