"""Reads the names of hierarchies, levels and what stands in the table."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass, field

from dastan.core.analysis.captions import hierarchy_caption, placed_caption
from dastan.core.analysis.document import AXES, AxisName, Question
from dastan.core.model.members import fold
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.vocabulary import LevelPlace, Place, Vocabulary


@dataclass
class NameReader:
    """Reads names at the scanner's place. Each method raises MissError where none stands."""

    scanner: Scanner
    vocabulary: Vocabulary
    question: Question = field(default_factory=Question)
    """As far as it is read: of several things of one name, what stands in it is meant first."""

    def technical(self, known: Container[str]) -> str:
        """A technical name, of those."""
        name = self.scanner.technical()
        if name not in known:
            raise self.scanner.miss()
        return name

    def measure(self) -> str:
        known = [each.name for each in self.vocabulary.model.measures]
        return self.scanner.first_of(
            lambda: self.scanner.name(self.vocabulary.measures, "a measure"), lambda: self.technical(known)
        )

    def dimension(self) -> str:
        known = [each.name for each in self.vocabulary.model.dimensions]
        return self.scanner.first_of(
            lambda: self.scanner.name(self.vocabulary.dimensions, "a dimension"), lambda: self.technical(known)
        )

    def place(self) -> Place:
        """A hierarchy."""

        def technical() -> Place:
            dimension, _, hierarchy = self.scanner.technical().partition("/")
            if (dimension, hierarchy) not in self.vocabulary.places(Question()):
                raise self.scanner.miss()
            return dimension, hierarchy

        return self.scanner.first_of(lambda: self.scanner.name(self.vocabulary.hierarchies, "a dimension"), technical)

    def level(self, own: Place) -> str:
        """A level of one hierarchy."""
        return self.scanner.first_of(
            lambda: self.scanner.name(self.vocabulary.levels_of(own), "a level"),
            lambda: self.technical(self.vocabulary.hierarchy(own)[1].levels),
        )

    def level_of_place(self) -> LevelPlace:
        """A level with its hierarchy: "Line of Tour"."""
        start = self.scanner.skip()
        for own in self.vocabulary.places(self.question):
            self.scanner.at = start
            try:
                level = self.level(own)
                self.scanner.take("of")
                if self.place() == own:
                    return (*own, level)
            except MissError:
                continue
        self.scanner.at = start
        raise MissError

    def level_only(self) -> LevelPlace:
        """A level by its name alone."""
        return self.scanner.name(self.vocabulary.levels, "a level")

    def level_near(self) -> LevelPlace:
        """A level by its name alone: one of what stands in the question, if any is called so."""
        return self.scanner.name(self.vocabulary.levels_near(self.question), "a level")

    def placeable(self) -> LevelPlace:
        """What can stand on an axis, and from which level down."""

        def top() -> LevelPlace:
            own = self.place()
            return (*own, self.vocabulary.hierarchy(own)[1].levels[0])

        return self.scanner.first_of(
            self.level_of_place, lambda: self.scanner.name(self.vocabulary.placeable, "a dimension"), top
        )

    def placed(self) -> tuple[AxisName, int]:
        """What stands in the table, as the sentence calls it."""
        found: dict[str, tuple[AxisName, int]] = {}
        by_place: dict[Place, tuple[AxisName, int]] = {}
        named = [(axis, at, each) for axis in AXES for at, each in enumerate(self.question.axis(axis))]
        for axis, at, each in named:
            by_place[each.dimension, each.hierarchy] = axis, at
            dimension, hierarchy = self.vocabulary.hierarchy((each.dimension, each.hierarchy))
            found.setdefault(fold(placed_caption(dimension, hierarchy, each.level)), (axis, at))
        for axis, at, each in named:
            parts = self.vocabulary.hierarchy((each.dimension, each.hierarchy))
            found.setdefault(fold(hierarchy_caption(*parts)), (axis, at))

        def at_place(own: Place) -> tuple[AxisName, int]:
            if own not in by_place:
                raise self.scanner.miss()
            return by_place[own]

        return self.scanner.longest_of(
            lambda: at_place(self.level_of_place()[:2]),
            lambda: self.scanner.name(found, "a dimension"),
            lambda: at_place(self.place()),
        )
