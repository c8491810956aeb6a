"""Which headers stand on an axis: those that have cells, and members without records where these are wanted."""

from __future__ import annotations

from itertools import zip_longest

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.analysis.resolve import find_dimension
from dastan.core.analysis.ways import leads_on
from dastan.core.engine.axes import Axis, build_axis
from dastan.core.engine.differing import with_firsts
from dastan.core.engine.facts import Fact, seen_in
from dastan.core.engine.grains import AxisGrain, Placement, axis_grains, see
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner


def placements_on(axis: AxisName, questioner: Questioner, as_seen: bool = False) -> tuple[Placement, ...]:
    """What is open of the hierarchies on an axis; as the reader sees it, where that is wanted."""
    placements = []
    document, source = questioner.document, questioner.seen if as_seen else questioner.source
    placed = document.question.axis(axis)
    for outer, inner in zip_longest(placed, placed[1:]):
        members = source.members(outer.dimension, outer.hierarchy)
        opening = document.opening(outer.dimension, outer.hierarchy)
        into = inner if inner is not None and leads_on(document, outer, inner) else None
        placements.append(see(outer, members, opening, into, as_seen))
    return tuple(placements)


def standing_on(axis: AxisName, facts: list[Fact], shape: Shape, questioner: Questioner) -> Axis:
    """An axis with every header that has a cell, and those of members without records where they are wanted."""
    limits = shape.rows if axis == "rows" else shape.columns
    placements, question = limits.placements, questioner.document.question
    existing = seen_in(facts, axis, shape)
    if not question.measures:
        # Without a measure there are no records to ask: the outermost dimension shows its members.
        existing = _with_all_members({}, limits, 0, questioner)
    for place, placement in enumerate(placements):
        if placement.layout is not None:
            existing = _with_all_rows(existing, placements, place)
        elif placement.placed.all_members:
            existing = _with_all_members(existing, limits, place, questioner)
    existing = with_firsts(existing, placements)
    placed = question.axis(axis)
    caption = find_dimension(questioner.model, placed[0].dimension).all_caption if placed else "Total"
    return build_axis(limits, existing, caption)


def _with_all_rows(
    existing: dict[AxisGrain, np.ndarray], placements: tuple[Placement, ...], place: int
) -> dict[AxisGrain, np.ndarray]:
    """The headers with every row of a layout, headings and blanks among them, wherever any of its rows stands."""
    found = dict(existing)
    for grain, codes in existing.items():
        if len(grain.depths) == place + 1:
            outer = np.unique(codes[:, :place], axis=0)
            rows = np.arange(len(placements[place].layout.rows))  # type: ignore[union-attr]
            every = np.column_stack([np.repeat(outer, len(rows), axis=0), np.tile(rows, len(outer))]).astype(np.int32)
            found[grain] = np.unique(np.concatenate([codes, every]), axis=0)
    return found


def _with_all_members(
    existing: dict[AxisGrain, np.ndarray], limits: AxisLimits, place: int, questioner: Questioner
) -> dict[AxisGrain, np.ndarray]:
    """The headers with every member of one place that the filters on its own dimension leave, blank ones left out."""
    placements = limits.placements
    if place >= len(placements):
        return existing
    placement = placements[place]
    visible = questioner.seen.members(placement.placed.dimension, placement.placed.hierarchy).visible
    found = dict(existing)
    for grain in axis_grains(placements[: place + 1]):
        if len(grain.depths) <= place or place in grain.others:
            continue
        depth = grain.depths[place]
        level = placement.members.levels[depth]
        codes = questioner.codes_left(placement.members, depth)
        codes = codes[visible[depth][codes]] if visible else codes
        codes = codes[[level.keys[code] is not None for code in codes]] if len(codes) else codes
        outer = found.get(grain.upto(place), np.empty((0, place), np.int32)) if place else np.empty((1, 0), np.int32)
        headers = np.column_stack([np.repeat(outer, len(codes), axis=0), np.tile(codes, len(outer))]).astype(np.int32)
        headers = headers[limits.stands(grain, headers)]
        # A member that stands brings in what it stands under, which may be a blank without records of its own.
        for upper in [each for each in placement.shown_depths if each <= depth]:
            above = headers.copy()
            above[:, place] = placement.members.at_depth(headers[:, place], depth, upper)
            at = grain.at(place, upper)
            both = [each for each in (found.get(at), above) if each is not None]
            found[at] = np.unique(np.concatenate(both), axis=0)
    return found
