"""Writes a question in words that can be read back: the sentence, with nothing left out and nothing ambiguous.

Names stand as they are called where that leads back to them, in double quotes where they are not plain words, and by
their technical names behind a `#` where it does not. Keys, which have types, are JSON after a `#`.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from typing import assert_never

from dastan.core.analysis.captions import hierarchy_caption, level_caption
from dastan.core.analysis.document import AXES, Limit, Order, PlacedDimension, PlacedMeasure, Question, Under
from dastan.core.analysis.sentence import NO_TOTAL
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
from dastan.core.words.vocabulary import Place, Vocabulary

AGGREGATES = {
    "sum": "sum of", "average": "average of", "min": "least", "max": "greatest", "median": "median of",
    "percentile": "percentile of", "count_values": "count of", "distinct": "different values of",
    "variance": "variance of", "deviation": "deviation of", "first": "first", "last": "last",
}  # fmt: skip
OPERATORS = {
    "equal": "is", "not_equal": "is not", "less": "is less than", "at_most": "is at most", "more": "is more than",
    "at_least": "is at least", "between": "is between", "contains": "contains", "begins_with": "begins with",
    "ends_with": "ends with",
}  # fmt: skip
_PLAIN = re.compile(r"[^\W\d_][\w'’%/&.-]*( [\w'’%/&.-]+)*|\d[\w/-]*")
_RESERVED_WORDS = """
and or by against then for without where at of as in is the every below asked ready list showing only under with totals
over measures on rows columns outside row column total hide empty asks answering not ordered subtotals passing
"""
_RESERVED = frozenset(_RESERVED_WORDS.split())


def write_question(question: Question, vocabulary: Vocabulary) -> str:
    """The question in words: `read_question` gives it back. Raises NotFoundError for a name that is not there."""
    return _Writer(question, vocabulary).text()


@dataclass(frozen=True)
class _Writer:
    question: Question
    vocabulary: Vocabulary

    def text(self) -> str:
        question = self.question
        parts = [", ".join(self.measures())]
        for joining, placed in (("by", question.rows), ("against", question.columns)):
            if placed:
                parts.append(f"{joining} {' then '.join(self.placed(each) for each in placed)}")
        for each in question.filters:
            parts.append(f"{'for' if each.action == 'keep' else 'without'} {self.condition(each)}")
        parts += self.clauses()
        return " ".join(each for each in parts if each)

    def clauses(self) -> list[str]:
        question = self.question
        found = []
        if question.measures_on != "columns" or question.measures_at is not None:
            at = f" outside after {question.measures_at}" if question.measures_at is not None else ""
            found.append(f"measures on {question.measures_on}{at}")
        if question.totals_over == "shown":
            found.append("totals over shown")
        if question.totals_of_one == "shown":
            found.append("totals of one shown")
        for name, where in (("row", question.row_total), ("column", question.column_total)):
            if where != "after":
                found.append(NO_TOTAL[f"{name}_total"] if where == "none" else f"{name} total {where}")
        for axis in AXES:
            if question.hides_empty(axis):
                found.append(f"hide empty {axis}")
        if question.waiting:
            found.append(f"at hand {' then '.join(self.placed(each) for each in question.waiting)}")
        found += [f"asks {_json_part(each)}" for each in question.prompts]
        found += [f"answering {_json_part(each)}" for each in question.answers]
        return found

    def measures(self) -> Iterator[str]:
        """Each measure; a view that follows its own measure as "its share of the row"."""
        before: PlacedMeasure | None = None
        for each in self.question.measures:
            bare = replace(each, view=None)
            yield f"its {self.view(each.view)}" if each.view is not None and bare == before else self.measure(each)
            before = bare

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
        return f"{at}{AGGREGATES.get(placed.aggregate, _technical(placed.aggregate))} {name}"

    def placed(self, placed: PlacedDimension) -> str:
        own = (placed.dimension, placed.hierarchy)
        text = self._placed_level(own, placed.level)
        more = []
        if placed.skipped:
            more.append("passing over " + " and ".join(self.level(own, each) for each in placed.skipped))
        if placed.all_members:
            more.append("with those without records")
        more += [self.limit(each, own) for each in placed.limits]
        if placed.totals is not None:
            more.append(f"subtotals {placed.totals}")
        if placed.order != Order():
            more.append(self.order(placed.order))
        if placed.only_under is not None:
            more.append("only under" + "".join(f" {_under(each)}" for each in placed.only_under))
        return f"{text} ({'; '.join(more)})" if more else text

    def _placed_level(self, own: Place, level: str) -> str:
        """A level as it stands on an axis: by its name alone where that leads back to it."""
        dimension, hierarchy = self.vocabulary.hierarchy(own)
        for caption in (level_caption(dimension, level), hierarchy_caption(dimension, hierarchy)):
            if self.vocabulary.placeable.get(fold(caption)) == (*own, level):
                return as_name(caption)
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
            text += f"{' below ' if text else ''}asked {_technical(each.prompt)}"
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
                    return " › ".join(as_name(one) for one in named)
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

    def _name(self, own: object, caption: str, known: dict[str, object] | dict[str, str] | dict[str, Place]) -> str:
        """The caption where it leads back to the thing, else its technical name."""
        if known.get(fold(caption)) == own:
            return as_name(caption)
        return _technical("/".join(own) if isinstance(own, tuple) else str(own))


def as_name(caption: str) -> str:
    """A name as it is written: in quotes where it is not plain words, or holds one that says something else."""
    is_plain = bool(_PLAIN.fullmatch(caption)) and not _RESERVED & set(fold(caption).split())
    return caption if is_plain else quoted(caption)


def _technical(name: str) -> str:
    return f"#{quoted(name)}"


def _same(one: MemberPath | None, other: MemberPath) -> bool:
    """Whether two paths are the same to the types of their keys: 1, 1.0 and true are not."""
    return one is not None and [(type(each), each) for each in one] == [(type(each), each) for each in other]


def _value(value: Key | PromptRef) -> str:
    return (
        f"asked {_technical(value.prompt)}" if isinstance(value, PromptRef) else json.dumps(value, ensure_ascii=False)
    )


def _under(under: Under) -> str:
    return f"#{json.dumps([[each.dimension, each.hierarchy, list(each.path)] for each in under.members])}"


def _json_part(part: object) -> str:
    return f"#{json.dumps(asdict(part), ensure_ascii=False)}"  # type: ignore[call-overload]
