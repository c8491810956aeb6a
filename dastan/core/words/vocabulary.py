"""The names that a written question may use: captions, synonyms and technical names, whatever their case."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from difflib import SequenceMatcher, get_close_matches
from functools import cached_property
from itertools import islice

from dastan.core.analysis.captions import Members, hierarchy_caption, level_caption, plural
from dastan.core.analysis.document import Question
from dastan.core.model.document import Dimension, Hierarchy, SemanticModel
from dastan.core.model.members import HierarchyMembers, fold
from dastan.core.model.parts import MemberPath
from dastan.core.model.reach import shown_hierarchies

Place = tuple[str, str]
"""A hierarchy: its dimension's name and its own."""
MOST_COMPARED = 5_000
"""Hierarchies with more members are not searched for mistyped names."""
LevelPlace = tuple[str, str, str]
"""A level: dimension, hierarchy, level."""


@dataclass(frozen=True)
class Vocabulary:
    """What can be named in a model, by a reader's members. Of several things of one name, the first is meant."""

    model: SemanticModel
    members: Members

    @cached_property
    def measures(self) -> dict[str, str]:
        found: dict[str, str] = {}
        for each in self.model.measures:
            found.setdefault(fold(each.caption), each.name)
        for each in self.model.measures:
            for synonym in each.synonyms:
                found.setdefault(fold(synonym), each.name)
        return found

    @cached_property
    def hierarchies(self) -> dict[str, Place]:
        found: dict[str, Place] = {}
        for dimension, hierarchy in self._all_hierarchies():
            found.setdefault(fold(hierarchy_caption(dimension, hierarchy)), (dimension.name, hierarchy.name))
        for dimension, hierarchy in self._all_hierarchies():
            if hierarchy == dimension.hierarchies[0]:
                for synonym in dimension.synonyms:
                    found.setdefault(fold(synonym), (dimension.name, hierarchy.name))
        return found

    @cached_property
    def levels(self) -> dict[str, LevelPlace]:
        found: dict[str, LevelPlace] = {}
        for plurals in (False, True):
            for dimension, hierarchy in self._all_hierarchies():
                for level in hierarchy.levels:
                    caption = level_caption(dimension, level)
                    found.setdefault(
                        fold(plural(caption) if plurals else caption), (dimension.name, hierarchy.name, level)
                    )
        return found

    def levels_near(self, question: Question) -> dict[str, LevelPlace]:
        """All levels by what they are called; of several of one name, the first that stands in the question."""
        found: dict[str, LevelPlace] = {}
        for placed in (*question.rows, *question.columns):
            own = (placed.dimension, placed.hierarchy)
            for name, level in self.levels_of(own).items():
                found.setdefault(name, (*own, level))
        return self.levels | found

    @cached_property
    def placeable(self) -> dict[str, LevelPlace]:
        """What a name means on an axis: a level; of a hierarchy its top, where no level of its own is called so."""
        found = dict(self.levels)
        for name, place in self.hierarchies.items():
            if found.get(name, ("", "", ""))[:2] != place:
                found[name] = (*place, self.hierarchy(place)[1].levels[0])
        return found

    @cached_property
    def spelled(self) -> dict[str, str]:
        """Names as people write them, by what they are found by."""
        found: dict[str, str] = {}
        for measure in self.model.measures:
            found |= {fold(each): each for each in (measure.caption, *measure.synonyms) if fold(each) not in found}
        for dimension in self.model.dimensions:
            found |= {fold(each): each for each in (dimension.caption, *dimension.synonyms) if fold(each) not in found}
        for dimension, hierarchy in self._all_hierarchies():
            captions = [hierarchy_caption(dimension, hierarchy)]
            captions += [level_caption(dimension, each) for each in hierarchy.levels]
            for caption in captions:
                found.setdefault(fold(caption), caption)
        for dimension in self.model.dimensions:
            for attribute in dimension.attributes:
                found.setdefault(
                    fold(level_caption(dimension, attribute.name)), level_caption(dimension, attribute.name)
                )
        for caption in (*(each.caption for each in self.model.filters), *(each.caption for each in self.model.lists)):
            found.setdefault(fold(caption), caption)
        return found

    def levels_of(self, place: Place) -> dict[str, str]:
        """The levels of one hierarchy by what they are called, one or several of them."""
        dimension, hierarchy = self.hierarchy(place)
        found = {fold(level_caption(dimension, each)): each for each in reversed(hierarchy.levels)}
        for each in hierarchy.levels:
            found.setdefault(fold(plural(level_caption(dimension, each))), each)
        return found

    @cached_property
    def dimensions(self) -> dict[str, str]:
        return {fold(each.caption): each.name for each in reversed(self.model.dimensions)}

    def attributes_of(self, dimension: str) -> dict[str, str]:
        """The attributes of a dimension by what they are called."""
        found = self.model.dimension(dimension)
        return {fold(level_caption(found, each.name)): each.name for each in reversed(found.attributes)}

    @cached_property
    def ready(self) -> dict[str, str]:
        return {fold(each.caption): each.name for each in reversed(self.model.filters)}

    @cached_property
    def lists(self) -> dict[str, str]:
        return {fold(each.caption): each.name for each in reversed(self.model.lists)}

    def hierarchy(self, place: Place) -> tuple[Dimension, Hierarchy]:
        """The parts of the model behind a place."""
        dimension = self.model.dimension(place[0])
        return dimension, next(each for each in shown_hierarchies(dimension) if each.name == place[1])

    def places(self, question: Question) -> Iterator[Place]:
        """All hierarchies whose members can be named, those in the question first. Rows of a layout are narrowed by
        what they are made of."""
        own = [(each.dimension, each.hierarchy) for each in (*question.rows, *question.columns, *question.waiting)]
        known = {(dimension.name, each.name) for dimension, each in self._all_hierarchies() if each.layout is None}
        yield from (each for each in own if each in known)
        yield from (
            (dimension.name, each.name)
            for dimension, each in self._all_hierarchies()
            if each.layout is None and (dimension.name, each.name) not in own
        )

    def member(self, place: Place, captions: list[str]) -> MemberPath | None:
        """The member that the captions name: from the top down, or a single one at any level, coarsest first."""
        found = self.members(*place)
        if len(captions) > 1:
            return _by_path(found, captions)
        for depth in range(len(found.levels)):
            codes = found.named(depth, captions[0])
            if codes:
                return found.path_of(*found.stands_at(depth, codes[0]))
        return None

    def members_like(self, place: Place, text: str, count: int) -> list[str]:
        """Some captions that begin with a text; where none does, such as a mistyped first word of it may mean."""
        found = self.members(*place)
        wanted = fold(text)
        begun = (
            found.levels[depth].captions[code]
            for depth in range(len(found.levels))
            for name, codes in found.names(depth).items()
            if name.startswith(wanted)
            for code in codes[:1]
            if found.is_visible(depth, code)
        )
        some = list(islice(begun, count))
        if some or not wanted or sum(len(each) for each in found.levels) > MOST_COMPARED:
            return some
        levels = range(len(found.levels))
        near = ((depth, name) for depth in levels for name in nearest(wanted.split()[0], found.names(depth)))
        codes = ((depth, found.named(depth, name)) for depth, name in near)
        return [found.levels[depth].captions[own[0]] for depth, own in codes if own][:count]

    def _all_hierarchies(self) -> Iterator[tuple[Dimension, Hierarchy]]:
        for dimension in self.model.dimensions:
            for hierarchy in shown_hierarchies(dimension):
                yield dimension, hierarchy


def _by_path(found: HierarchyMembers, captions: list[str]) -> MemberPath | None:
    """The member that captions from the top down lead to."""
    code = 0
    for depth, caption in enumerate(captions[: len(found.levels)]):
        below = [
            each for each in found.named(depth, caption) if not depth or int(found.levels[depth].parent[each]) == code
        ]
        if not below:
            return None
        code = below[0]
    return found.path_of(len(captions) - 1, code) if len(captions) <= len(found.levels) else None


def nearest(wanted: str, known: Iterable[str] | Mapping[str, object]) -> list[str]:
    """A few known names that a mistyped one may mean."""
    return get_close_matches(fold(wanted), [fold(each) for each in known], n=3, cutoff=0.5)


def closeness(wanted: str, name: str) -> float:
    """How alike a mistyped name and a known one are, from 0 to 1."""
    return SequenceMatcher(None, fold(wanted), fold(name)).ratio()
