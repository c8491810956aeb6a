"""Hides the headers of which nothing that is shown has a value."""

from __future__ import annotations

import numpy as np

from dastan.core.engine.axes import Axis
from dastan.core.engine.grains import ancestors


def without_empty(axis: Axis, has_values: np.ndarray) -> tuple[Axis, np.ndarray]:
    """The arranged axis without its empty headers, and for each entry its new place, -1 where it is hidden.

    A header stays as long as one below it does, and the grand total in any case.

    Args: `has_values` is `(n,) bool`: which entries have a value in some cell.
    """
    kept = has_values.copy()
    if axis.total is not None:
        kept[axis.total] = True
    for place, placement in enumerate(axis.placements):
        if placement.layout is not None:
            # Headings and blanks of a layout have no values to be without.
            kept |= axis.is_heading & (axis.codes[:, place] >= 0)
    # The finest first, so that what a header brings in brings in what is above itself.
    for number, grain in reversed(list(enumerate(axis.grains))):
        entries = np.flatnonzero((axis.grain == number) & kept)
        if not len(entries) or not grain.depths:
            continue
        codes, last = axis.codes[entries], len(grain.depths) - 1
        placement = axis.placements[last]
        for depth in [each for each in placement.shown_depths if each < grain.depths[last]]:
            own = ancestors(placement, grain, last, codes[:, last], depth)
            _keep(kept, axis.entries_of(grain.at(last, depth), np.column_stack([codes[:, :last], own])))
        _keep(kept, axis.entries_of(grain.upto(last), codes[:, :last]) if last else np.empty(0, np.int64))
    entries = np.flatnonzero(kept)
    place_of = np.full(len(axis), -1)
    place_of[entries] = np.arange(len(entries))
    return axis.arranged(entries, axis.is_heading[entries]), place_of


def _keep(kept: np.ndarray, entries: np.ndarray) -> None:
    kept[entries[entries >= 0]] = True
