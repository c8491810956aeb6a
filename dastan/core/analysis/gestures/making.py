"""Gestures on measures that the analysis makes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.captions import Members
from dastan.core.analysis.document import Analysis, MadeMeasure, PlacedMeasure
from dastan.core.analysis.gestures.defaults import with_defaults
from dastan.core.analysis.gestures.step import Step
from dastan.core.analysis.made import check_caption, find_made, named, used_by, with_made
from dastan.core.analysis.placing import with_question
from dastan.core.analysis.resolve import find_measure
from dastan.core.errors import InputError
from dastan.core.model.document import SemanticModel


@dataclass(frozen=True, slots=True, kw_only=True)
class MakeMeasure(Step):
    """Makes a measure of others, and puts it into the table."""

    made: MadeMeasure
    is_put: bool = True
    kind: Literal["make_measure"] = "make_measure"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = named(self.made, model)
        check_caption(made, model)
        after = replace(document, made=(*document.made, made))
        if not self.is_put:
            return after
        after = with_question(after, measures=(*document.question.measures, PlacedMeasure(measure=made.name)))
        return with_defaults(after, document, with_made(model, after))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"made {self.made.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeMade(Step):
    """Tells a made measure anew: what it is, what it is called, how it is written. Whatever names it follows."""

    made: MadeMeasure
    kind: Literal["change_made"] = "change_made"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        find_made(document, self.made.name)
        check_caption(self.made, model)
        made = tuple(self.made if each.name == self.made.name else each for each in document.made)
        return replace(document, made=made)

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        was = find_measure(model, self.made.name).caption
        return f"changed {was}" if was == self.made.caption else f"called {was} {self.made.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForgetMade(Step):
    """Forgets a made measure that nothing stands on."""

    name: str
    kind: Literal["forget_made"] = "forget_made"

    def applied(self, document: Analysis, model: SemanticModel) -> Analysis:
        made = find_made(document, self.name)
        users = list(used_by(document, self.name))
        if users:
            raise InputError(f"“{made.caption}” is used by {', '.join(users)}.", "Change that first.")
        return replace(document, made=tuple(each for each in document.made if each.name != self.name))

    def words(self, before: Analysis, model: SemanticModel, members: Members) -> str:
        return f"forgot {find_measure(model, self.name).caption}"
