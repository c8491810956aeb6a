"""The report as a sentence: every part of the question, in words.

The same phrases are shown above the table, head the exports, describe an analysis in the library and are
what a screen reader reads. Nothing that is in force is left out.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from dastan.core.analysis.document import Analysis, AxisName, Filter, PlacedDimension
from dastan.core.analysis.resolve import find_dimension, find_hierarchy, find_measure
from dastan.core.model.document import Dimension, Hierarchy, MemberPath, SemanticModel
from dastan.core.model.members import HierarchyMembers
from dastan.core.model.reach import grain_of, reaches

Members = Callable[[str, str], HierarchyMembers]
"""Gives a hierarchy's members by dimension and hierarchy name."""

MEMBERS_IN_FULL = 4
"""A filter names this many members; further ones are counted, and listed when the phrase is opened."""


@dataclass(frozen=True, slots=True)
class Phrase:
    """A part of the sentence: joining words, or a thing that can be taken hold of.

    `levels_shown` of `levels_all` are the dots of a dimension. `note` is a measure's unit or a filter's
    dimension, set small. `details` are a filter's members, all of them.
    """

    kind: Literal["words", "measure", "dimension", "filter", "hint"]
    text: str
    note: str = ""
    levels_shown: int = 0
    levels_all: int = 0
    measure: str | None = None
    dimension: str | None = None
    hierarchy: str | None = None
    axis: AxisName | None = None
    action: Literal["keep", "leave_out"] | None = None
    details: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Sentence:
    """The phrases in order, and all of them as plain text."""

    phrases: tuple[Phrase, ...]

    @property
    def text(self) -> str:
        parts: list[str] = []
        for each in self.phrases:
            if each.kind == "hint":
                continue
            shown = f"{each.text} ({each.note})" if each.kind == "filter" and each.note else each.text
            parts.append(shown if not parts or shown.startswith((",", ";", ".")) else f" {shown}")
        return "".join(parts)


def sentence_of(document: Analysis, model: SemanticModel, members: Members) -> Sentence:
    """The document in words. Raises NotFoundError for a name that the model does not have."""
    question = document.question
    phrases: list[Phrase] = []
    for place, each in enumerate(question.measures):
        if place:
            phrases.append(_words("and" if place == len(question.measures) - 1 else ","))
        measure = find_measure(model, each.measure)
        phrases.append(Phrase("measure", measure.caption, note=measure.unit, measure=measure.name))
    axes: tuple[tuple[AxisName, str], ...] = (("rows", "by"), ("columns", "against"))
    for axis, joining in axes:
        for place, placed in enumerate(question.axis(axis)):
            phrases.append(_words(joining if place == 0 else "then"))
            phrases.append(_dimension_phrase(document, placed, axis, model))
    for joining, action in (("for", "keep"), ("without", "leave_out")):
        chosen = [each for each in question.filters if each.action == action]
        for place, filter_ in enumerate(chosen):
            comma = ", " if len(phrases) > 0 and (action == "leave_out" or place) else ""
            phrases.append(_words(f"{comma}{joining if not place else 'and ' + joining}"))
            phrases.append(_filter_phrase(filter_, document, model, members))
    if not question.measures:
        hint = "Begin with a number: drag a measure here, or click one."
        if phrases:
            hint = "No number yet: drag a measure here, or click one."
        phrases.append(Phrase("hint", hint))
    return Sentence(tuple(phrases))


def shown_levels(document: Analysis, placed: PlacedDimension, hierarchy: Hierarchy) -> list[str]:
    """The levels that are seen of a placed hierarchy, from its start as far as anything is open."""
    opening = document.opening(placed.dimension, placed.hierarchy)
    start = hierarchy.levels.index(placed.level)
    shown = [placed.level]
    for depth in range(start, len(hierarchy.levels) - 1):
        if hierarchy.levels[depth] not in opening.levels and all(len(path) != depth + 1 for path in opening.open):
            break
        shown.append(hierarchy.levels[depth + 1])
    return shown


def level_caption(dimension: Dimension, level: str) -> str:
    """What people call a level."""
    return dimension.attribute(level).caption or level.replace("_", " ").capitalize()


def hierarchy_caption(dimension: Dimension, hierarchy: Hierarchy) -> str:
    """What people call a hierarchy: the dimension's caption for its first, which needs no name of its own."""
    if hierarchy == dimension.hierarchies[0]:
        return dimension.caption
    return hierarchy.caption or hierarchy.name.replace("_", " ").capitalize()


def member_caption(path: MemberPath, members: HierarchyMembers) -> str:
    """A member's caption; its keys, and that it has no records, when the data no longer has it."""
    code = members.find(path)
    if code is None:
        return " › ".join(str(key) for key in path) + " (not in the data)"
    return members.levels[len(path) - 1].captions[code]


def listed(captions: Sequence[str], more: int = 0) -> str:
    """ "Tram", "Tram and Bus", "Tram, Bus and Ferry", "Tram, Bus and 7 more"."""
    texts = [*captions, *([f"{more} more"] if more else [])]
    return texts[0] if len(texts) == 1 else ", ".join(texts[:-1]) + " and " + texts[-1]


def _words(text: str) -> Phrase:
    return Phrase("words", text)


def _dimension_phrase(document: Analysis, placed: PlacedDimension, axis: AxisName, model: SemanticModel) -> Phrase:
    dimension = find_dimension(model, placed.dimension)
    hierarchy = find_hierarchy(dimension, placed.hierarchy)
    shown = shown_levels(document, placed, hierarchy)
    text = " › ".join(level_caption(dimension, each) for each in shown)
    return Phrase(
        "dimension",
        text,
        levels_shown=hierarchy.levels.index(shown[-1]) + 1,
        levels_all=len(hierarchy.levels),
        dimension=placed.dimension,
        hierarchy=placed.hierarchy,
        axis=axis,
    )


def _filter_phrase(each: Filter, document: Analysis, model: SemanticModel, members: Members) -> Phrase:
    dimension = find_dimension(model, each.dimension)
    measures = [find_measure(model, placed.measure) for placed in document.question.measures]
    untouched = [measure.caption for measure in measures if not reaches(model, grain_of(measure), dimension)]
    note = dimension.caption.lower()
    found = members(each.dimension, each.hierarchy)
    captions = tuple(member_caption(path, found) for path in each.members)
    # One more than the limit is named too: "and 1 more" would be as long.
    fits = len(captions) <= MEMBERS_IN_FULL + 1
    shown = captions if fits else captions[:MEMBERS_IN_FULL]
    return Phrase(
        "filter",
        listed(shown, len(captions) - len(shown)),
        note=f"{note}; not for {listed(untouched)}" if untouched else note,
        dimension=each.dimension,
        hierarchy=each.hierarchy,
        action=each.action,
        details=captions,
    )
