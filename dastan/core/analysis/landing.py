"""Where a dimension may land: every gap on both axes, with the words for it."""

from __future__ import annotations

from collections.abc import Iterator

from dastan.core.analysis.captions import placed_caption
from dastan.core.analysis.document import AXES, Analysis, AxisName, PlacedDimension
from dastan.core.analysis.gestures import PutDimension
from dastan.core.analysis.offer import Offer, Thing
from dastan.core.analysis.placing import placed_in, waiting_in
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.model.document import SemanticModel

JOINING: dict[AxisName, str] = {"rows": "by", "columns": "against"}


def landings(document: Analysis, thing: Thing, model: SemanticModel) -> Iterator[Offer]:
    """Every gap for a hierarchy, but for those beside itself. Raises NotFoundError."""
    dimension = find_dimension(model, thing.dimension or "")
    hierarchy = find_hierarchy(dimension, thing.hierarchy or dimension.hierarchies[0].name)
    own = (dimension.name, hierarchy.name)
    present = placed_in(document.question, *own) or waiting_in(document.question, *own)
    caption = placed_caption(dimension, hierarchy, thing.level or (present.level if present else None))
    for axis in AXES:
        placed = document.question.axis(axis)
        places = [at for at, each in enumerate(placed) if (each.dimension, each.hierarchy) == own]
        for at in range(len(placed) + 1):
            if places and thing.level is None and at in (places[0], places[0] + 1):
                continue
            gesture = PutDimension(
                dimension=dimension.name, hierarchy=hierarchy.name, level=thing.level, axis=axis, at=at
            )
            yield Offer(landing_words(caption, JOINING[axis], placed, at, model, own), axis, at, gesture)


def landing_words(
    caption: str,
    joining: str,
    placed: tuple[PlacedDimension, ...],
    at: int,
    model: SemanticModel,
    own: tuple[str, str],
) -> str:
    others = [each for each in placed if (each.dimension, each.hierarchy) != own]
    if not others:
        return f"{joining} {caption}"

    def name(each: PlacedDimension) -> str:
        dimension = find_dimension(model, each.dimension)
        return placed_caption(dimension, find_hierarchy(dimension, each.hierarchy), each.level)

    before = [each for each in placed[:at] if each in others]
    if before:
        return f"{joining} {name(before[-1])}, each broken down by {caption}"
    return f"{joining} {caption}, each broken down by {name(others[0])}"
