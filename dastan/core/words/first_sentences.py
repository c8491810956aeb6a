"""Good first sentences of a model: what somebody could ask who sees an empty sheet, in words that can be written.

They are made of what the model's author put first: of its first folders the first measure, by the first dimension that
tells its records apart, over time where there is some.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from dastan.core.analysis.captions import level_caption, plural
from dastan.core.analysis.document import Question
from dastan.core.model.document import Dimension, Hierarchy, Measure, SemanticModel
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import grain_of, is_calendar, reaches, shown_hierarchies
from dastan.core.words.reading import read_question
from dastan.core.words.terms import as_name
from dastan.core.words.vocabulary import Vocabulary

_IN_A_YEAR = range(4, 32)
"""So many members of a level in each of the one above make a row that is read at a look."""
_TOP = 5


@dataclass(frozen=True, slots=True)
class FirstSentence:
    """What could be asked, as somebody would write it, and what that means."""

    text: str
    question: Question


Newest = Callable[[Measure, Dimension], str | None]
"""The last day with records of a measure by a calendar, as ISO text."""


def first_sentences(vocabulary: Vocabulary, newest: Newest) -> tuple[FirstSentence, ...]:
    """Up to three, each of another kind."""
    found: list[FirstSentence] = []
    for text in _texts(vocabulary, newest):
        question = read_question(text, vocabulary).question
        if question is not None and all(question != each.question for each in found):
            found.append(FirstSentence(text, question))
    return tuple(found)


def _texts(vocabulary: Vocabulary, newest: Newest) -> Iterator[str]:
    model = vocabulary.model
    measures = _measures(model)
    if not measures:
        return
    first, second, third = (measures * 3)[:3]
    by, calendar = _told_by(model, first), _calendar(model, first)
    if by:
        against = f" against {_level(calendar[0], calendar[1].levels[0])}" if calendar else ""
        dimension, hierarchy = by[0]
        yield f"{as_name(first.caption)} by {_level(dimension, hierarchy.levels[0])}{against}"
    calendar = _calendar(model, second)
    if calendar:
        yield from _through_the_year(second, *calendar, vocabulary, newest(second, calendar[0]))
    large = [each for each in _told_by(model, third) if _finest(vocabulary, *each) > _TOP]
    if large:
        dimension, hierarchy = large[:2][-1]  # the first stands in another sentence already
        several = as_name(plural(level_caption(dimension, hierarchy.levels[-1])))
        yield f"{as_name(third.caption)} by {_level(dimension, hierarchy.levels[-1])}, top {_TOP} {several}"


def _through_the_year(
    measure: Measure, calendar: Dimension, hierarchy: Hierarchy, vocabulary: Vocabulary, newest: str | None
) -> Iterator[str]:
    """A measure through the newest of the calendar's longest periods, by such as are read at a look."""
    members = vocabulary.members(calendar.name, hierarchy.name)
    counts = [len(each) / max(len(members.levels[0]), 1) for each in members.levels]
    depth = next((depth for depth in range(len(counts) - 1, 0, -1) if int(counts[depth]) in _IN_A_YEAR), None)
    year = _newest_of(members, newest)
    if depth is not None and year is not None:
        yield f"{as_name(measure.caption)} by {_level(calendar, hierarchy.levels[depth])} for {as_name(year)}"


def _newest_of(members: HierarchyMembers, newest: str | None) -> str | None:
    """The caption of the outermost member that a day begins with, as years are of days; the last one where none is."""
    level = members.levels[0]
    known = [code for code in range(len(level)) if level.keys[code] is not None and members.is_visible(0, code)]
    within = [code for code in known if newest is not None and newest.startswith(str(level.keys[code]))]
    return level.captions[(within or known)[-1]] if known else None


def _measures(model: SemanticModel) -> list[Measure]:
    """One measure of each folder, in the model's order: the first whose name is written as it is read."""
    folders: dict[str, list[Measure]] = {}
    for each in model.measures:
        folders.setdefault(each.folder, []).append(each)
    return [next((each for each in own if as_name(each.caption) == each.caption), own[0]) for own in folders.values()]


def _told_by(model: SemanticModel, measure: Measure) -> list[tuple[Dimension, Hierarchy]]:
    """The dimensions, time left out, that tell a measure's records apart, each with its first hierarchy of levels."""
    if measure.is_of_others:
        return []
    grain = grain_of(measure)
    return [
        (each, hierarchy)
        for each in model.dimensions
        if not is_calendar(model, each) and not each.alternatives and reaches(model, grain, each)
        for hierarchy in shown_hierarchies(each)[:1]
        if not hierarchy.is_list and hierarchy.layout is None
    ]


def _calendar(model: SemanticModel, measure: Measure) -> tuple[Dimension, Hierarchy] | None:
    if measure.is_of_others:
        return None
    grain = grain_of(measure)
    return next(
        (
            (each, hierarchy)
            for each in model.dimensions
            if each.key is not None and is_calendar(model, each) and reaches(model, grain, each)
            for hierarchy in shown_hierarchies(each)[:1]
        ),
        None,
    )


def _finest(vocabulary: Vocabulary, dimension: Dimension, hierarchy: Hierarchy) -> int:
    return len(vocabulary.members(dimension.name, hierarchy.name).levels[-1])


def _level(dimension: Dimension, level: str) -> str:
    return as_name(level_caption(dimension, level))
