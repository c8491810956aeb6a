"""Where formulas are worked out: on the cells of a cube."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from dastan.core.analysis.document import AxisName
from dastan.core.engine.axes import Axis
from dastan.core.engine.beneath import beneath_cells
from dastan.core.engine.cells_on_rows import cells_on_rows
from dastan.core.engine.cube import CellsOfPair, Cube, cells_by_pair
from dastan.core.engine.facts import Fact
from dastan.core.engine.neighbours import Sequences, along_axis, sequences_along
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.engine.stands_at import entries_standing
from dastan.core.engine.waist import Groups
from dastan.core.formula.formula import Along, Base, Beneath, OnRows, Standing
from dastan.core.formula.scopes import Above, Without
from dastan.core.values import Values, put_at

Found = list[tuple[np.ndarray, Groups, np.ndarray]]
"""Some cells, `(n,) int64` places in the cube, groups, and the one that each finds."""


@dataclass(frozen=True, slots=True, eq=False)
class OnCube:
    """The cells of a cube, in its order."""

    cube: Cube
    facts: Sequence[Fact]
    rows: Axis
    columns: Axis
    shape: Shape
    questioner: Questioner
    _found: dict[tuple[int, Above | Without], Found] = field(default_factory=dict, init=False)
    _sequences: dict[tuple[AxisName, bool], Sequences] = field(default_factory=dict, init=False)
    _by_pair: tuple[CellsOfPair, ...] = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_by_pair", tuple(cells_by_pair(self.cube, self.rows, self.columns)))

    @property
    def size(self) -> int:
        return len(self.cube.rows)

    def base(self, base: Base) -> Values:
        scope = base.scope
        if not isinstance(scope, Above | Without):
            return self.cube.value_of(base)
        number, fact = next((at, each) for at, each in enumerate(self.facts) if base in each.wanted.bases)
        if (number, scope) not in self._found:
            self._found[number, scope] = self._looked_up(fact, scope)
        found = self._found[number, scope]
        return put_at([(cells, fact.wanted.value(base, own).take(under)) for cells, own, under in found], self.size)

    def _looked_up(self, fact: Fact, scope: Above | Without) -> Found:
        """What every cell finds above or outside, whichever facts have records there: but for headers that do not reach
        the fact."""
        found: Found = []
        for each in self._by_pair:
            if each.pair not in fact.pairs:
                continue
            for cells, groups, under in fact.elsewhere.looked_up(scope, each.pair, each.row_codes, each.column_codes):
                has = np.flatnonzero(under >= 0)
                found.append((each.cells[cells[has]], groups, under[has]))
        return found

    def along(self, along: Along, own: Values) -> Values:
        name, restarts = along.axis, along.restarts
        if (name, restarts) not in self._sequences:
            axis = self.rows if name == "rows" else self.columns
            self._sequences[name, restarts] = sequences_along(self.cube, axis, name, restarts)
        return along_axis(along, own, self._sequences[name, restarts])

    def beneath(self, beneath: Beneath) -> Values:
        return beneath_cells(beneath, self._by_pair, self.shape, self.questioner)

    def standing(self, standing: Standing) -> Values:
        rows, columns = (entries_standing(standing, axis) for axis in (self.rows, self.columns))
        holds = rows[self.cube.rows] | columns[self.cube.columns]
        return Values(holds.astype(np.int64), 0, np.ones(self.size, np.bool_))

    def on_rows(self, laid_out: OnRows, own: Values) -> Values:
        return cells_on_rows(laid_out.of, own, self.cube, self.rows, self.columns)
