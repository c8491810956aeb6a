"""A number in a row of a financial layout: which other rows it is of, and what their records come to together."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from dastan.core.analysis.document import AXES, AxisName
from dastan.core.analysis.view_terms import Exact, Term
from dastan.core.engine.answer import Answer
from dastan.core.engine.axes import Axis
from dastan.core.engine.cells_on_rows import leaves_rows
from dastan.core.engine.on_rows import RowValues, turned
from dastan.core.formula.formula import calculate
from dastan.core.language.layout_rows import write_row_formula
from dastan.core.model.document import LayoutRow
from dastan.core.model.expression import measures_named
from dastan.core.model.financial_layouts import LaidOutMembers, formula_of_row, rows_under
from dastan.core.reading.backing import CellPlace, cell_value
from dastan.core.reading.one_cell import exact_values

_EXACT = 2**53


@dataclass(frozen=True, slots=True)
class RowPart:
    """A row that a formula names, and its number in the same place."""

    caption: str
    value: Exact


@dataclass(frozen=True, slots=True, eq=False)
class LaidOutCell:
    """A cell in a row of a layout that is worked out from others, or has its sign turned."""

    answer: Answer
    place: CellPlace
    axis_name: AxisName
    at: int
    """The place on the axis at which the layout stands."""
    members: LaidOutMembers
    row: LayoutRow

    @property
    def formula(self) -> str:
        """What the row is, as its author wrote it."""
        written = write_row_formula(self.row, self.members.layout)
        if not self.row.is_turned:
            return written
        return f"-({written})" if written else "the value of its records, with the other sign"

    @property
    def parts(self) -> tuple[RowPart, ...]:
        """The rows that its formula names, with their numbers."""
        if self.row.formula is None:
            return ()
        named = [self._row(name) for name in measures_named(self.row.formula)]
        places = [self.beside(each.name) for each in named]
        return tuple(
            RowPart(row.caption, None if place is None else _whole(cell_value(self.answer, place)))
            for row, place in zip(named, places, strict=True)
        )

    def beside(self, name: str) -> CellPlace | None:
        """The same place in another row; None where that does not stand in the table."""
        axis = self._axis
        entry = self.place.row if self.axis_name == "rows" else self.place.column
        grain = axis.grains[int(axis.grain[entry])]
        codes = axis.codes[entry : entry + 1, : len(grain.depths)].copy()
        codes[0, self.at] = self.members.layout.rows.index(self._row(name))
        found = int(axis.entries_of(grain, codes)[0])
        if found < 0:
            return None
        return replace(self.place, row=found) if self.axis_name == "rows" else replace(self.place, column=found)

    def worked_out(
        self, terms: Sequence[Term], own: Sequence[Exact], of: Callable[[CellPlace], Sequence[Exact]]
    ) -> list[Exact] | None:
        """What each term comes to here; None where a row that it is of does not stand.

        Args: `own` are the values of the terms over the row's own records; `of` gives those at another cell.
        """
        placement = self._axis.placements[self.at]
        known: dict[str, Sequence[Exact]] = {}
        for name in rows_under(self.members.layout, self.row.name):
            place = self.place if name == self.row.name else self.beside(name)
            if place is None:
                return None
            known[name] = own if name == self.row.name else of(place)
        found: list[Exact] = []
        for at, term in enumerate(terms):
            if leaves_rows(term.scope, self.axis_name, placement):
                found.append(own[at])
                continue
            values = {name: exact_values(each[at]) for name, each in known.items()}
            values = {name: turned(each) if self._row(name).is_turned else each for name, each in values.items()}
            formula = formula_of_row(self.members.layout, self.row.name)
            found.append(calculate(formula, RowValues(1, values)).at(0))
        return found

    @property
    def _axis(self) -> Axis:
        return self.answer.rows if self.axis_name == "rows" else self.answer.columns

    def _row(self, name: str) -> LayoutRow:
        return next(each for each in self.members.layout.rows if each.name == name)


def _whole(value: Exact) -> Exact:
    """Beside a row that divides others all are floats: a whole number is still one."""
    return int(value) if isinstance(value, float) and value.is_integer() and abs(value) < _EXACT else value


def laid_out_cell(answer: Answer, place: CellPlace) -> LaidOutCell | None:
    """The row of a layout that a cell stands in, where it is more than the value of its records; None elsewhere."""
    for name, axis, entry in zip(AXES, (answer.rows, answer.columns), (place.row, place.column), strict=True):
        for at, placement in enumerate(axis.placements):
            code, members = int(axis.codes[entry, at]), placement.members
            row = members.row(code) if isinstance(members, LaidOutMembers) and code >= 0 else None
            if row is not None and isinstance(members, LaidOutMembers) and (row.is_turned or row.kind == "formula"):
                return LaidOutCell(answer, place, name, at, members, row)
    return None
