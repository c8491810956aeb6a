"""The order in which the headers of an axis are read, and which of them have figures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dastan.core.analysis.document import AxisName, Order
from dastan.core.engine.axes import Axis
from dastan.core.engine.grains import AxisGrain, Placement, ancestors
from dastan.core.model.members import LevelMembers, rank_of_key
from dastan.core.values import Values

_LAST = np.iinfo(np.int64).max
_PASSED, _OTHERS = _LAST - 2, _LAST - 1

_Repeated = Callable[[np.ndarray], np.ndarray]
"""Which headers say what their only child says, of those with figures: `(n,) bool` for each entry."""

ValuesAt = Callable[[Order], Values | None]
"""A measure's value for each entry of the axis, at the header of the other axis that an order names."""


@dataclass(frozen=True, slots=True)
class Totals:
    """Where totals stand on an axis: the grand total, and by default an open member beside what is below it."""

    axis: AxisName
    grand: Literal["before", "after", "none"]
    of_one: bool = True
    """Whether the total of one child is shown where it says the same again."""

    def of(self, placement: Placement) -> Literal["before", "after", "none"]:
        """Where an open or broken down member of a placement stands."""
        return placement.placed.totals or ("before" if self.axis == "rows" else "after")


def arrange(axis: Axis, totals: Totals, values_at: ValuesAt, repeated: _Repeated) -> tuple[Axis, np.ndarray]:
    """The axis in reading order, and for each entry it had its new place, -1 where it is no longer shown."""
    kept = np.ones(len(axis), np.bool_)
    is_heading, without = np.zeros(len(axis), np.bool_), np.zeros(len(axis), np.bool_)
    across = axis.placements[-1].placed.order.across if axis.placements else False
    if across:
        kept &= ~_has_below(axis) & (_depth_count(axis) == len(axis.placements))
        keys = [_ranks_across(axis, values_at)]
    else:
        hidden = [place for place, each in enumerate(axis.placements) if totals.of(each) == "none"]
        if hidden:
            without = _has_below(axis) & np.isin(_depth_count(axis) - 1, hidden)
        if not totals.of_one and axis.placements:
            without |= repeated(~without) & ~_is_laid_out(axis)
        without |= _above_rows(axis)
        has_no_figures = without | _is_bare(axis)
        is_heading = has_no_figures & (totals.axis == "rows")
        kept &= ~(has_no_figures & (totals.axis == "columns"))
        keys = _keys(axis, totals, values_at, is_heading)
    order = np.lexsort(keys[::-1]) if keys else np.arange(len(axis))
    total = axis.total
    order = order[order != total]
    kept_order = order[kept[order]]
    is_said = not axis.placements or (totals.grand != "none" and not without[axis.total])
    if total is not None and is_said:
        parts = [[total], kept_order] if totals.grand == "before" else [kept_order, [total]]
        kept_order = np.concatenate([np.asarray(each, np.int64) for each in parts])
    place_of = np.full(len(axis), -1)
    place_of[kept_order] = np.arange(len(kept_order))
    return axis.arranged(kept_order, is_heading[kept_order]), place_of


def _above_rows(axis: Axis) -> np.ndarray:
    """`(n,) bool`: what the rows of a layout stand under, the grand total among it: no total stands over them."""
    places = [place for place, each in enumerate(axis.placements) if each.layout is not None]
    return np.asarray(_depth_count(axis) <= max(places)) if places else np.zeros(len(axis), np.bool_)


def _is_laid_out(axis: Axis) -> np.ndarray:
    """`(n,) bool`: rows of a layout, which have their figures whatever stands below them."""
    places = [place for place, each in enumerate(axis.placements) if each.layout is not None]
    return np.isin(_depth_count(axis) - 1, places)


def _is_bare(axis: Axis) -> np.ndarray:
    """`(n,) bool`: the headings and blanks of layouts, which have no figures."""
    found = np.zeros(len(axis), np.bool_)
    for place, placement in enumerate(axis.placements):
        if placement.layout is not None:
            bare = [at for at, row in enumerate(placement.layout.rows) if row.kind in ("heading", "blank")]
            found |= np.isin(axis.codes[:, place], bare) & (_depth_count(axis) == place + 1)
    return found


def _depth_count(axis: Axis) -> np.ndarray:
    """How many placements each entry's header has."""
    return np.asarray(np.array([len(each.depths) for each in axis.grains])[axis.grain])


def _has_below(axis: Axis) -> np.ndarray:
    """`(n,) bool`: which headers have others below them, but for the grand total."""
    below = np.zeros(len(axis), np.bool_)
    parents = axis.parents()
    below[parents[parents >= 0]] = True
    if axis.total is not None:
        below[axis.total] = False
    return below


def _keys(axis: Axis, totals: Totals, values_at: ValuesAt, is_heading: np.ndarray) -> list[np.ndarray]:
    """Sort keys, the outermost first: a header's ancestor at each depth of each place, ranked among its siblings."""
    keys = []
    for place, placement in enumerate(axis.placements):
        ranks = _Ranks(axis, place, values_at)
        for depth in placement.shown_depths:
            key = np.zeros(len(axis), np.int64)
            for number, grain in enumerate(axis.grains):
                entries = axis.entries_at(number)
                if not len(entries) or not grain.depths:
                    continue
                last = len(grain.depths) - 1
                if last < place or (last == place and grain.depths[place] < depth):
                    # Its own subtotal stands before or after what is below it, as its placement says.
                    # What is a heading only stands before it in any case.
                    is_after = totals.of(axis.placements[last]) == "after"
                    key[entries] = np.where(is_heading[entries], -_LAST, _LAST) if is_after else -_LAST
                elif grain.depths[place] >= depth:
                    key[entries] = ranks.at(grain, depth, axis.codes[entries])
            keys.append(key)
    return keys


class _Ranks:
    """The ranks of the members of one placement among their siblings."""

    def __init__(self, axis: Axis, place: int, values_at: ValuesAt) -> None:
        self._axis = axis
        self._place = place
        self._placement = axis.placements[place]
        self._order = self._placement.placed.order
        self._values = values_at(self._order) if self._order.by == "measure" else None
        self._by_grain: dict[AxisGrain, np.ndarray] = {}

    def at(self, grain: AxisGrain, depth: int, codes: np.ndarray) -> np.ndarray:
        """The ranks of the headers' ancestors at a depth of the place, `(n,) int64`."""
        own = ancestors(self._placement, grain, self._place, codes[:, self._place], depth)
        is_others = self._place in grain.others and grain.depths[self._place] == depth
        if is_others:
            return np.full(len(codes), _OTHERS)
        if self._values is None:
            return np.asarray(member_ranks(self._placement, depth, self._order)[own])
        above = grain.at(self._place, depth)
        entries = self._axis.entries_of(above, np.column_stack([codes[:, : self._place], own]))
        ranks = self._value_ranks(above)
        level = self._placement.members.levels[depth]
        passed = _PASSED - len(level) + level.natural[own]
        return np.asarray(np.where(entries >= 0, ranks[entries], passed))

    def _value_ranks(self, grain: AxisGrain) -> np.ndarray:
        """Each entry's rank among those of a grain, by value; `(n_entries,) int64`, 0 for entries of other grains."""
        if grain not in self._by_grain:
            assert self._values is not None
            entries = (
                self._axis.entries_at(self._axis.grains.index(grain))
                if grain in self._axis.grains
                else np.empty(0, np.int64)
            )
            level = self._placement.members.levels[grain.depths[self._place]]
            natural = level.first[self._axis.codes[entries, self._place]]
            ranks = np.zeros(len(self._axis) + 1, np.int64)
            ranks[entries[by_value(self._values.take(entries), natural, self._order.descending)]] = np.arange(
                len(entries)
            )
            self._by_grain[grain] = ranks
        return self._by_grain[grain]


def by_value(values: Values, natural: np.ndarray, descending: bool) -> np.ndarray:
    """The places in order of value, empty ones last, equal ones in natural order."""
    data = np.where(values.present, values.data, 0)
    return np.lexsort((natural, -data if descending else data, ~values.present))


def member_ranks(placement: Placement, depth: int, order: Order) -> np.ndarray:
    """Each member's rank at a depth by its caption, key or natural order; blanks come last either way.

    Members with the same caption or key keep their natural order.
    """
    level = placement.members.levels[depth]
    natural = level.natural
    if order.by == "measure" or (order.by == "natural" and not order.descending):
        return natural  # by a measure at a header that does not stand now: as it would stand without
    sort = natural if order.by == "natural" else _dense([_sort_key(level, code, order) for code in range(len(level))])
    sequence = np.lexsort((natural, -sort if order.descending else sort))
    ranks = np.empty(len(level), np.int64)
    ranks[sequence] = np.arange(len(level))
    is_blank = np.array([key is None for key in level.keys], np.bool_)
    return np.where(is_blank, _PASSED - len(level) + natural, ranks)


def _sort_key(level: LevelMembers, code: int, order: Order) -> tuple[object, ...]:
    return (level.captions[code].casefold(),) if order.by == "caption" else rank_of_key(level.keys[code])


def _dense(keys: Sequence[tuple[object, ...]]) -> np.ndarray:
    """Equal keys have equal numbers, in ascending order of key."""
    number = {key: place for place, key in enumerate(sorted(set(keys)))}
    return np.array([number[key] for key in keys], np.int64)


def _ranks_across(axis: Axis, values_at: ValuesAt) -> np.ndarray:
    """One rank for every entry, whatever it stands under; the rest that a limit leaves comes last."""
    place = len(axis.placements) - 1
    order = axis.placements[place].placed.order
    values = values_at(order) if order.by == "measure" else None
    is_others = np.array([place in each.others for each in axis.grains], np.bool_)[axis.grain]
    if values is not None:
        data = np.where(values.present, -values.data if order.descending else values.data, 0)
        own = [~values.present, data]
    elif order.by == "measure" or (order.by == "natural" and not order.descending):
        own = []
    else:
        keys: list[tuple[object, ...]] = [(0,)] * len(axis)
        is_blank = np.zeros(len(axis), np.bool_)
        for number, grain in enumerate(axis.grains):
            if len(grain.depths) == place + 1 and place not in grain.others:
                level = axis.placements[place].members.levels[grain.depths[place]]
                for entry in axis.entries_at(number):
                    code = int(axis.codes[entry, place])
                    is_blank[entry] = level.keys[code] is None
                    keys[entry] = (
                        (0,) if is_blank[entry] or order.by == "natural" else (1, *_sort_key(level, code, order))
                    )
        dense = _dense(keys)
        own = [is_blank, -dense if order.descending else dense]
    natural = _natural_position(axis)
    if order.by == "natural" and order.descending:
        natural = [np.where(is_blank | is_others, each, -each) for each in natural]
    sequence = np.lexsort([is_others, *own, *natural][::-1])
    position = np.empty(len(axis), np.int64)
    position[sequence] = np.arange(len(axis))
    return position


def _natural_position(axis: Axis) -> list[np.ndarray]:
    """Sort keys that put entries in natural order, the outermost place first."""
    keys = []
    for place, placement in enumerate(axis.placements):
        position, depth = np.full(len(axis), _LAST), np.full(len(axis), _LAST)
        for number, grain in enumerate(axis.grains):
            entries = axis.entries_at(number)
            if place >= len(grain.depths) or not len(entries):
                continue
            own, codes = grain.depths[place], axis.codes[entries, place]
            if place in grain.others:
                # After the last of what stands under the same parent.
                parent = placement.parent_depth(own)
                if parent is not None:
                    position[entries] = placement.members.levels[parent].last[placement.parent_of_others(codes, own)]
            else:
                position[entries] = placement.members.levels[own].first[codes]
                depth[entries] = own
        keys += [position, depth]
    return keys
