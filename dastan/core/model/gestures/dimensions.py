"""Gestures on dimensions: what they are called, their levels, and the ways down through them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.errors import InputError, did_you_mean
from dastan.core.model.document import Attribute, Dimension, Hierarchy, SemanticModel, next_named
from dastan.core.model.gestures.pruning import also_words, pruned
from dastan.core.model.gestures.step import ModelStep, check_caption, dimension_of, put_named, with_dimension
from dastan.core.model.parts import MemberPath


@dataclass(frozen=True, slots=True, kw_only=True)
class PutDimension(ModelStep):
    """Makes a dimension, or puts it in place of the one of its name."""

    dimension: Dimension
    kind: Literal["put_dimension"] = "put_dimension"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return with_dimension(model, self.dimension)

    def words(self, before: SemanticModel) -> str:
        is_new = all(each.name != self.dimension.name for each in before.dimensions)
        return f"{'made' if is_new else 'changed'} {self.dimension.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class DescribeDimension(ModelStep):
    """Changes what is said of a dimension; what is not given stays as it is."""

    name: str
    caption: str | None = None
    all: str | None = None
    without: str | None = None
    description: str | None = None
    synonyms: tuple[str, ...] | None = None
    alternatives: bool | None = None
    default: tuple[MemberPath, ...] | None = None
    kind: Literal["describe_dimension"] = "describe_dimension"

    def applied(self, model: SemanticModel) -> SemanticModel:
        if self.caption is not None:
            check_caption(self.caption, "A dimension")
        said = {name: getattr(self, name) for name in _SAID if getattr(self, name) is not None}
        # An empty caption of the top, or of what belongs nowhere, is the one made of the dimension's own.
        said = {name: None if name in ("all", "without") and value == "" else value for name, value in said.items()}
        return with_dimension(model, replace(dimension_of(model, self.name), **said))

    def words(self, before: SemanticModel) -> str:
        own = dimension_of(before, self.name)
        if self.caption is not None and self.caption != own.caption:
            return f"called {own.caption} “{self.caption}”"
        if self.alternatives is not None and self.alternatives != own.alternatives:
            return f"{own.caption} is {'of alternatives' if self.alternatives else 'added up'}"
        if self.default is not None and self.default != own.default:
            return f"{own.caption} begins with {'some members' if self.default else 'all members'}"
        return f"described {own.caption}"


_SAID = ("caption", "all", "without", "description", "synonyms", "alternatives", "default")


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutDimension(ModelStep):
    """Takes a dimension away, and what is made of it."""

    name: str
    kind: Literal["leave_out_dimension"] = "leave_out_dimension"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        return f"left out {dimension_of(before, self.name).caption}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        own = dimension_of(model, self.name)
        rest = tuple(each for each in model.dimensions if each is not own)
        if not rest:
            raise InputError("It is the only dimension.", "Make another one first: a model has at least one.")
        measures = tuple(
            replace(each, roles={name: role for name, role in each.roles.items() if name != self.name})
            for each in model.measures
        )
        return pruned(replace(model, dimensions=rest, measures=measures))


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceDimension(ModelStep):
    """Puts a dimension before another, or at the end."""

    name: str
    before: str | None = None
    kind: Literal["place_dimension"] = "place_dimension"

    def applied(self, model: SemanticModel) -> SemanticModel:
        own = dimension_of(model, self.name)
        rest = [each for each in model.dimensions if each is not own]
        is_last = self.before is None or self.before == self.name
        at = len(rest) if is_last else rest.index(dimension_of(model, self.before or ""))
        return replace(model, dimensions=(*rest[:at], own, *rest[at:]))

    def words(self, before: SemanticModel) -> str:
        return f"moved {dimension_of(before, self.name).caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PutAttribute(ModelStep):
    """Makes a level possible, or changes what is said of it."""

    dimension: str
    attribute: Attribute
    kind: Literal["put_attribute"] = "put_attribute"

    def applied(self, model: SemanticModel) -> SemanticModel:
        own = dimension_of(model, self.dimension)
        return with_dimension(model, replace(own, attributes=put_named(own.attributes, self.attribute)))

    def words(self, before: SemanticModel) -> str:
        own = dimension_of(before, self.dimension)
        known = next((each for each in own.attributes if each.name == self.attribute.name), None)
        called = self.attribute.caption or self.attribute.name
        if known is None:
            return f"{called} tells {own.caption} apart"
        if known.caption != self.attribute.caption:
            return f"called {known.caption or known.name} “{called}”"
        if known.sort_column != self.attribute.sort_column:
            return f"{called} is ordered by {self.attribute.sort_column or 'its key'}"
        return f"changed {called} of {own.caption}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutAttribute(ModelStep):
    """Takes away an attribute, also as a level."""

    dimension: str
    name: str
    kind: Literal["leave_out_attribute"] = "leave_out_attribute"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        own = dimension_of(before, self.dimension)
        found = next((each for each in own.attributes if each.name == self.name), None)
        called = found.caption or found.name if found is not None else self.name
        return f"left out {called} of {own.caption}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        own = dimension_of(model, self.dimension)
        attributes = tuple(each for each in own.attributes if each.name != self.name)
        if not attributes:
            raise InputError(f"It is all that tells {own.caption} apart.", "Add another one first.")
        hierarchies = tuple(
            replace(each, levels=tuple(level for level in each.levels if level != self.name))
            for each in own.hierarchies
        )
        kept = tuple(each for each in hierarchies if each.levels or each.parent_child or each.is_list)
        if not kept:
            raise InputError(f"It is the only level of {own.caption}.", "Make another way down first.")
        return pruned(with_dimension(model, replace(own, attributes=attributes, hierarchies=kept)))


@dataclass(frozen=True, slots=True, kw_only=True)
class PutHierarchy(ModelStep):
    """Makes a way down through a dimension, or changes one."""

    dimension: str
    hierarchy: Hierarchy
    is_first: bool = False
    """Whether it becomes the one that people get without choosing."""
    kind: Literal["put_hierarchy"] = "put_hierarchy"

    def applied(self, model: SemanticModel) -> SemanticModel:
        own = dimension_of(model, self.dimension)
        for each in self.hierarchy.levels:
            _attribute(own, each)
        rest = [each for each in own.hierarchies if each.name != self.hierarchy.name]
        known = [each.name for each in own.hierarchies]
        at = 0 if self.is_first else known.index(self.hierarchy.name) if self.hierarchy.name in known else len(rest)
        changed = replace(own, hierarchies=(*rest[:at], self.hierarchy, *rest[at:]))
        return with_dimension(model, changed)

    def words(self, before: SemanticModel) -> str:
        own = dimension_of(before, self.dimension)
        attributes = [_attribute(own, each) for each in self.hierarchy.levels]
        way = " › ".join(each.caption or each.name for each in attributes)
        return f"{own.caption} opens as {way or self.hierarchy.caption or self.hierarchy.name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaveOutHierarchy(ModelStep):
    """Takes a way down away; the attributes stay."""

    dimension: str
    name: str
    kind: Literal["leave_out_hierarchy"] = "leave_out_hierarchy"

    def applied(self, model: SemanticModel) -> SemanticModel:
        return self._pruned(model)[0]

    def words(self, before: SemanticModel) -> str:
        own = dimension_of(before, self.dimension)
        found = _hierarchy(own, self.name)
        return f"left out the way {found.caption or found.name}{also_words(self._pruned(before)[1])}"

    def _pruned(self, model: SemanticModel) -> tuple[SemanticModel, tuple[str, ...]]:
        own = dimension_of(model, self.dimension)
        found = _hierarchy(own, self.name)
        kept = tuple(each for each in own.hierarchies if each is not found)
        if not kept:
            raise InputError(f"It is the only way down through {own.caption}.", "Make another one first.")
        return pruned(with_dimension(model, replace(own, hierarchies=kept)))


def _attribute(dimension: Dimension, name: str) -> Attribute:
    try:
        return next_named(dimension.attributes, name)
    except KeyError:
        known = [each.name for each in dimension.attributes]
        raise InputError(f"{dimension.caption} has no attribute “{name}”.", did_you_mean(name, known)) from None


def _hierarchy(dimension: Dimension, name: str) -> Hierarchy:
    try:
        return next_named(dimension.hierarchies, name)
    except KeyError:
        known = [each.name for each in dimension.hierarchies]
        raise InputError(f"{dimension.caption} has no way down “{name}”.", did_you_mean(name, known)) from None
