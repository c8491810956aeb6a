"""Ways down: hierarchies that a person made on the spot, of dimensions nested in the table.

A way's first step stands on an axis like any hierarchy; each further one stands inside it and breaks down only the
headers that were opened. So a member opens into the next step as it would into the next level.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dastan.core.analysis.captions import level_caption
from dastan.core.analysis.document import Analysis, PlacedDimension, WayDown, WayStep
from dastan.core.analysis.gesture import ForgetWayDown, MakeWayDown, PutWayDown
from dastan.core.analysis.placing import placed_in, waiting_in, without_dimension
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


def change_ways(
    document: Analysis, gesture: MakeWayDown | PutWayDown | ForgetWayDown, model: SemanticModel
) -> Analysis:
    """The document after such a gesture. Raises NotFoundError, InputError."""
    match gesture:
        case MakeWayDown():
            return _make(document, gesture, model)
        case PutWayDown():
            return _put(document, gesture, model)
        case ForgetWayDown(caption=caption):
            gone = find_way(document, caption)
            return replace(document, ways_down=tuple(each for each in document.ways_down if each != gone))


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


def _make(document: Analysis, gesture: MakeWayDown, model: SemanticModel) -> Analysis:
    placed = document.question.axis(gesture.axis)
    if len(placed) < LEAST_STEPS:
        raise InputError("A way down goes through two hierarchies or more.", "Nest another one inside first.")
    steps = tuple(WayStep(dimension=each.dimension, hierarchy=each.hierarchy, level=each.level) for each in placed)
    way = WayDown(caption=gesture.caption.strip() or way_caption(steps, model), steps=steps)
    if any(each.caption == way.caption for each in document.ways_down):
        raise InputError(f"There is a way down called “{way.caption}” already.", "Give this one another name.")
    closed = (placed[0], *(replace(each, only_under=each.only_under or ()) for each in placed[1:]))
    question = document.question.with_axis(gesture.axis, closed)
    return replace(document, question=question, ways_down=(*document.ways_down, way))


def _put(document: Analysis, gesture: PutWayDown, model: SemanticModel) -> Analysis:
    question = document.question
    placed = []
    for at, step in enumerate(find_way(document, gesture.caption).steps):
        name = (step.dimension, step.hierarchy)
        own = placed_in(question, *name) or waiting_in(question, *name)
        own = own or PlacedDimension(dimension=step.dimension, hierarchy=step.hierarchy, level=step.level)
        placed.append(replace(own, level=step.level, skipped=(), only_under=() if at else None))
    for each in placed:
        question = without_dimension(question, each.dimension, each.hierarchy)
    on_axis = question.axis(gesture.axis)
    at = len(on_axis) if gesture.at is None else gesture.at
    if question.measures_on == gesture.axis and question.measures_at is not None and at < question.measures_at:
        question = replace(question, measures_at=question.measures_at + len(placed))
    return replace(document, question=question.with_axis(gesture.axis, (*on_axis[:at], *placed, *on_axis[at:])))
