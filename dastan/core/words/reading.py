"""Reads a question from words: what `write_question` writes, and what people write shorter.

What cannot be read is pointed at, with the nearest names and what could stand there.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from typing import Any, get_args

from dastan.core.analysis.captions import level_caption
from dastan.core.analysis.document import (
    AXES,
    AxisName,
    Limit,
    Order,
    PlacedDimension,
    PlacedMeasure,
    Question,
    Under,
)
from dastan.core.analysis.views import View
from dastan.core.model.conditions import Action, Condition
from dastan.core.model.document import Aggregate
from dastan.core.model.members import fold
from dastan.core.words import shapes
from dastan.core.words.conditions import ConditionReader
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.views import read_view
from dastan.core.words.vocabulary import Place, Vocabulary, nearest
from dastan.core.words.written import AGGREGATES, as_name

COMPLETIONS = 12
_AGGREGATES = {words: name for name, words in AGGREGATES.items()}


@dataclass(frozen=True, slots=True)
class NotUnderstood:
    """What could not be read: from `start` to `end` of the text; `near` are names that may be meant."""

    start: int
    end: int
    message: str
    near: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Reading:
    """What a text means, as far as it was read, and what could go on from its end."""

    question: Question | None
    fault: NotUnderstood | None
    completions: tuple[str, ...]
    """Each is what is written so far with its last words completed."""


def read_question(text: str, vocabulary: Vocabulary) -> Reading:
    """Reads a question. One with a fault has no question."""
    reader = _Reader(Scanner(text), vocabulary)
    try:
        question = reader.question()
    except MissError:
        question = None
    except RecursionError:
        return Reading(None, NotUnderstood(0, len(text), "This is nested too deeply to be read.", ()), ())
    scanner = reader.scanner
    completions = _completions(scanner)
    if question is not None and scanner.is_done():
        return Reading(question, None, completions)
    return Reading(None, _fault(scanner), completions)


def _fault(scanner: Scanner) -> NotUnderstood:
    start = scanner.furthest
    while start < len(scanner.text) and scanner.text[start].isspace():
        start += 1
    wrong = scanner.text[start:].split("(")[0].split(",")[0].strip()
    words = wrong.split()
    spans = [" ".join(words[:count]) for count in range(min(3, len(words)), 0, -1)]
    near = list(dict.fromkeys(each for span in spans for each in nearest(span, scanner.expected)))
    if not words:
        return NotUnderstood(start, len(scanner.text), "Something is missing at the end.", ())
    shown = " ".join(words[:3])
    return NotUnderstood(start, start + len(words[0]), f"“{shown}” is not understood here.", tuple(near[:3]))


def _completions(scanner: Scanner) -> tuple[str, ...]:
    """What the text could go on with where it could last be read, if what stands there begins so: names first."""
    before, begun = scanner.text[: scanner.furthest], scanner.text[scanner.furthest :].lstrip()
    is_quoted = begun[:1] in ('"', "“")
    wanted = fold(begun[1:] if is_quoted else begun)
    kinds = ("name",) if is_quoted else ("name", "word")
    words = [each for each, kind in scanner.expected.items() if each[0].isalnum() and kind in kinds]
    found = [each for each in words if fold(each).startswith(wanted) and fold(each) != wanted]
    found.sort(key=lambda each: scanner.expected[each] != "name")
    space = " " if before and not before[-1].isspace() and before[-1] not in "(" else ""
    shown = [as_name(each) if scanner.expected[each] == "name" else each for each in found[:COMPLETIONS]]
    return tuple(f"{before}{space}{each}" for each in shown)


@dataclass
class _Reader:
    scanner: Scanner
    vocabulary: Vocabulary
    _question: Question = field(default_factory=Question)
    _named: PlacedMeasure | None = None
    """The measure that was named last: what "its" means."""

    def question(self) -> Question:
        scan = self.scanner
        measures = self._listed(self.measure) if not scan.is_done() else ()
        self._question = Question(measures=measures)
        while not scan.is_done():
            scan.has(",") or scan.has(";")
            self._question = scan.first_of(*self._clauses())
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
            self._filter, self._time, self._trailing_limit, self._trailing_order, self._layout, self._totals,
            self._at_hand, self._prompts,
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

    def measure(self) -> PlacedMeasure:
        scan = self.scanner

        def aggregated() -> PlacedMeasure:
            percentile = None
            start = scan.at
            try:
                percentile = scan.number()
                scan.has("th") or scan.has("st") or scan.has("nd") or scan.has("rd")
            except MissError:
                scan.at = start
            aggregate = scan.first_of(lambda: scan.any_of(_AGGREGATES), self._technical_aggregate)
            name = self._measure_name()
            share = float(percentile) if percentile is not None else None
            return PlacedMeasure(measure=name, aggregate=aggregate, percentile=share)  # type: ignore[arg-type]

        def plain() -> PlacedMeasure:
            return PlacedMeasure(measure=self._measure_name())

        def viewed() -> PlacedMeasure:
            view = self._view()
            scan.take("of")
            return replace(scan.longest_of(plain, aggregated), view=view)

        def its() -> PlacedMeasure:
            if self._named is None:
                raise MissError
            if not scan.has("its"):
                scan.take("their")
            return replace(self._named, view=self._view())

        found = scan.longest_of(plain, aggregated, viewed, its)
        self._named = replace(found, view=None)
        return found

    def _view(self) -> View:
        return read_view(
            self.scanner, self.vocabulary, self._level_of_place, self._level_only,
            lambda: self._conditions().one_member(), self._measure_name,
        )  # fmt: skip

    def _measure_name(self) -> str:
        return self.scanner.first_of(
            lambda: self.scanner.name(self.vocabulary.measures, "a measure"), self._technical_measure
        )

    def _technical_aggregate(self) -> str:
        name = self.scanner.technical()
        if name not in get_args(Aggregate):
            raise self.scanner.miss()
        return name

    def _technical_measure(self) -> str:
        name = self.scanner.technical()
        if all(each.name != name for each in self.vocabulary.model.measures):
            raise self.scanner.miss()
        return name

    def _axis(self, joining: str, axis: AxisName) -> Question:
        if not (axis == "rows" and self.scanner.has_quietly("per")):
            self.scanner.take(joining)
        return self._question.with_axis(axis, (*self._question.axis(axis), *self._nested()))

    def _nested(self) -> list[PlacedDimension]:
        """Dimensions one inside another. "And" and a comma are as good as "then", but what is no dimension may follow
        a comma too."""
        scan = self.scanner
        found = [self.placed()]
        while True:
            start = scan.at
            if scan.has("then") or scan.has("and"):
                found.append(self.placed())
                continue
            try:
                scan.take(",")
                placed = self.placed()
                if scan.has("ordered"):
                    raise MissError  # what follows says how one of them is ordered
                found.append(placed)
            except MissError:
                scan.at = start
                return found

    def placed(self) -> PlacedDimension:
        scan = self.scanner
        own, level = scan.first_of(self._level_of_place, self._placeable, self._place_only)
        _, hierarchy = self.vocabulary.hierarchy(own)
        placed = PlacedDimension(dimension=own[0], hierarchy=own[1], level=level or hierarchy.levels[0])
        if scan.has("("):
            placed = self._with_part(placed, own)
            while scan.has(";"):
                placed = self._with_part(placed, own)
            scan.take(")")
        return placed

    def _level_of_place(self) -> tuple[Place, str | None]:
        start = self.scanner.skip()
        for own in self.vocabulary.places(self._question):
            self.scanner.at = start
            try:
                level = self._level(own)
                self.scanner.take("of")
                if self.place() == own:
                    return own, level
            except MissError:
                continue
        self.scanner.at = start
        raise MissError

    def _placeable(self) -> tuple[Place, str | None]:
        dimension, hierarchy, level = self.scanner.name(self.vocabulary.placeable, "a dimension")
        return (dimension, hierarchy), level

    def _place_only(self) -> tuple[Place, str | None]:
        return self.place(), None

    def _level_only(self) -> tuple[Place, str | None]:
        dimension, hierarchy, level = self.scanner.name(self.vocabulary.levels, "a level")
        return (dimension, hierarchy), level

    def place(self) -> Place:
        return self.scanner.first_of(
            lambda: self.scanner.name(self.vocabulary.hierarchies, "a dimension"), self._technical_place
        )

    def _technical_place(self) -> Place:
        dimension, _, hierarchy = self.scanner.technical().partition("/")
        if (dimension, hierarchy) not in self.vocabulary.places(Question()):
            raise self.scanner.miss()
        return dimension, hierarchy

    def _level(self, own: Place) -> str:
        def technical() -> str:
            name = self.scanner.technical()
            if name not in self.vocabulary.hierarchy(own)[1].levels:
                raise self.scanner.miss()
            return name

        return self.scanner.first_of(lambda: self.scanner.name(self.vocabulary.levels_of(own), "a level"), technical)

    def _with_part(self, placed: PlacedDimension, own: Place) -> PlacedDimension:
        """The placement with one more thing said of it."""
        scan = self.scanner
        if scan.has("passing over"):
            return replace(placed, skipped=self._listed(lambda: self._level(own)))
        if scan.has("with those without records"):
            return replace(placed, all_members=True)
        if scan.has("subtotals"):
            where = scan.any_of({"before": "before", "after": "after", "none": "none"})
            return replace(placed, totals=where)  # type: ignore[arg-type]
        if scan.has("ordered by"):
            return replace(placed, order=self._order())
        if scan.has("only under"):
            return replace(placed, only_under=self._unders())
        return replace(placed, limits=(*placed.limits, self.limit(lambda: self._level(own))))

    def _order(self) -> Order:
        scan = self.scanner
        words = {"natural order": "natural", "name": "caption", "key": "key", "measure": "measure"}
        by = scan.any_of(words)
        order = Order(by=by, measure=self.measure() if by == "measure" else None)  # type: ignore[arg-type]
        if scan.has("reversed") or scan.has("largest first"):
            order = replace(order, descending=True)
        if scan.has("at"):
            order = replace(order, column=scan.part(shapes.header_path))
        return replace(order, across=scan.has("across all"))

    def _unders(self) -> tuple[Under, ...]:
        found: list[Under] = []
        while True:
            start = self.scanner.at
            try:
                found.append(self.scanner.part(shapes.under))
            except MissError:
                self.scanner.at = start
                return tuple(found)

    def limit(self, level_name: Callable[[], str]) -> Limit:
        """The 5 largest lines; the largest 10 % of lines; the largest lines that make 80 %; each by a measure. Or as
        people say it: the top 5 lines, the bottom 10 %."""
        scan = self.scanner
        scan.has("the")
        count, amount = "members", self._number_or_none()
        side = "largest" if scan.has_quietly("top") else "smallest" if scan.has_quietly("bottom") else ""
        side = side or scan.any_of({"largest": "largest", "smallest": "smallest"})
        if amount is None:
            amount = self._number_or_none()
            if amount is not None and scan.has("%"):
                count = "percent_of_members"
                scan.has("of")
            elif amount is None and scan.has("of the"):
                amount = 1  # the largest of the lines
        level = level_name()
        if amount is None:
            scan.take("that make")
            amount, count = scan.number(), "percent_of_measure"
            scan.take("%")
        per = "whole" if scan.has("of all") else "parent"
        if scan.has("in each"):
            self._each_of(level)
        by = self._measure_to_rank_by()
        others = scan.has("with others") or scan.has(", the rest as others")
        return Limit(level=level, count=count, amount=amount, side=side, by=by, per=per, others=others)  # type: ignore[arg-type]

    def _measure_to_rank_by(self) -> PlacedMeasure:
        """By Boardings; or "of Boardings", as the sentence says it. The only measure of a question needs no mention."""
        scan = self.scanner
        if scan.has("of") or scan.has("by"):
            return self.measure()
        if len(self._question.measures) != 1:
            raise MissError
        return self._question.measures[0]

    def _number_or_none(self) -> int | float | None:
        start = self.scanner.at
        try:
            return self.scanner.number()
        except MissError:
            self.scanner.at = start
            return None

    def _each_of(self, level: str) -> None:
        """The members in each of which a limit holds, as the sentence says them: of a level above its own, or of what
        stands outside. It says no more than "parent" does, and nothing else may be meant."""
        placed = (*self._question.rows, *self._question.columns)
        levels = [(each, self.vocabulary.hierarchy((each.dimension, each.hierarchy))) for each in placed]
        known: dict[str, str] = {}
        for at, (_, (dimension, hierarchy)) in enumerate(levels):
            own = hierarchy.levels.index(level) if level in hierarchy.levels else len(hierarchy.levels)
            if level in hierarchy.levels or at < len(levels) - 1:
                known |= {fold(level_caption(dimension, each)): each for each in hierarchy.levels[:own]}
        self.scanner.name(known, "a level")
        while self.scanner.has("or"):
            self.scanner.name(known, "a level")

    def _trailing_order(self) -> Question:
        """Line ordered by Boardings, largest first; or, of what stands innermost, sorted by Boardings."""
        scan, question = self.scanner, self._question
        placed = [(axis, at) for axis in AXES for at in range(len(question.axis(axis)))]
        if not placed or scan.is_done():
            raise scan.miss("sorted by", are="word") if placed else MissError
        axis, at = next(((axis, at) for axis, at in reversed(placed) if axis == "rows"), placed[-1])
        if not (scan.has("sorted") or scan.has("ordered")):
            own = self.place()
            found = [(each, n) for each, n in placed if question.axis(each)[n].hierarchy == own[1]]
            found = [(each, n) for each, n in found if question.axis(each)[n].dimension == own[0]]
            if not found:
                raise scan.miss()
            axis, at = found[0]
            scan.take("ordered")
        changed = list(question.axis(axis))
        changed[at] = replace(changed[at], order=self._order_said())
        return question.with_axis(axis, tuple(changed))

    def _order_said(self) -> Order:
        scan = self.scanner
        told = {"in natural order": "natural", "by name": "caption", "by key": "key"}
        for words, by in told.items():
            if scan.has(words):
                is_reversed = scan.has("reversed")
                return Order(by=by, descending=is_reversed, across=scan.has("across all"))  # type: ignore[arg-type]
        scan.take("by")
        measure = self.measure()
        if measure not in self._question.measures:
            raise scan.miss()  # nothing would be ordered by what does not stand in the table
        is_smallest = scan.has(", smallest first") or scan.has("smallest first")
        _ = is_smallest or scan.has(", largest first") or scan.has("largest first")
        return Order(by="measure", measure=measure, descending=not is_smallest, across=scan.has("across all"))

    def _time(self) -> Question:
        """A time by itself: "last year", "this year so far"."""
        if self.scanner.is_done():
            raise MissError  # what "for" offers is not offered twice
        return replace(self._question, filters=(*self._question.filters, self._conditions().said_period("keep")))

    def _trailing_limit(self) -> Question:
        """A limit at the end, on whichever placed hierarchy has the level that it names."""
        question = self._question
        for axis in AXES:
            for at, placed in enumerate(question.axis(axis)):
                start = self.scanner.at
                own = (placed.dimension, placed.hierarchy)
                try:
                    limit = self.limit(lambda own=own: self._level(own))  # type: ignore[misc]
                except MissError:
                    self.scanner.at = start
                    continue
                changed = list(question.axis(axis))
                levels = self.vocabulary.hierarchy(own)[1].levels
                # A limit on a level above what was named shows that level: it would limit nothing below it.
                first = min(placed.level, limit.level, key=levels.index)
                changed[at] = replace(placed, level=first, limits=(*placed.limits, limit))
                return question.with_axis(axis, tuple(changed))
        raise MissError

    def _filter(self) -> Question:
        actions: dict[str, Action] = {"for": "keep", "without": "leave_out"}
        action = "keep" if self.scanner.has_quietly("in") else self.scanner.any_of(actions)
        reader = self._conditions()
        found: list[Condition] = [reader.condition(action)]
        while True:
            start = self.scanner.at
            try:
                if not self.scanner.has(","):
                    self.scanner.take("and")
                self.scanner.has("for" if action == "keep" else "without")
                found.append(reader.condition(action))
            except MissError:
                self.scanner.at = start
                break
        return replace(self._question, filters=(*self._question.filters, *found))

    def _conditions(self) -> ConditionReader:
        return ConditionReader(
            self.scanner,
            self.vocabulary,
            self._question,
            self.place,
            self._level,
            self._level_of_place,
            self._measure_name,
        )

    def _without_empty(self) -> Question:
        if not self.scanner.has("without empty"):
            self.scanner.take("hide empty")
        field = self.scanner.any_of({"rows": "empty_rows", "columns": "empty_columns"})
        return replace(self._question, **{field: "hidden"})  # type: ignore[arg-type]

    def _layout(self) -> Question:
        scan = self.scanner
        scan.has("the")
        scan.take("measures on")
        axis = scan.any_of({"rows": "rows", "columns": "columns"})
        at: int | None = None
        if scan.has("outside after"):
            at = int(scan.number())
        elif scan.has("outside"):
            own, _ = scan.first_of(self._place_only, self._level_only)
            on = self._question.axis(axis)  # type: ignore[arg-type]
            places = [place for place, each in enumerate(on) if (each.dimension, each.hierarchy) == own]
            if not places:
                raise scan.miss()
            at = places[0]
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
        return replace(self._question, waiting=(*self._question.waiting, *self._nested()))

    def _prompts(self) -> Question:
        question = self._question
        if self.scanner.any_of({"asks": True, "answering": False}):
            return replace(question, prompts=(*question.prompts, self.scanner.part(shapes.prompt)))
        return replace(question, answers=(*question.answers, self.scanner.part(shapes.answer)))
