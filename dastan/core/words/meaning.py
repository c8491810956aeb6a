"""What a text and a document ask alike, whatever the order in which it was said."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dastan.core.analysis.document import Analysis, NumberDress, PlacedDimension, PlacedMeasure, Question
from dastan.core.analysis.openness import shown_levels
from dastan.core.words.reading import Reading
from dastan.core.words.vocabulary import Place, Vocabulary


@dataclass(frozen=True, slots=True)
class Meaning:
    """A question, the finest level that is seen of each hierarchy, and how the numbers of which measure are written."""

    question: Question
    seen: frozenset[tuple[Place, str]]
    numbers: frozenset[tuple[PlacedMeasure, str, bool]]


def meaning_of(document: Analysis, vocabulary: Vocabulary) -> Meaning:
    """What a document asks. Raises NotFoundError for a hierarchy that is not there."""
    seen = []
    for placed in (*document.question.rows, *document.question.columns):
        own = (placed.dimension, placed.hierarchy)
        _, hierarchy = vocabulary.hierarchy(own)
        if hierarchy.parent_child is None:
            seen.append((own, shown_levels(document, placed, hierarchy)[-1]))
    shown = [document.dress_of(each) for each in document.question.measures]
    return Meaning(_settled(document.question, vocabulary), frozenset(seen), _numbers(shown))


def meaning_of_reading(reading: Reading, vocabulary: Vocabulary) -> Meaning | None:
    """What a text asks; None where it cannot be read."""
    if reading.question is None:
        return None
    seen = frozenset(((each.dimension, each.hierarchy), each.level) for each in reading.levels_seen)
    return Meaning(_settled(reading.question, vocabulary), seen, _numbers(reading.numbers))


def _numbers(numbers: list[NumberDress] | tuple[NumberDress, ...]) -> frozenset[tuple[PlacedMeasure, str, bool]]:
    return frozenset(
        (each.measure, each.scale, each.is_turned) for each in numbers if each.scale != "one" or each.is_turned
    )


def _settled(question: Question, vocabulary: Vocabulary) -> Question:
    """The question with everything in one order that may be told in any."""

    def placed(each: PlacedDimension) -> PlacedDimension:
        levels = vocabulary.hierarchy((each.dimension, each.hierarchy))[1].levels
        limits = tuple(sorted(each.limits, key=lambda limit: levels.index(limit.level)))
        return replace(each, skipped=tuple(sorted(each.skipped, key=levels.index)), limits=limits)

    return replace(
        question,
        rows=tuple(placed(each) for each in question.rows),
        columns=tuple(placed(each) for each in question.columns),
        filters=tuple(sorted(question.filters, key=lambda each: each.action)),  # "keep" before "leave_out"
    )
