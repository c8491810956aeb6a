"""Gestures on measures."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError
from dastan.core.model.document import Aggregate, Measure, SemanticModel
from dastan.core.model.gestures.pruning import also_words, pruned
from dastan.core.model.gestures.step import ModelStep, check_caption, measure_of, with_measure

AGGREGATE_WORDS: dict[Aggregate, str] = {
    "sum": "added up", "count": "counted", "count_values": "its values counted", "distinct": "different ones counted",
    "min": "the least", "max": "the greatest", "average": "averaged", "median": "the middle one",
    "percentile": "a percentile", "variance": "its variance", "deviation": "its deviation", "balance": "a balance",
    "open": "what is open", "first": "the first", "last": "the last", "debit": "debits", "credit": "credits",
    "weighted_average": "averaged by weight", "ratio": "one measure by another", "formula": "a formula",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMeasure(ModelStep):
    """Makes a measure, or puts it in place of the one of its name."""

    measure: Measure
    kind: Literal["put_measure"] = "put_measure"

    def applied(self, model: SemanticModel) -> SemanticModel:
        check_caption(self.measure.caption, "A measure")
        if any(each.caption == self.measure.caption and each.name != self.measure.name for each in model.measures):
            raise InputError(
                f"Another measure is called “{self.measure.caption}”.", "Call it something that tells the two apart."
            )
        return with_measure(model, self.measure)

    def words(self, before: SemanticModel) -> str:
        known = next((each for each in before.measures if each.name == self.measure.name), None)
        if known is None:
            return f"made {self.measure.caption}"
        if known.caption != self.measure.caption:
            return f"called {known.caption} “{self.measure.caption}”"
        if known.aggregate != self.measure.aggregate:
            return f"{known.caption} is {AGGREGATE_WORDS[self.measure.aggregate]}"
        for field, words in _CHANGED.items():
            if getattr(known, field) != getattr(self.measure, field):
                return f"{words} of {known.caption}"
        return f"changed {known.caption}"


_CHANGED = {
    "format": "the format", "unit": "the unit", "folder": "the folder", "expression": "what is taken",
    "formula": "the formula", "where": "the condition", "favourable": "what is good", "description": "the description",
    "synonyms": "other names", "roles": "the roles",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutMeasure(ModelStep):
    """Takes a measure away, and what is made of it."""

    name: str
    kind: Literal["leave_out_measure"] = "leave_out_measure"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        return f"left out {measure_of(before, self.name).caption}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        own = measure_of(model, self.name)
        return pruned(replace(model, measures=tuple(each for each in model.measures if each is not own)))


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceMeasure(ModelStep):
    """Puts a measure before another, or at the end."""

    name: str
    before: str | None = None
    kind: Literal["place_measure"] = "place_measure"

    def applied(self, model: SemanticModel) -> SemanticModel:
        own = measure_of(model, self.name)
        rest = [each for each in model.measures if each is not own]
        is_last = self.before is None or self.before == self.name
        at = len(rest) if is_last else rest.index(measure_of(model, self.before or ""))
        return replace(model, measures=(*rest[:at], own, *rest[at:]))

    def words(self, before: SemanticModel) -> str:
        return f"moved {measure_of(before, self.name).caption}"
