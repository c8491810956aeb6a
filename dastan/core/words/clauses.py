"""Reads a whole question: its measures, then clause by clause what else is said of it."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from typing import Any

from dastan.core.analysis.document import AXES, AxisName, NumberDress, PlacedDimension, Question
from dastan.core.model.conditions import Action, Condition, LevelName, MemberFilter
from dastan.core.words import shapes
from dastan.core.words.conditions import ConditionReader
from dastan.core.words.explained import explanations
from dastan.core.words.measures import MeasureReader
from dastan.core.words.names import NameReader
from dastan.core.words.placements import PlacementReader
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.vocabulary import Vocabulary

_ACTIONS: dict[str, Action] = {"for": "keep", "without": "leave_out"}


class QuestionReader:
    """Reads one text. Raises MissError where it cannot go on."""

    def __init__(self, scanner: Scanner, vocabulary: Vocabulary) -> None:
        self.scanner = scanner
        self._names = NameReader(scanner, vocabulary)
        self._conditions = ConditionReader(self._names)
        self._measures = MeasureReader(self._names, self._conditions.one_member)
        self._placements = PlacementReader(self._names, self._measures.measure)

    @property
    def levels_seen(self) -> tuple[LevelName, ...]:
        """Of each hierarchy in the table the finest level that was named."""
        question, seen = self._question, self._placements.seen
        return tuple(
            LevelName(dimension=each.dimension, hierarchy=each.hierarchy, level=seen[each.dimension, each.hierarchy])
            for each in (*question.rows, *question.columns)
            if (each.dimension, each.hierarchy) in seen
        )

    @property
    def numbers(self) -> tuple[NumberDress, ...]:
        """How the numbers of measures are written, where that was said."""
        return tuple(self._measures.numbers)

    @property
    def _question(self) -> Question:
        return self._names.question

    def question(self) -> Question:
        scan = self.scanner
        if not scan.is_done():
            self._names.question = Question(measures=self._listed(self._measures.shown))
        while not scan.is_done():
            scan.has(",") or scan.has(";")
            self._names.question = scan.first_of(*self._clauses())
        self._note_what_may_follow()
        return self._question

    def _note_what_may_follow(self) -> None:
        """Has the scanner note what could go on from the end."""
        end = self.scanner.at
        for each in self._clauses():
            with suppress(MissError):
                each()
            self.scanner.at = end

    def _clauses(self) -> list[Callable[[], Question]]:
        return [
            lambda: self._axis("by", "rows"), lambda: self._axis("against", "columns"), self._without_empty,
            self._filter, self._time, self._in_place_of, self._side_by_side, self._limit, self._order, self._layout,
            self._totals, self._at_hand, self._prompts, self._explained, self._as_seen,
        ]  # fmt: skip

    def _listed(self, one: Callable[[], Any]) -> tuple[Any, ...]:
        found = []
        start = self.scanner.at
        try:
            found.append(one())
        except MissError:
            self.scanner.at = start
            return ()
        while True:
            start = self.scanner.at
            try:
                if not self.scanner.has(","):
                    self.scanner.take("and")
                found.append(one())
            except MissError:
                self.scanner.at = start
                return tuple(found)

    def _axis(self, joining: str, axis: AxisName) -> Question:
        if not (axis == "rows" and self.scanner.has_quietly("per")):
            self.scanner.take(joining)
        placed = self._question.axis(axis)
        return self._question.with_axis(axis, (*placed, *self._placements.nested(placed)))

    def _filter(self) -> Question:
        scan = self.scanner
        action: Action = "keep" if scan.has_quietly("in") else scan.any_of(_ACTIONS)
        found: list[Condition] = [self._conditions.condition(action)]
        while True:
            start = scan.at
            try:
                if not scan.has(","):
                    scan.take("and")
                scan.has_quietly("and")
                scan.has("for" if action == "keep" else "without")
                found.append(self._conditions.condition(action))
            except MissError:
                scan.at = start
                return self._with(*found)

    def _with(self, *filters: Condition) -> Question:
        return replace(self._question, filters=(*self._question.filters, *filters))

    def _time(self) -> Question:
        """A time by itself: "last year", "this year so far"."""
        if self.scanner.is_done():
            raise MissError  # what "for" offers is not offered twice
        return self._with(self._conditions.said_period("keep"))

    def _in_place_of(self) -> Question:
        """Joint members that stand in the table in place of those that they join: "with Rails in place of Tram"."""
        scan = self.scanner
        if not scan.has_quietly("with"):
            raise MissError
        self._conditions.one_member()
        while scan.has(",") or scan.has("and"):
            self._conditions.one_member()
        scan.take("in place of")
        return self._with(self._conditions.members("leave_out"))

    def _side_by_side(self) -> Question:
        """Members of which one is looked at beside another: "actual against plan". They stand on the columns, and
        alone."""
        scan, start = self.scanner, self.scanner.skip()
        for dimension in self._names.vocabulary.model.dimensions if not scan.is_done() else ():
            if not dimension.alternatives:
                continue
            scan.at = start
            own = (dimension.name, dimension.hierarchies[0].name)
            members = []
            while (path := self._placements.member_called(own)) is not None:
                members.append(path)
                if not scan.has_quietly("against"):
                    break
            if len(members) < 2 or len({len(each) for each in members}) > 1:
                continue
            question = self._with(
                MemberFilter(dimension=dimension.name, hierarchy=own[1], action="keep", members=tuple(members))
            )
            if any((each.dimension, each.hierarchy) == own for each in (*question.rows, *question.columns)):
                return question
            level = dimension.hierarchies[0].levels[len(members[0]) - 1]
            placed = PlacedDimension(dimension=dimension.name, hierarchy=own[1], level=level)
            self._placements.seen[own] = level
            return question.with_axis("columns", (*question.columns, placed))
        scan.at = start
        raise MissError

    def _limit(self) -> Question:
        """A limit at the end, on whichever placed hierarchy has the level that it names."""
        question = self._question
        for axis in AXES:
            for at, placed in enumerate(question.axis(axis)):
                start = self.scanner.at
                own = (placed.dimension, placed.hierarchy)
                try:
                    limit = self._placements.limit(lambda own=own: self._names.level(own))  # type: ignore[misc]
                except MissError:
                    self.scanner.at = start
                    continue
                changed = list(question.axis(axis))
                levels = self._names.vocabulary.hierarchy(own)[1].levels
                # A limit on a level above what was named shows that level: it would limit nothing below it.
                first = min(placed.level, limit.level, key=levels.index)
                changed[at] = replace(placed, level=first, limits=(*placed.limits, limit))
                return question.with_axis(axis, tuple(changed))
        raise MissError

    def _order(self) -> Question:
        """Line ordered by Boardings, largest first; or, of what stands innermost, sorted by Boardings."""
        scan, question = self.scanner, self._question
        placed = [(axis, at) for axis in AXES for at in range(len(question.axis(axis)))]
        if not placed or scan.is_done():
            raise scan.miss("sorted by", are="word") if placed else MissError
        axis, at = next(((axis, at) for axis, at in reversed(placed) if axis == "rows"), placed[-1])
        if not (scan.has("sorted") or scan.has("ordered")):
            axis, at = self._names.placed()
            scan.take("ordered")
        changed = list(question.axis(axis))
        other = question.axis("columns" if axis == "rows" else "rows")
        changed[at] = replace(changed[at], order=self._placements.order(other))
        return question.with_axis(axis, tuple(changed))

    def _without_empty(self) -> Question:
        if not self.scanner.has_quietly("hide empty"):
            self.scanner.take("without empty")
        field = self.scanner.any_of({"rows": "empty_rows", "columns": "empty_columns"})
        return replace(self._question, **{field: "hidden"})  # type: ignore[arg-type]

    def _layout(self) -> Question:
        scan = self.scanner
        scan.has_quietly("the")
        scan.take("measures on")
        axis = scan.any_of({"rows": "rows", "columns": "columns"})
        at: int | None = None
        if scan.has("outside after"):
            at = int(scan.number())
        elif scan.has("outside"):
            on, at = self._names.placed()
            if on != axis:
                raise scan.miss()
        return replace(self._question, measures_on=axis, measures_at=at)  # type: ignore[arg-type]

    def _totals(self) -> Question:
        scan = self.scanner
        if scan.has("totals over"):
            scan.has("what is")
            over = scan.any_of({"shown": "shown", "everything in scope": "scope"})
            return replace(self._question, totals_over=over)  # type: ignore[arg-type]
        if scan.has("totals of one"):
            return replace(self._question, totals_of_one=scan.any_of({"shown": "shown", "hidden": "hidden"}))
        if scan.has("no grand total"):
            return replace(self._question, **{scan.any_of({"row": "row_total", "column": "column_total"}): "none"})  # type: ignore[arg-type]
        field = scan.any_of({"row total": "row_total", "column total": "column_total"})
        where = scan.any_of({"before": "before", "after": "after", "none": "none"})
        return replace(self._question, **{field: where})  # type: ignore[arg-type]

    def _at_hand(self) -> Question:
        self.scanner.take("at hand")
        seen = dict(self._placements.seen)
        waiting = (*self._question.waiting, *self._placements.nested())
        self._placements.seen = seen  # of what waits nothing is seen
        return replace(self._question, waiting=waiting)

    def _prompts(self) -> Question:
        question = self._question
        if self.scanner.any_of({"asks": True, "answering": False}):
            return replace(question, prompts=(*question.prompts, self.scanner.part(shapes.prompt)))
        return replace(question, answers=(*question.answers, self.scanner.part(shapes.answer)))

    def _explained(self) -> Question:
        """What was made is explained behind the question; it has to be so."""
        scan = self.scanner
        if not scan.has_quietly("where"):
            raise MissError
        known = explanations(self._names.vocabulary, self._question)
        while any(scan.has_quietly(each.casefold()) for each in known):
            if not scan.has_quietly("; and"):
                return self._question
        raise scan.miss(*known, are="kind")

    def _as_seen(self) -> Question:
        """As far as whoever reads may see, which rights decide and not words."""
        scan = self.scanner
        end = scan.text.rstrip().casefold().endswith("may see")
        if not (end and scan.has_quietly("as far as")):
            raise MissError
        scan.at = len(scan.text)
        return self._question
