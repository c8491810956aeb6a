"""Gestures on financial layouts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import AXES, Analysis, MadeLayout, PlacedDimension
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.layouts import check_layout_name, find_layout, layout_used_by, named_layout
from dastan.core.analysis.resolve import find_dimension, find_hierarchy
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeLayout(Step):
    """Lays out rows by hand, and puts them into the table: in place of the hierarchy that they are made of where that
    stands there, or another layout of it; else on the rows."""

    made: MadeLayout
    is_put: bool = True
    kind: Literal["make_layout"] = "make_layout"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = named_layout(self.made, model)
        check_layout_name(made, model)
        after = replace(document, layouts=(*document.layouts, made))
        if not self.is_put:
            return after
        question = document.question
        placed = PlacedDimension(dimension=made.dimension, hierarchy=made.name, level=made.name)
        for axis in AXES:
            standing = question.axis(axis)
            at = next((at for at, each in enumerate(standing) if _is_laid_out_so(each, made, model)), None)
            if at is not None:
                instead = (*standing[:at], placed, *standing[at + 1 :])
                return replace(after, question=question.with_axis(axis, instead))
        return replace(after, question=question.with_axis("rows", (*question.rows, placed)))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"laid out {self.made.caption}"


def _is_laid_out_so(placed: PlacedDimension, made: MadeLayout, model: SemanticModel) -> bool:
    if placed.dimension != made.dimension:
        return False
    hierarchy = find_hierarchy(find_dimension(model, placed.dimension), placed.hierarchy)
    own = hierarchy.layout.hierarchy if hierarchy.layout is not None else hierarchy.name
    return own == made.layout.hierarchy


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLayout(Step):
    """Tells a layout anew: its rows, and what it is called."""

    made: MadeLayout
    kind: Literal["change_layout"] = "change_layout"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        was = find_layout(document, self.made.name)
        if was.dimension != self.made.dimension:
            raise InputError(
                f"“{was.caption}” is laid out by another dimension.", "Make a layout of this dimension instead."
            )
        check_layout_name(self.made, model)
        layouts = tuple(self.made if each == was else each for each in document.layouts)
        return replace(document, layouts=layouts)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        was = find_layout(before, self.made.name).caption
        return f"changed {was}" if was == self.made.caption else f"called {was} {self.made.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetLayout(Step):
    """Forgets a layout that stands nowhere."""

    name: str
    kind: Literal["forget_layout"] = "forget_layout"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = find_layout(document, self.name)
        users = list(layout_used_by(document, made))
        if users:
            raise InputError(f"“{made.caption}” is used by {', '.join(users)}.", "Take it out there first.")
        return replace(document, layouts=tuple(each for each in document.layouts if each != made))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"forgot {find_layout(before, self.name).caption}"
