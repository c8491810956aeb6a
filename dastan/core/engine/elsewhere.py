"""Values of bases in another scope than the cell's own, found for all cells of a pair of grains at once.

Nothing is asked cell by cell: a scope above is one grouped request at coarser levels, in which every cell finds the
group that it lies under. Another time, or a member in place of all others, is the same request under another condition,
whose groups land on the cells.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from dastan.core.analysis.views import calendars_of
from dastan.core.engine.above import looked_up
from dastan.core.engine.aggregates import roll_up
from dastan.core.engine.filters import reached_by
from dastan.core.engine.grains import grouped_parts, header_sets
from dastan.core.engine.grouping import find_rows, group_rows, packed_rows
from dastan.core.engine.limits import AxisLimits
from dastan.core.engine.plan import Asked, PairOfGrains, Shape, group_pairs
from dastan.core.engine.questioner import Questioner, Records
from dastan.core.engine.replaced import Landing, Replaced, Replacements, Standing
from dastan.core.engine.waist import Conditions, Groups, MemberSet, Request
from dastan.core.formula.bases import BaseAggregate
from dastan.core.formula.scopes import Above, Earlier, Instead, Opening, Replacing, ToDate, Without
from dastan.core.model.joints import JoinedMembers
from dastan.core.values import empty_values, joined


@dataclass(frozen=True, slots=True, eq=False)
class Landed:
    """Groups of another scope, and the headers of this pair of grains that they belong to, `(n, n_places)` each."""

    row_codes: np.ndarray
    column_codes: np.ndarray
    groups: Groups


@dataclass(frozen=True, slots=True, eq=False)
class Elsewhere:
    """Asks for some records beyond the scopes of the cells. Args: `aggregates` are those wanted, a count first."""

    records: Records
    aggregates: tuple[BaseAggregate, ...]
    shape: Shape
    questioner: Questioner
    _asked: dict[tuple[PairOfGrains, Conditions], Groups] = field(default_factory=dict, init=False)
    replacements: Replacements = field(init=False)

    def __post_init__(self) -> None:
        own = Replacements(self.records, self.aggregates, self.shape, self.questioner)
        object.__setattr__(self, "replacements", own)

    def looked_up(
        self, scope: Above | Without, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> Iterator[tuple[np.ndarray, Groups, np.ndarray]]:
        """For some cells after others: which they are, the groups above or outside, and the one that each finds, -1 for
        none."""
        if isinstance(scope, Above):
            yield from self._above(scope, pair, row_codes, column_codes)
        else:
            groups, at = self._without(scope, pair, row_codes, column_codes)
            yield np.arange(len(row_codes)), groups, at

    def _above(
        self, scope: Above, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> Iterator[tuple[np.ndarray, Groups, np.ndarray]]:
        for each in looked_up(scope, self.shape, pair, row_codes, column_codes):
            groups = self._groups(each.pair, self._filtered(each.limits))
            found = np.hstack(self.shape.axis_codes(each.pair, groups.codes, len(groups)))
            wanted = np.hstack([each.row_codes, each.column_codes])
            yield each.cells, groups, find_rows(wanted, found, rooms_of(self.shape, each.pair))

    def _without(
        self, scope: Without, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> tuple[Groups, np.ndarray]:
        """Groups by everything but some dimensions, and the one that each cell finds, `(n,) int64`, -1 for none."""
        levels, own, rooms = [], [], []
        for limits, grain, codes in (
            (self.shape.rows, pair.rows, row_codes), (self.shape.columns, pair.columns, column_codes),
        ):  # fmt: skip
            for place, placement, depth in grouped_parts(limits.placements, grain):
                if placement.placed.dimension not in scope.dimensions:
                    is_rest, code = place in grain.others, codes[:, place]
                    levels.append(placement.level(depth))
                    own.append(placement.parent_of_others(code, grain.depths[place]) if is_rest else code)
                    rooms.append(len(placement.members.levels[depth]))
        condition = self._outside(scope, pair)
        asked = Request(self.records.grain, tuple(levels), self.aggregates, condition, self.questioner.rights)
        groups = self.questioner.group(asked)
        if not levels:
            return groups, np.full(len(row_codes), 0 if len(groups) else -1)
        return groups, find_rows(np.stack(own, axis=1), np.stack(groups.codes, axis=1), rooms)

    def _outside(self, scope: Without, pair: PairOfGrains) -> Conditions:
        """What holds for the records, whatever their members of some dimensions."""
        reached = self.questioner.reached(self.records.grain)
        if scope.where:
            _, filters = self.replacements.filters_by(scope.dimensions)
        else:
            filters = self.records.condition + reached_by(self.questioner.filters, reached)
        limits: Conditions = ()
        for each, grain in ((self.shape.rows, pair.rows), (self.shape.columns, pair.columns)):
            placed = [one.placed.dimension for one in each.placements]
            kept = {at: sets for at, sets in each.kept.items() if placed[at[0]] not in scope.dimensions}
            limits += AxisLimits(each.placements, each.totals_over, kept).condition(grain)
        return filters + reached_by(limits, reached) + self.questioner.where(scope.where)

    def landed(self, scope: Replacing, pair: PairOfGrains) -> Landed | None:
        """The groups of another scope by the headers that they land on; None where there is no such scope."""
        found = [self._landed(scope, each, pair) for each in self.replacements.of(scope, pair)]
        return _one_after_another(found) if found else None

    def _landed(self, scope: Replacing, replaced: Replaced, pair: PairOfGrains) -> Landed:
        groups = self._groups(pair, replaced.condition)
        row_codes, column_codes = self.shape.axis_codes(pair, groups.codes, len(groups))
        at = np.arange(len(groups))
        for landing in replaced.landings:
            place = landing.standing.place
            codes = row_codes if landing.standing.axis == "rows" else column_codes
            again, onto = _pairs(codes[:, place], landing)
            at, row_codes, column_codes = at[again], row_codes[again], column_codes[again]
            (row_codes if landing.standing.axis == "rows" else column_codes)[:, place] = onto
        taken = Groups(tuple(each[at] for each in groups.codes), tuple(each.take(at) for each in groups.values))
        landed = Landed(row_codes, column_codes, taken)
        if isinstance(scope, ToDate):
            return self._added_up(landed, pair)
        is_joint = np.zeros(len(at), np.bool_)
        for landing in replaced.landings:
            codes = row_codes if landing.standing.axis == "rows" else column_codes
            is_joint |= _is_joint(landing.standing, codes[:, landing.standing.place])
        if isinstance(scope, Instead | Opening) or not is_joint.any():
            return landed
        # The times before of what a joint member joins come to its own.
        own, joint = (_chosen(landed, np.flatnonzero(each)) for each in (~is_joint, is_joint))
        return _one_after_another([own, self._added_up(joint, pair)])

    def _added_up(self, landed: Landed, pair: PairOfGrains) -> Landed:
        """Groups of several members that landed on the same headers as one; of aggregates that do not roll up nothing,
        for which nothing to date is ever asked."""
        width, count = landed.row_codes.shape[1], len(landed.row_codes)
        codes, rooms = np.hstack([landed.row_codes, landed.column_codes]), rooms_of(self.shape, pair)
        levels = [
            (codes[:, at].astype(np.int32), np.arange(room, dtype=np.int32), room) for at, room in enumerate(rooms)
        ]
        grouped = group_rows(levels, count)
        matrix = np.stack(grouped.codes, axis=1) if levels else np.empty((grouped.count, 0), np.int32)
        values = tuple(
            roll_up(each.kind, own, grouped.group, grouped.count, each.argument)
            if each.rolls_up
            else empty_values(grouped.count, own.scale)
            for each, own in zip(self.aggregates, landed.groups.values, strict=True)
        )
        return Landed(matrix[:, :width], matrix[:, width:], Groups(grouped.codes, values))

    def same_time(
        self, scope: Earlier | Opening | Instead, pair: PairOfGrains, codes: np.ndarray, landed: np.ndarray
    ) -> np.ndarray:
        """`(n_cells,) bool`: the cells at whose time any groups landed.

        Args: `codes` are the cells' headers, rows first; `landed` the cells of the groups.
        """
        times = calendars_of(self.questioner.model) if isinstance(scope, Instead) else [scope.dimension]
        width = len(pair.rows.depths)
        stand = [each for name in times for each in self.replacements.standing(name, pair)]
        places = [each.place if each.axis == "rows" else width + each.place for each in stand]
        if not places:
            return np.full(len(codes), len(landed) > 0)
        rooms = [rooms_of(self.shape, pair)[each] for each in places]
        own = packed_rows(codes[:, places], rooms)
        return np.isin(own, own[landed])

    def behind(
        self,
        scope: Above | Replacing | Without | None,
        pair: PairOfGrains,
        row_codes: np.ndarray,
        column_codes: np.ndarray,
    ) -> Conditions | None:
        """What holds for the records of a scope at one cell; None where there is no such scope, or its headers do not
        reach the records. Args: `row_codes` and `column_codes` are its headers' codes, `(1, n_places)`."""
        if isinstance(scope, Above):
            found = next(looked_up(scope, self.shape, pair, row_codes, column_codes), None)
            if found is None:
                return None
            headers = self._headers(found.pair, found.row_codes, found.column_codes)
            return self._reached(self._filtered(found.limits), headers)
        if isinstance(scope, Without):
            headers = self._headers(pair, row_codes, column_codes)
            headers = tuple(each for each in headers if each.dimension not in scope.dimensions)
            return self._reached(self._outside(scope, pair), headers)
        if scope is None:
            limits = self.shape.rows.condition(pair.rows) + self.shape.columns.condition(pair.columns)
            return self._reached(self._filtered(limits), self._headers(pair, row_codes, column_codes))
        for each in self.replacements.of(scope, pair):
            before = self._headers_before(scope.dimension, each, pair, row_codes, column_codes)
            if before is not None:
                return self._reached(each.condition, before)
        return None

    def _headers_before(
        self, dimension: str, replaced: Replaced, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray
    ) -> tuple[MemberSet, ...] | None:
        """What it takes to belong to the headers of one cell, with those in place of its own that land on it."""
        headers: tuple[MemberSet, ...] = self._headers(pair, row_codes, column_codes)
        for landing in replaced.landings:
            standing = landing.standing
            codes = row_codes if standing.axis == "rows" else column_codes
            came = landing.came[landing.onto == codes[0, standing.place]].tolist()
            if not came:
                return None
            members = standing.placement.members
            paths = tuple(members.path_of(standing.depth, each) for each in came)
            own = (dimension, members.hierarchy)
            headers = tuple(each for each in headers if (each.dimension, each.hierarchy) != own)
            headers += (MemberSet(*own, paths),)
        return headers

    def _headers(self, pair: PairOfGrains, row_codes: np.ndarray, column_codes: np.ndarray) -> tuple[MemberSet, ...]:
        """What it takes to belong to the headers of one cell."""
        rows, columns = self.shape.rows.placements, self.shape.columns.placements
        return header_sets(rows, pair.rows, row_codes[0]) + header_sets(columns, pair.columns, column_codes[0])

    def _reached(self, condition: Conditions, headers: tuple[MemberSet, ...]) -> Conditions | None:
        reached = self.questioner.reached(self.records.grain)
        return condition + headers if all(reached(each.dimension) for each in headers) else None

    def _filtered(self, limits: Conditions) -> Conditions:
        reached = self.questioner.reached(self.records.grain)
        return self.records.condition + reached_by(self.questioner.filters + limits, reached)

    def _groups(self, pair: PairOfGrains, condition: Conditions) -> Groups:
        known = self._asked.get((pair, condition))
        if known is None:
            asked = Asked(self.records.grain, self.aggregates, condition, self.questioner.rights)
            found = group_pairs({pair: ()}, self.shape, asked, self.questioner.group, self.questioner.watch)
            known = self._asked[pair, condition] = found[pair]
        return known


def _is_joint(standing: Standing, codes: np.ndarray) -> np.ndarray:
    """`(n,) bool`: which members at a place are joint ones."""
    members = standing.placement.members
    branches = members.branches if isinstance(members, JoinedMembers) else ()
    return np.isin(codes, [each.code for each in branches if each.deep == standing.depth])


def _chosen(landed: Landed, rows: np.ndarray) -> Landed:
    groups = Groups(
        tuple(each[rows] for each in landed.groups.codes), tuple(each.take(rows) for each in landed.groups.values)
    )
    return Landed(landed.row_codes[rows], landed.column_codes[rows], groups)


def _one_after_another(parts: Sequence[Landed]) -> Landed:
    """Groups that landed apart, as one."""
    if len(parts) == 1:
        return parts[0]
    return Landed(
        np.concatenate([each.row_codes for each in parts]),
        np.concatenate([each.column_codes for each in parts]),
        Groups(
            tuple(np.concatenate(each) for each in zip(*(part.groups.codes for part in parts), strict=False)),
            tuple(joined(each) for each in zip(*(part.groups.values for part in parts), strict=True)),
        ),
    )


def _pairs(codes: np.ndarray, landing: Landing) -> tuple[np.ndarray, np.ndarray]:
    """Which groups land, each as often as its member does, and on which members."""
    order = np.argsort(landing.came, kind="stable")
    came, onto = landing.came[order], landing.onto[order]
    first = np.searchsorted(came, codes, "left")
    counts = np.searchsorted(came, codes, "right") - first
    again = np.repeat(np.arange(len(codes)), counts)
    within = np.arange(len(again)) - np.repeat(np.cumsum(counts) - counts, counts)
    return again, onto[first[again] + within]


def rooms_of(shape: Shape, pair: PairOfGrains) -> list[int]:
    """Above every code of each place of a pair of grains, rows first."""
    sides = ((shape.rows, pair.rows), (shape.columns, pair.columns))
    return [
        placement.code_rooms[depth]
        for limits, grain in sides
        for placement, depth in zip(limits.placements, grain.depths, strict=False)
    ]
