"""Formulas of a model's own, which are read before there is any data: members are told by their keys."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, replace

from dastan.core.language.naming import FormulaNames, Named, NameMissError
from dastan.core.language.reading import read_formula
from dastan.core.language.writing import write_formula
from dastan.core.model.complete import complete_model
from dastan.core.model.document import SemanticModel
from dastan.core.model.expression import Expression
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.parts import MemberPath
from dastan.core.words.vocabulary import Vocabulary


def read_formula_of_model(text: str, name: str, model: SemanticModel) -> Expression:
    """The formula of a measure of a model. Raises FormulaError."""
    whole = complete_model(model, {})
    vocabulary = Vocabulary(whole, _no_members)
    return read_formula(text, vocabulary, name, _KeyNames(vocabulary)).expression


def written_formulas(model: SemanticModel) -> dict[str, str]:
    """The formulas of a model's measures as text, by measure; without those that name members, which have captions only
    in the data."""
    vocabulary = Vocabulary(complete_model(model, {}), _no_members)
    found = {}
    for each in model.measures:
        if each.formula is not None:
            with suppress(_NoMembersError):
                found[each.name] = write_formula(each.formula, vocabulary)
    return found


def with_formula(model: SemanticModel, name: str, formula: Expression) -> SemanticModel:
    """The model with a measure's formula."""
    return replace(
        model, measures=tuple(replace(each, formula=formula) if each.name == name else each for each in model.measures)
    )


def _no_members(dimension: str, hierarchy: str) -> HierarchyMembers:
    raise _NoMembersError(f"{dimension}/{hierarchy}: a model is read before its members")


class _NoMembersError(Exception):
    """A member's caption is asked for where there is no data."""


@dataclass(frozen=True, slots=True)
class _KeyNames(FormulaNames):
    """A member is the path of its keys, as they are written: 2025 is a number, "2025" a text."""

    def members(self, named: Named, captions: list[str | int | float]) -> list[MemberPath]:
        _, hierarchy = self.vocabulary.hierarchy((named.dimension, named.hierarchy))
        depth = hierarchy.levels.index(named.level) if named.level is not None else None
        if depth is not None and len(captions) != depth + 1:
            above = '" › "'.join(hierarchy.levels[: depth + 1])
            raise NameMissError(
                f"In a model a member of “{named.level}” is told by its keys from the top down.", f'Write "{above}".'
            )
        return [tuple(captions)]

    def blanks(self, named: Named) -> list[MemberPath]:
        _, hierarchy = self.vocabulary.hierarchy((named.dimension, named.hierarchy))
        if named.level not in (None, hierarchy.levels[0]):
            raise NameMissError(
                f"In a model a blank is told of the first level, “{hierarchy.levels[0]}”.", "Name that level."
            )
        return [(None,)]
