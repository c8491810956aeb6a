"""Where formulas are worked out: on the cells of a cube."""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.engine.axes import Axis
from dastan.core.engine.beneath import beneath_cells
from dastan.core.engine.cube import Cube
from dastan.core.engine.neighbours import along_axis
from dastan.core.engine.plan import Shape
from dastan.core.engine.questioner import Questioner
from dastan.core.formula.formula import Along, Base, Beneath
from dastan.core.values import Values


@dataclass(frozen=True, slots=True, eq=False)
class OnCube:
    """The cells of a cube, in its order."""

    cube: Cube
    rows: Axis
    columns: Axis
    shape: Shape
    questioner: Questioner

    @property
    def size(self) -> int:
        return len(self.cube.rows)

    def base(self, base: Base) -> Values:
        return self.cube.value_of(base)

    def along(self, along: Along, own: Values) -> Values:
        return along_axis(along, own, self.cube, self.rows, self.columns)

    def beneath(self, beneath: Beneath) -> Values:
        return beneath_cells(beneath, self.cube, self.rows, self.columns, self.shape, self.questioner)
