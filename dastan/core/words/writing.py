"""Writes a question in words that can be read back: those of the sentence, wherever they lead back to what they are of.

Where they do not, names stand in quotes or by their technical names behind a `#`, keys, which have types, as JSON after
a `#`, and what the sentence leaves out in brackets.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import assert_never

from dastan.core.analysis.captions import hierarchy_caption, level_caption, placed_caption
from dastan.core.analysis.condition_words import condition_words
from dastan.core.analysis.document import (
    AXES,
    Analysis,
    Limit,
    Order,
    PlacedDimension,
    PlacedMeasure,
    Question,
    Under,
)
from dastan.core.analysis.dress import number_words_of
from dastan.core.analysis.joints import in_place_of
from dastan.core.analysis.limit_words import limit_words
from dastan.core.analysis.openness import shown_levels
from dastan.core.analysis.prompts import prompts_named
from dastan.core.analysis.sentence import (
    NO_TOTAL,
    WITHOUT_RECORDS,
    dimension_words,
    in_place_words,
    layout_words,
    order_words,
    under_words,
)
from dastan.core.analysis.view_captions import caption_after
from dastan.core.analysis.view_words import ViewNames, view_words
from dastan.core.analysis.views import View, calendars_of
from dastan.core.formula.names import quoted
from dastan.core.model.conditions import (
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
from dastan.core.words.meaning import Meaning, meaning_of, meaning_of_reading
from dastan.core.words.reading import read_question
from dastan.core.words.terms import AGGREGATES, OPERATORS, as_name, technical
from dastan.core.words.vocabulary import Place, Vocabulary

Part = tuple[str | int, ...]
"""Names a part of the text that can be written in several ways."""


def write_words(document: Analysis, vocabulary: Vocabulary) -> str:
    """What a document asks, in words: `read_question` gives it back, with the levels that are seen and how the numbers
    are written. Raises NotFoundError for a name that is not there.

    Args: `vocabulary` is of the document's model with what is made in it.
    """
    wanted = meaning_of(document, vocabulary)
    chosen: dict[Part, int] = {}
    while True:
        writer = _Writer(document, vocabulary, chosen)
        text = writer.text()
        reading = read_question(text, vocabulary)
        found = meaning_of_reading(reading, vocabulary)
        if found == wanted:
            return text
        wrong = writer.parts_at(reading.fault.start) if reading.fault is not None else _differing(found, wanted)
        exacter = {part: chosen.get(part, 0) + 1 for part in wrong if chosen.get(part, 0) < writer.ways.get(part, 0)}
        if not exacter:
            break
        chosen = chosen | (dict([next(iter(exacter.items()))]) if reading.fault is not None else exacter)
    text = _Writer(document, vocabulary, writer.ways).text()
    if meaning_of_reading(read_question(text, vocabulary), vocabulary) == wanted:
        return text
    return _Writer(document, vocabulary, writer.ways, quotes=True).text()


def _differing(found: Meaning | None, wanted: Meaning) -> Iterator[Part]:
    """The parts of a text by which it means something else."""
    if found is None:
        return
    one, other = found.question, wanted.question
    yield from (("measure", at) for at in _unlike(one.measures, other.measures))
    for axis in AXES:
        for at in _unlike(one.axis(axis), other.axis(axis)):
            if at >= len(one.axis(axis)):
                yield axis, at
                continue
            mine, placed = one.axis(axis)[at], other.axis(axis)[at]
            if mine.order != placed.order:
                yield "order", axis, at
            if mine.limits != placed.limits:
                yield from (("limit", axis, at, each.level) for each in placed.limits)
            if replace(mine, order=placed.order, limits=placed.limits) != placed:
                yield axis, at
    yield from (("filter", at) for at in _unlike(one.filters, other.filters))
    yield from (("waiting", at) for at in _unlike(one.waiting, other.waiting))
    yield ("layout",)


def _unlike(found: Sequence[object], wanted: Sequence[object]) -> list[int]:
    """The places of what is wanted and not found there; all of them where there are not as many."""
    if len(found) != len(wanted):
        return list(range(len(wanted)))
    return [at for at, each in enumerate(wanted) if each != found[at]]


@dataclass
class _Writer:
    document: Analysis
    vocabulary: Vocabulary
    chosen: dict[Part, int] = field(default_factory=dict)
    """How each part is written: by the first of its ways unless said, by its last one exactly."""
    quotes: bool = False
    """Whether every name stands in quotes, for names that run into others beside them."""
    ways: dict[Part, int] = field(default_factory=dict)
    """The last way of each part that was written."""
    starts: list[tuple[int, Part]] = field(default_factory=list)
    """Where in the text each part begins."""

    @property
    def question(self) -> Question:
        return self.document.question

    def text(self) -> str:
        text = ""
        for part, each in self.pieces():
            self.starts.append((len(text), part))
            text += each if text else each.lstrip(",; ")
        return text

    def parts_at(self, place: int) -> Iterator[Part]:
        """The part that stands at a place of the text, and then those before it, which may have run into it."""
        yield from (part for start, part in reversed(self.starts) if start <= place)

    def way(self, part: Part, last: int = 1) -> int:
        """How a part is written, of `last` + 1 ways."""
        self.ways[part] = last
        return self.chosen.get(part, 0)

    def pieces(self) -> Iterator[tuple[Part, str]]:
        """The parts of the text in order, each with what joins it to those before."""
        last = len(self.question.measures) - 1
        for at, text in enumerate(self.measures()):
            yield ("measure", at), f"{'' if not at else ' and ' if at == last else ', '}{text}"
        for axis, joining in (("rows", "by"), ("columns", "against")):
            for at, each in enumerate(self.question.axis(axis)):  # type: ignore[arg-type]
                yield (axis, at), f" {'then' if at else joining} {self.placed(each, (axis, at))}"
        yield from self.filters()
        yield from self.limits()
        if self.question.totals_over == "shown":
            yield (), ", totals over what is shown"
        yield from self.orders()
        yield from (((), text) for text in self.of_the_table())
        for at, each in enumerate(self.question.waiting):
            yield ("waiting", at), f"{',' if at else '; at hand'} {self.placed(each, ('waiting', at))}"
        yield from (((), f"; asks {_json_part(each)}") for each in self.question.prompts)
        yield from (((), f"; answering {_json_part(each)}") for each in self.question.answers)

    def limits(self) -> Iterator[tuple[Part, str]]:
        """The limits that are not written beside what they limit."""
        for axis in AXES:
            for at, each in enumerate(self.question.axis(axis)):
                _, hierarchy = self.vocabulary.hierarchy((each.dimension, each.hierarchy))
                for limit in each.limits_in_force(hierarchy.levels):
                    part: Part = ("limit", axis, at, limit.level)
                    if self.way(part) == 0:
                        yield part, f", {limit_words(limit, each, self.document, self.vocabulary.model)}"

    def orders(self) -> Iterator[tuple[Part, str]]:
        """The orders that are not written beside what they order."""
        for axis in AXES:
            for at, each in enumerate(self.question.axis(axis)):
                part: Part = ("order", axis, at)
                if each.order != Order() and self.way(part) == 0:
                    words = order_words(each, axis, self.document, self.vocabulary.model, self.vocabulary.members)
                    yield part, f", {words}" if words else ""

    def of_the_table(self) -> Iterator[str]:
        """What is said of the table as a whole."""
        question = self.question
        for axis in AXES:
            if question.hides_empty(axis):
                yield f", without empty {axis}"
        for name, where in (("row", question.row_total), ("column", question.column_total)):
            if where != "after":
                yield f", {NO_TOTAL[f'{name}_total'] if where == 'none' else f'{name} total {where}'}"
        if question.totals_of_one == "shown":
            yield ", totals of one shown"
        if question.measures_on != "columns" or question.measures_at is not None:
            exact = f"measures on {question.measures_on}"
            exact += f" outside after {question.measures_at}" if question.measures_at is not None else ""
            said = layout_words(self.document, self.vocabulary.model)
            yield f", {said if said and self.way(('layout',)) == 0 else exact}"

    def filters(self) -> Iterator[tuple[Part, str]]:
        """The filters in the sentence's order: those that keep before those that leave out."""
        before = any((self.question.measures, self.question.rows, self.question.columns))
        at = 0
        for joining, action in (("for", "keep"), ("without", "leave_out")):
            own = [each for each in self.question.filters if each.action == action]
            for number, each in enumerate(own):
                start = ", and " if number else ", " if before and action == "leave_out" else " "
                yield ("filter", at), f"{start}{self.filter(each, joining, ('filter', at))}"
                before, at = True, at + 1

    def filter(self, each: Condition, joining: str, part: Part) -> str:
        """A filter: in the sentence's words, with their note where these alone mean another, or exactly."""
        way = self.way(part, last=2)
        # The sentence shows what was answered, and not what is asked.
        if way == 2 or tuple(prompts_named(each, self.vocabulary.model)):
            return f"{joining} {self.condition(each)}"
        words = condition_words(each, self.question, self.vocabulary.model, self.vocabulary.members)
        joints = in_place_of(self.document, each)
        text = f"with {in_place_words(joints, words.text)}" if joints else f"{joining} {words.text}"
        return f"{text} ({words.note})" if way == 1 and words.note else text

    def measures(self) -> Iterator[str]:
        """Each measure; a view that follows its own measure as "its share of the row"."""
        before: PlacedMeasure | None = None
        for at, each in enumerate(self.question.measures):
            bare = replace(each, view=None)
            if self.way(("measure", at)) == 0:
                last = self.question.measures[at - 1] if at else None
                text = caption_after(last, each, self.vocabulary.model, self.vocabulary.members)
            elif each.view is not None and bare == before:
                text = f"its {self.view(each.view)}"
            else:
                text = self.measure(each)
            before = bare
            dressed = number_words_of(self.document.dress_of(each))
            yield f"{text} {dressed}" if dressed else text

    def view(self, view: View) -> str:
        calendars = calendars_of(self.vocabulary.model)
        names = ViewNames(
            self._level_name,
            lambda name: "" if calendars[:1] == [name] else self._dimension(name),
            self._one_member,
            self._measure,
        )
        return view_words(view, names)

    def _measure(self, name: str) -> str:
        return self._name(name, self._measure_caption(name), self.vocabulary.measures)

    def _one_member(self, dimension: str, hierarchy: str, path: MemberPath) -> str:
        return f"{self._member((dimension, hierarchy), path)} ({self.place((dimension, hierarchy))})"

    def measure(self, placed: PlacedMeasure) -> str:
        if placed.view is not None:
            return f"{self.view(placed.view)} of {self.measure(replace(placed, view=None))}"
        name = self._name(placed.measure, self._measure_caption(placed.measure), self.vocabulary.measures)
        if placed.aggregate is None:
            return name
        at = f"{json.dumps(placed.percentile)} " if placed.percentile is not None else ""
        return f"{at}{AGGREGATES.get(placed.aggregate, technical(placed.aggregate))} {name}"

    def placed(self, placed: PlacedDimension, part: Part) -> str:
        """A hierarchy with the levels that are seen of it, and what is said of it alone."""
        own = (placed.dimension, placed.hierarchy)
        _, hierarchy = self.vocabulary.hierarchy(own)
        stands = part[0] != "waiting"
        seen = shown_levels(self.document, placed, hierarchy) if stands else [placed.level]
        said = self.way(part) == 0
        if said:
            words = dimension_words(self.document, placed, self.vocabulary.model)
            text = words if stands else placed_caption(*self.vocabulary.hierarchy(own), placed.level)
        else:
            below = [] if hierarchy.parent_child is not None else seen[1:]
            text = " › ".join([self._placed_level(own, placed.level), *(self.level(own, each) for each in below)])
        levels = hierarchy.levels
        between = levels[levels.index(placed.level) : levels.index(seen[-1])] if hierarchy.parent_child is None else ()
        over = [each for each in placed.skipped if each not in between]
        more = []
        if over:
            more.append("passing over " + " and ".join(self.level(own, each) for each in over))
        if placed.all_members:
            more.append(WITHOUT_RECORDS)
        in_force = placed.limits_in_force(levels) if stands else []
        in_brackets = [
            each for each in placed.limits if each not in in_force or self.way(("limit", *part, each.level)) == 1
        ]
        more += [self.limit(each, own) for each in in_brackets]
        if placed.totals is not None:
            more.append(f"subtotals {placed.totals}")
        if placed.order != Order() and (not stands or self.way(("order", *part)) == 1):
            more.append(self.order(placed.order))
        where = ""
        if placed.only_under is not None:
            if said and stands and part[1]:
                where = f" {under_words(placed, self.vocabulary.members)}"
            else:
                more.append("only under" + "".join(f" {_under(each)}" for each in placed.only_under))
        return text + (f" ({'; '.join(more)})" if more else "") + where

    def _placed_level(self, own: Place, level: str) -> str:
        """A level as it stands on an axis: by its name alone where that leads back to it."""
        dimension, hierarchy = self.vocabulary.hierarchy(own)
        for caption in (level_caption(dimension, level), hierarchy_caption(dimension, hierarchy)):
            if self.vocabulary.placeable.get(fold(caption)) == (*own, level):
                return self._as_name(caption)
        return f"{self.level(own, level)} of {self.place(own)}"

    def place(self, own: Place) -> str:
        dimension, hierarchy = self.vocabulary.hierarchy(own)
        return self._name(own, hierarchy_caption(dimension, hierarchy), self.vocabulary.hierarchies)

    def level(self, own: Place, level: str) -> str:
        dimension, _ = self.vocabulary.hierarchy(own)
        return self._name(level, level_caption(dimension, level), self.vocabulary.levels_of(own))

    def limit(self, limit: Limit, own: Place) -> str:
        level, amount = self.level(own, limit.level), json.dumps(limit.amount)
        text = {
            "members": f"the {amount} {limit.side} {level}",
            "percent_of_members": f"the {limit.side} {amount} % of {level}",
            "percent_of_measure": f"the {limit.side} {level} that make {amount} %",
        }[limit.count]
        text += " of all" if limit.per == "whole" else ""
        return f"{text} by {self.measure(limit.by)}" + (" with others" if limit.others else "")

    def order(self, order: Order) -> str:
        by = {"natural": "natural order", "caption": "name", "key": "key", "measure": "measure"}[order.by]
        text = f"ordered by {by}"
        if order.measure is not None:
            text += f" {self.measure(order.measure)}"
        text += " reversed" if order.descending else ""
        if order.column.members:
            text += f" at #{json.dumps(order.column.members)}"
        return text + (" across all" if order.across else "")

    def condition(self, each: Condition) -> str:
        match each:
            case MemberFilter():
                return self._members(each)
            case AttributeFilter():
                what = f"{self._attribute(each.dimension, each.attribute)} of {self._dimension(each.dimension)}"
                name = "name of " if each.on == "caption" else ""
                return f"where {name}{what} {self._compared(each.operator, each.values)}"
            case PeriodFilter():
                units = f"{each.unit.replace('_', ' ')}s"
                text = f"the {units} {each.first} to {each.last} of {self._dimension(each.dimension)}"
                text += " to date" if each.to_date else ""
                return text + (" counted from the newest data" if each.anchor == "newest" else "")
            case KeyFilter():
                state = "left blank" if each.state == "left_blank" else "not known"
                return f"where {self._dimension(each.dimension)} is {state}"
            case MeasureFilter():
                at = " and ".join(self._level_name(one) for one in each.at)
                per = f" per {self._level_name(each.per)}" if each.per is not None else ""
                measure = self.measure(PlacedMeasure(measure=each.measure))
                return f"where {measure} {self._compared(each.operator, each.values)} at {at}{per}"
            case ReadyFilter():
                caption = next_named(self.vocabulary.model.filters, each.name).caption
                return f"ready {self._name(each.name, caption, self.vocabulary.ready)}"
            case FilterGroup():
                join = " and " if each.join == "all" else " or "
                parts = [("not " if one.action == "leave_out" else "") + self.condition(one) for one in each.parts]
                return f"({each.join}: {join.join(parts)})"
            case _:
                assert_never(each)

    def _members(self, each: MemberFilter) -> str:
        if each.list is not None:
            caption = next_named(self.vocabulary.model.lists, each.list).caption
            return f"list {self._name(each.list, caption, self.vocabulary.lists)}"
        own = (each.dimension, each.hierarchy)
        text = f"every {self.level(own, each.level)}" if each.level is not None else ""
        if each.prompt is not None:
            text += f"{' below ' if text else ''}asked {technical(each.prompt)}"
        if each.members:
            members = ", ".join(self._member(own, path) for path in each.members)
            text += f"{' below ' if text else ''}{members}"
        return f"{text or 'nothing'} ({self.place(own)})"

    def _member(self, own: Place, path: MemberPath) -> str:
        found = self.vocabulary.members(*own)
        code = found.find(path)
        if code is not None:
            captions = list(found.captions_of(len(path) - 1, code))
            for named in (captions[-1:], captions):
                if all(named) and _same(self.vocabulary.member(own, named), path):
                    return " › ".join(self._as_name(one) for one in named)
        return f"#{json.dumps(path)}"

    def _compared(self, operator: str, values: tuple[Key | PromptRef, ...]) -> str:
        return f"{OPERATORS[operator]} {' or '.join(_value(each) for each in values)}"

    def _level_name(self, each: LevelName) -> str:
        own = (each.dimension, each.hierarchy)
        return f"{self.level(own, each.level)} of {self.place(own)}"

    def _dimension(self, name: str) -> str:
        return self._name(name, self.vocabulary.model.dimension(name).caption, self.vocabulary.dimensions)

    def _attribute(self, dimension: str, name: str) -> str:
        caption = level_caption(self.vocabulary.model.dimension(dimension), name)
        return self._name(name, caption, self.vocabulary.attributes_of(dimension))

    def _measure_caption(self, name: str) -> str:
        return self.vocabulary.model.measure(name).caption

    def _as_name(self, caption: str) -> str:
        return quoted(caption) if self.quotes else as_name(caption)

    def _name(self, own: object, caption: str, known: dict[str, object] | dict[str, str] | dict[str, Place]) -> str:
        """The caption where it leads back to the thing, else its technical name."""
        if known.get(fold(caption)) == own:
            return self._as_name(caption)
        return technical("/".join(own) if isinstance(own, tuple) else str(own))


def _same(one: MemberPath | None, other: MemberPath) -> bool:
    """Whether two paths are the same to the types of their keys: 1, 1.0 and true are not."""
    return one is not None and [(type(each), each) for each in one] == [(type(each), each) for each in other]


def _value(value: Key | PromptRef) -> str:
    return f"asked {technical(value.prompt)}" if isinstance(value, PromptRef) else json.dumps(value, ensure_ascii=False)


def _under(under: Under) -> str:
    return f"#{json.dumps([[each.dimension, each.hierarchy, list(each.path)] for each in under.members])}"


def _json_part(part: object) -> str:
    return f"#{json.dumps(asdict(part), ensure_ascii=False)}"  # type: ignore[call-overload]
