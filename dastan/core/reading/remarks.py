"""Quiet warnings that the numbers themselves give rise to: records that belong nowhere, a period not finished."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from dastan.core.analysis.document import Analysis, PlacedMeasure
from dastan.core.analysis.gesture import FilterMembers, ShowView
from dastan.core.analysis.made import with_made
from dastan.core.analysis.views import Change
from dastan.core.analysis.warnings import Warning, warning_key
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.waist import MemberSet, Source
from dastan.core.model.document import SemanticModel
from dastan.core.model.reach import is_calendar
from dastan.core.reading.backing import CellPlace, cell_value

LEAST_SHARE = 0.01
"""Fewer records that belong nowhere than this share are not worth a word."""


def remarks_of(document: Analysis, answer: Answer, model: SemanticModel, source: Source) -> tuple[Warning, ...]:
    """What the answer gives rise to, without what was silenced."""
    model = with_made(model, document)
    found = (*_nowhere(answer, model), *_unfinished(document, answer, model, source))
    return tuple(each for each in found if each.key not in document.dress.silenced)


def _nowhere(answer: Answer, model: SemanticModel) -> Iterator[Warning]:
    """The outermost member of records that belong nowhere, where it holds more than a little of an additive measure."""
    at = next((at for at, adds_up in enumerate(answer.adds_up) if adds_up), None)
    if at is None or answer.rows.total is None or answer.columns.total is None:
        return
    measure = answer.measures[at]
    for axis in (answer.rows, answer.columns):
        placement = axis.placements[0] if axis.placements else None
        nowhere = _nowhere_entry(axis)
        if placement is None or nowhere is None:
            continue
        # A share says something only of numbers with one sign.
        shown = [_at_total(answer, axis, entry, at) for entry in _outermost(axis)]
        own, whole = _at_total(answer, axis, nowhere, at), _at_total(answer, axis, axis.total or 0, at)
        if min(shown) < 0 or own < LEAST_SHARE * whole or not whole:
            continue
        dimension = model.dimension(placement.placed.dimension)
        share = f"{own / whole:.1%}".replace("%", " %")
        yield Warning(
            measure.name,
            f"{share} of {measure.caption} is {dimension.without_caption}: left blank, or not known.",
            "Leave them out",
            FilterMembers(
                dimension=dimension.name, hierarchy=placement.placed.hierarchy, action="leave_out", members=((None,),)
            ),
            warning_key("nowhere", dimension.name),
        )


def _at_total(answer: Answer, axis: Axis, entry: int, measure: int) -> float:
    """A measure at a header and at the other axis's total; 0 where it is empty."""
    rows, columns = answer.rows.total or 0, answer.columns.total or 0
    place = CellPlace(entry, columns, measure) if axis is answer.rows else CellPlace(rows, entry, measure)
    return float(cell_value(answer, place) or 0)


def _outermost(axis: Axis) -> list[int]:
    """The entries of the outermost members of a hierarchy that is shown from its top."""
    numbers = [at for at, each in enumerate(axis.grains) if each.depths == (0,) and not each.others]
    return [int(each) for each in np.flatnonzero(np.isin(axis.grain, numbers))]


def _is_whole_change(placed: PlacedMeasure) -> bool:
    """Whether a placed measure is a change on an earlier period, however much of its own there is."""
    return isinstance(placed.view, Change) and placed.view.on != "member" and not placed.view.same_part


def _nowhere_entry(axis: Axis) -> int | None:
    for entry in _outermost(axis):
        if axis.placements[0].members.levels[0].keys[int(axis.codes[entry, 0])] is None:
            return entry
    return None


def _unfinished(document: Analysis, answer: Answer, model: SemanticModel, source: Source) -> Iterator[Warning]:
    """The last period shown, where the data ends before it does and others stand beside it, or it is compared with a
    whole one."""
    if answer.newest is None:
        return
    for axis in (answer.rows, answer.columns):
        for place, placement in enumerate(axis.placements):
            dimension = model.dimension(placement.placed.dimension)
            if not is_calendar(model, dimension):
                continue
            depth = placement.seen_depths[-1] if placement.seen_depths else 0
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
                compared = next((each for each in document.question.measures if _is_whole_change(each)), None)
                if compared is not None and isinstance(compared.view, Change):
                    yield Warning(
                        "",
                        f"{caption} is not finished: the data goes to {answer.newest}, and its changes are on whole "
                        "periods.",
                        "Compare the same part",
                        ShowView(placed=compared, view=replace(compared.view, same_part=True)),
                        warning_key("unfinished change", caption),
                    )
                    continue
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
