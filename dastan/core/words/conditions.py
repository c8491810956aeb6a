"""Reads conditions from words: as the sentence says them, and exactly.

A condition of the sentence is followed by a note of what it is of, "2025 (calendar)", which tells apart what is called
alike. Exact ones, for what words do not tell, are written behind `where`, and in brackets.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from dastan.core.analysis.document import Question
from dastan.core.model.conditions import (
    Action,
    AttributeFilter,
    Condition,
    FilterGroup,
    KeyFilter,
    LevelName,
    MeasureFilter,
    MemberFilter,
    PeriodFilter,
    PromptRef,
    ReadyFilter,
)
from dastan.core.model.document import next_named
from dastan.core.model.members import fold
from dastan.core.model.parts import Key, MemberPath
from dastan.core.words.names import NameReader
from dastan.core.words.periods import PeriodReader
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.shapes import path_of
from dastan.core.words.terms import OPERATORS
from dastan.core.words.told import ToldReader
from dastan.core.words.vocabulary import LevelPlace, Place, Vocabulary

OFFERED = 6
"""So many members of a hierarchy are offered where one could stand."""


@dataclass
class ConditionReader:
    """Reads the conditions of the question that `names` has."""

    names: NameReader
    _is_one_of_several: bool = False
    """Within "either Tram or 2025" a comma parts the conditions, not the members of one."""

    def __post_init__(self) -> None:
        self._periods = PeriodReader(self.names)
        self._told = ToldReader(self.names)

    @property
    def scanner(self) -> Scanner:
        return self.names.scanner

    @property
    def vocabulary(self) -> Vocabulary:
        return self.names.vocabulary

    @property
    def question(self) -> Question:
        return self.names.question

    def condition(self, action: Action) -> Condition:
        """One condition that keeps or leaves out. Raises MissError."""

        def named() -> Condition:
            # A ready-made filter and a member may have one name: what is said of the hierarchy then decides.
            choices: list[Callable[[], Condition]] = [
                lambda: self.members(action), lambda: self._ready(action),
                lambda: self._listed(action), lambda: self._told.attribute(action), lambda: self._told.key(action),
                lambda: self._told.of_measure(action), lambda: self._named_members(action),
            ]  # fmt: skip
            return self.scanner.longest_of(*choices)

        choices: list[Callable[[], Condition]] = [
            lambda: self._group(action), lambda: self._either(action), lambda: self._where(action),
            lambda: self._periods.period(action), named,
        ]  # fmt: skip
        return self.scanner.first_of(*choices)

    def said_period(self, action: Action) -> PeriodFilter:
        """A moving period by itself. Raises MissError."""
        return self._periods.said(action)

    def one_member(self) -> MemberFilter:
        """A member, by its caption or path, with or without its hierarchy after it. Raises MissError."""
        scan = self.scanner
        start = scan.skip()
        for own in self.vocabulary.places(self.question):
            scan.at = start
            try:
                path = self._member(own)
                if scan.has("(") and not (self.names.place() == own and scan.has(")")):
                    continue
            except MissError:
                continue
            return MemberFilter(dimension=own[0], hierarchy=own[1], members=(path,))
        scan.at = start
        raise MissError

    def _group(self, action: Action) -> FilterGroup:
        """Exactly: "(any: A or not B)"."""
        scan = self.scanner
        scan.take("(")
        join = scan.any_of({"all": "all", "any": "any"})
        scan.take(":")
        parts: list[Condition] = []
        while not scan.has(")"):
            if parts:
                scan.take("and" if join == "all" else "or")
            parts.append(self.condition("leave_out" if scan.has("not") else "keep"))
        return FilterGroup(join=join, parts=tuple(parts), action=action)  # type: ignore[arg-type]

    def _either(self, action: Action) -> FilterGroup:
        """As the sentence says it: "either Tram or not 2025", "all of A, (B and C) and D"."""
        scan = self.scanner
        words = {"either": "any", "both": "all", "all of": "all"}
        join = next((each for text, each in words.items() if scan.has_quietly(text)), None)
        if join is None:
            raise MissError
        parts = [self._part()]
        last = "or" if join == "any" else "and"
        while scan.has(",") or scan.has(last):
            parts.append(self._part())
        if len(parts) < 2:
            raise scan.miss(last, are="word")
        return FilterGroup(join=join, parts=tuple(parts), action=action)  # type: ignore[arg-type]

    def _part(self) -> Condition:
        """A part of several; in brackets where it has parts itself."""
        scan, before = self.scanner, self._is_one_of_several
        action: Action = "leave_out" if scan.has_quietly("not") else "keep"
        is_whole = scan.has("(")
        self._is_one_of_several = not is_whole
        try:
            found = self.condition(action)
            if is_whole:
                scan.take(")")
        finally:
            self._is_one_of_several = before
        return found

    def _where(self, action: Action) -> Condition:
        self.scanner.take("where")
        choices: list[Callable[[], Condition]] = [
            lambda: self._key(action), lambda: self._attribute(action), lambda: self._measure_condition(action),
        ]  # fmt: skip
        return self.scanner.first_of(*choices)

    def _key(self, action: Action) -> KeyFilter:
        dimension = self.names.dimension()
        state = self.scanner.any_of({"is left blank": "left_blank", "is not known": "key_unknown"})
        return KeyFilter(dimension=dimension, state=state, action=action)  # type: ignore[arg-type]

    def _attribute(self, action: Action) -> AttributeFilter:
        scan = self.scanner
        on = "caption" if scan.has("name of") else "key"
        start = scan.skip()
        for dimension in self.vocabulary.model.dimensions:
            scan.at = start
            known = self.vocabulary.attributes_of(dimension.name)
            try:
                attribute = scan.first_of(
                    lambda known=known: scan.name(known, "an attribute"),  # type: ignore[misc]
                    lambda known=known: self.names.technical(known.values()),  # type: ignore[misc]
                )
                scan.take("of")
                if self.names.dimension() == dimension.name:
                    break
            except MissError:
                continue
        else:
            raise MissError
        operator, values = self._compared()
        return AttributeFilter(
            dimension=dimension.name, attribute=attribute, operator=operator, values=values, on=on, action=action  # type: ignore[arg-type]
        )  # fmt: skip

    def _measure_condition(self, action: Action) -> MeasureFilter:
        scan = self.scanner
        measure = self.names.measure()
        operator, values = self._compared()
        scan.take("at")
        at = [self._level_name()]
        while True:
            start = scan.at
            try:
                scan.take("and")
                at.append(self._level_name())
            except MissError:
                scan.at = start
                break
        per = self._level_name() if scan.has("per") else None
        return MeasureFilter(
            measure=measure, at=tuple(at), per=per, operator=operator, values=values, action=action  # type: ignore[arg-type]
        )  # fmt: skip

    def _level_name(self) -> LevelName:
        dimension, hierarchy, level = self.scanner.first_of(self.names.level_of_place, self.names.level_only)
        return LevelName(dimension=dimension, hierarchy=hierarchy, level=level)

    def _compared(self) -> tuple[str, tuple[Any, ...]]:
        operator = self.scanner.any_of({words: name for name, words in OPERATORS.items()})
        values = [self._value()]
        while True:
            start = self.scanner.at
            try:
                if not (operator == "between" and self.scanner.has("and")):
                    self.scanner.take("or")
                values.append(self._value())
            except MissError:
                self.scanner.at = start
                return operator, tuple(values)

    def _value(self) -> Key | PromptRef:
        if self.scanner.has("asked"):
            return PromptRef(prompt=self.scanner.technical())
        value = self.scanner.json()
        if isinstance(value, list | dict):
            raise self.scanner.miss()
        return value  # type: ignore[return-value]

    def _ready(self, action: Action) -> ReadyFilter:
        scan = self.scanner
        scan.has("ready")
        known = self.vocabulary.ready
        name = scan.first_of(
            lambda: scan.name(known, "a ready-made filter"), lambda: self.names.technical(known.values())
        )
        scan.pass_brackets()  # what it means
        return ReadyFilter(name=name, action=action)

    def _listed(self, action: Action) -> MemberFilter:
        scan = self.scanner
        scan.has("list")
        known = self.vocabulary.lists
        name = scan.first_of(lambda: scan.name(known, "a list"), lambda: self.names.technical(known.values()))
        own = next_named(self.vocabulary.model.lists, name)
        scan.pass_brackets()  # what it means
        return MemberFilter(dimension=own.dimension, hierarchy=own.hierarchy, action=action, list=name)

    def members(self, action: Action, dimension: str | None = None) -> MemberFilter:
        """Members, by their captions or paths, with or without their hierarchy after them. Raises MissError.

        Args: `dimension` is the one that they are of; any without.
        """
        scan = self.scanner
        start = scan.skip()
        best: tuple[int, MemberFilter] | None = None
        for own in self.vocabulary.places(self.question):
            if dimension not in (None, own[0]):
                continue
            scan.at = start
            try:
                found = self._members_of(own, action)
            except MissError:
                continue
            at, named = scan.at, False
            try:
                scan.take("(")
                named = self.names.place() == own
                scan.close_note()
            except MissError:
                named = False
            if named:
                return found
            # Without a hierarchy named, the one by which most is understood; the first of equal ones. The dimension
            # may be named as the sentence shows it, in "for 2025 calendar".
            scan.at = at
            if scan.name_by(lambda span: self.vocabulary.dimensions.get(fold(span))) == own[0]:
                at = scan.at
            if best is None or at > best[0]:
                best = (at, found)
        if best is None or self._has_bracket_after(best[0]):
            scan.at = start
            raise MissError
        scan.at = best[0]
        return best[1]

    def _named_members(self, action: Action) -> MemberFilter:
        """Members behind the name of their dimension, or of one of its levels: "mode Ferry", "line is F2"."""
        scan, known = self.scanner, self.vocabulary
        # Quietly: a member by itself says the same, and is offered.
        dimension = scan.name_by(
            lambda span: known.dimensions.get(fold(span)) or _first(known.placeable.get(fold(span)))
        )
        if dimension is None:
            raise MissError
        for each in ("is", "="):
            scan.has_quietly(each)
        return self.members(action, dimension)

    def _has_bracket_after(self, at: int) -> bool:
        """Whether a hierarchy is named that has no such members."""
        self.scanner.at = at
        if not self.scanner.has("("):
            return False
        raise self.scanner.miss(*self.vocabulary.hierarchies)

    def _members_of(self, own: Place, action: Action) -> MemberFilter:
        scan = self.scanner
        names: dict[str, Any] = {"dimension": own[0], "hierarchy": own[1], "action": action}
        if scan.has("nothing"):
            return MemberFilter(**names)
        if scan.has("every"):
            names["level"] = self.names.level(own)
            if not scan.has("below"):
                return MemberFilter(**names)
        if scan.has("asked"):
            names["prompt"] = scan.technical()
            start = scan.at
            try:
                scan.take("below")
            except MissError:
                scan.at = start
                return MemberFilter(**names)
        members = [self._member(own)]
        while not self._is_one_of_several:
            start = scan.at
            try:
                if not scan.has(",") and not scan.has_quietly("or"):
                    scan.take("and")
                members.append(self._member(own))
            except MissError:
                scan.at = start
                break
        return MemberFilter(**names, members=tuple(members))

    def _member(self, own: Place) -> MemberPath:
        return self.scanner.first_of(lambda: self._keys(own), lambda: self._captions(own))

    def _keys(self, own: Place) -> MemberPath:
        path = self.scanner.part(path_of)
        if not 0 < len(path) <= len(self.vocabulary.hierarchy(own)[1].levels):
            raise self.scanner.miss()
        return path

    def _captions(self, own: Place) -> MemberPath:
        scan = self.scanner
        start = scan.skip()
        best: tuple[int, MemberPath] | None = None
        captions: list[str] = []
        while True:
            caption = self._caption(own, captions)
            if caption is None and not captions and scan.has_quietly("those"):
                caption = self._caption(own, captions)  # "those without a line", as the sentence says it
            if caption is None:
                break
            captions.append(caption)
            path = self.vocabulary.member(own, captions)
            if path is not None:
                best = (scan.at, path)
            if not scan.has("›"):
                break
        if best is None:
            scan.at = start
            begun = scan.text[start:].strip()
            placed = [(each.dimension, each.hierarchy) for each in (*self.question.rows, *self.question.columns)]
            is_offered = bool(begun) or own in placed
            raise scan.miss(*(self.vocabulary.members_like(own, begun, OFFERED) if is_offered else []))
        scan.at = best[0]
        return best[1]

    def _caption(self, own: Place, above: list[str]) -> str | None:
        return self.scanner.name_by(lambda span: self._known(own, [*above, span]))

    def _known(self, own: Place, captions: list[str]) -> str | None:
        """The last of some captions where, from the top down, they lead somewhere."""
        return captions[-1] if self.vocabulary.member(own, captions) is not None else None


def _first(place: LevelPlace | None) -> str | None:
    """The dimension of a level."""
    return None if place is None else place[0]
