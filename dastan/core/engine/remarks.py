"""Quiet warnings that the numbers themselves give rise to: records that belong nowhere, a period not finished."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gesture import FilterMembers
from dastan.core.analysis.warnings import Warning, warning_key
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.backing import CellPlace, cell_value
from dastan.core.engine.waist import MemberSet, Source
from dastan.core.model.document import SemanticModel
from dastan.core.model.reach import is_calendar

LEAST_SHARE = 0.01
"""Fewer records that belong nowhere than this share are not worth a word."""
_ADDITIVE = ("sum", "count", "count_values")


def remarks_of(document: Analysis, answer: Answer, model: SemanticModel, source: Source) -> tuple[Warning, ...]:
    """What the answer gives rise to, without what was silenced."""
    found = (*_nowhere(answer, model), *_unfinished(answer, model, source))
    return tuple(each for each in found if each.key not in document.dress.silenced)


def _nowhere(answer: Answer, model: SemanticModel) -> Iterator[Warning]:
    """An outermost member of records that belong nowhere, where it holds more than a little of an additive measure."""
    place = next((at for at, each in enumerate(answer.measures) if each.aggregate in _ADDITIVE), None)
    if place is None or answer.rows.total is None or answer.columns.total is None:
        return
    for axis, is_rows in ((answer.rows, True), (answer.columns, False)):
        entry = _nowhere_entry(axis)
        if entry is None:
            continue
        at = CellPlace(entry, answer.columns.total, place) if is_rows else CellPlace(answer.rows.total, entry, place)
        own, whole = (
            cell_value(answer, at),
            cell_value(answer, CellPlace(answer.rows.total, answer.columns.total, place)),
        )
        if own is None or not whole or float(own) / float(whole) < LEAST_SHARE:
            continue
        placed = axis.placements[0].placed
        dimension = model.dimension(placed.dimension)
        share = f"{float(own) / float(whole):.1%}".replace("%", " %")
        yield Warning(
            answer.measures[place].name,
            f"{share} of {answer.measures[place].caption} is {dimension.without_caption}: left blank, or not known.",
            "Leave them out",
            FilterMembers(
                dimension=placed.dimension, hierarchy=placed.hierarchy, action="leave_out", members=((None,),)
            ),
            warning_key("nowhere", placed.dimension),
        )


def _nowhere_entry(axis: Axis) -> int | None:
    for number, grain in enumerate(axis.grains):
        if len(grain.depths) == 1 and grain.depths[0] == 0 and not grain.others:
            level = axis.placements[0].members.levels[0]
            for entry in np.flatnonzero(axis.grain == number).tolist():
                if level.keys[int(axis.codes[entry, 0])] is None:
                    return int(entry)
    return None


def _unfinished(answer: Answer, model: SemanticModel, source: Source) -> Iterator[Warning]:
    """The last period shown, where the data ends before it does and others stand beside it."""
    if answer.newest is None:
        return
    for axis in (answer.rows, answer.columns):
        for place, placement in enumerate(axis.placements):
            dimension = model.dimension(placement.placed.dimension)
            if not is_calendar(model, dimension):
                continue
            depth = placement.seen_depths()[-1] if placement.seen_depths() else 0
            is_shown = [each.depths[place : place + 1] == (depth,) and place not in each.others for each in axis.grains]
            numbers = np.flatnonzero(is_shown)
            codes = np.unique(axis.codes[np.isin(axis.grain, numbers), place])
            level = placement.members.levels[depth]
            dated = [int(code) for code in codes if level.keys[int(code)] is not None]
            if len(dated) < 2:
                continue
            path = placement.members.path_of(depth, dated[-1])
            own = MemberSet(placement.placed.dimension, placement.placed.hierarchy, (path,))
            last = source.last_day(dimension.name, (own,))
            if last is not None and last > answer.newest:
                caption = level.captions[dated[-1]]
                yield Warning(
                    "",
                    f"{caption} is not finished: the data goes to {answer.newest}, and the period to {last}.",
                    f"Leave out {caption}",
                    FilterMembers(
                        dimension=dimension.name, hierarchy=placement.placed.hierarchy, action="leave_out",
                        members=(path,),
                    ),
                    warning_key("unfinished", caption),
                )  # fmt: skip
