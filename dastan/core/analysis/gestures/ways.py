"""Gestures on ways down: made of what is nested in the table, put in, forgotten."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis, AxisName, PlacedDimension, WayDown, WayStep
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.placing import placed_in, waiting_in, without_dimension
from dastan.core.analysis.ways import LEAST_STEPS, find_way, way_caption
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeWayDown(Step):
    """Makes one way down of the hierarchies nested on an axis; they close. Named after its levels without a caption."""

    axis: AxisName
    caption: str = ""
    kind: Literal["make_way_down"] = "make_way_down"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        placed = document.question.axis(self.axis)
        if len(placed) < LEAST_STEPS:
            raise InputError("A way down goes through two hierarchies or more.", "Nest another one inside first.")
        steps = tuple(WayStep(dimension=each.dimension, hierarchy=each.hierarchy, level=each.level) for each in placed)
        way = WayDown(caption=self.caption.strip() or way_caption(steps, model), steps=steps)
        if any(each.caption == way.caption for each in document.ways_down):
            raise InputError(f"There is a way down called “{way.caption}” already.", "Give this one another name.")
        closed = (placed[0], *(replace(each, only_under=each.only_under or ()) for each in placed[1:]))
        question = document.question.with_axis(self.axis, closed)
        return replace(document, question=question, ways_down=(*document.ways_down, way))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"made the way down {self.caption or way_caption(before.question.axis(self.axis), model)}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutWayDown(Step):
    """Puts a way down on an axis, closed, so that its steps stand together before the hierarchy now at `at`."""

    caption: str
    axis: AxisName
    at: int | None = None
    kind: Literal["put_way_down"] = "put_way_down"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        question = document.question
        placed = []
        for at, step in enumerate(find_way(document, self.caption).steps):
            name = (step.dimension, step.hierarchy)
            own = placed_in(question, *name) or waiting_in(question, *name)
            own = own or PlacedDimension(dimension=step.dimension, hierarchy=step.hierarchy, level=step.level)
            placed.append(replace(own, level=step.level, skipped=(), only_under=() if at else None))
        for each in placed:
            question = without_dimension(question, each.dimension, each.hierarchy)
        on_axis = question.axis(self.axis)
        at = len(on_axis) if self.at is None else self.at
        if question.measures_on == self.axis and question.measures_at is not None and at < question.measures_at:
            question = replace(question, measures_at=question.measures_at + len(placed))
        return replace(document, question=question.with_axis(self.axis, (*on_axis[:at], *placed, *on_axis[at:])))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"{'by' if self.axis == 'rows' else 'against'} {self.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetWayDown(Step):
    """Forgets a way down. What stands in the table stays."""

    caption: str
    kind: Literal["forget_way_down"] = "forget_way_down"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        gone = find_way(document, self.caption)
        return replace(document, ways_down=tuple(each for each in document.ways_down if each != gone))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"forgot the way down {self.caption}"
