"""Reads a question from words: what the sentence shows, what `write_words` writes, and what people write shorter.

What cannot be read is pointed at, with the nearest names and what could stand there.
"""

from __future__ import annotations

from dataclasses import dataclass

from dastan.core.analysis.document import NumberDress, Question
from dastan.core.model.conditions import LevelName
from dastan.core.model.members import fold
from dastan.core.words.clauses import QuestionReader
from dastan.core.words.scanner import MissError, Scanner
from dastan.core.words.terms import as_name
from dastan.core.words.vocabulary import Vocabulary, closeness, nearest

COMPLETIONS = 12


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
    levels_seen: tuple[LevelName, ...] = ()
    """Of each hierarchy in the table the finest level that the text names: it is opened so far."""
    numbers: tuple[NumberDress, ...] = ()
    """How the numbers of measures are written, where the text says something of it."""
    refusal: str = ""
    """Why what was read cannot be asked, and what to do next; empty where it can."""


def read_question(text: str, vocabulary: Vocabulary) -> Reading:
    """Reads a question. One with a fault has no question."""
    reader = QuestionReader(Scanner(text), vocabulary)
    try:
        question = reader.question()
    except MissError:
        question = None
    except RecursionError:
        return Reading(None, NotUnderstood(0, len(text), "This is nested too deeply to be read.", ()), ())
    scanner = reader.scanner
    completions = _completions(scanner, vocabulary)
    if question is not None and scanner.is_done():
        return Reading(question, None, completions, reader.levels_seen, reader.numbers)
    return Reading(None, _fault(scanner, vocabulary), completions)


def _fault(scanner: Scanner, vocabulary: Vocabulary) -> NotUnderstood:
    start = scanner.furthest
    while start < len(scanner.text) and scanner.text[start].isspace():
        start += 1
    wrong = scanner.text[start:].split("(")[0].split(",")[0].strip()
    words = wrong.split()
    spans = [" ".join(words[:count]) for count in range(min(3, len(words)), 0, -1)]
    close = {name: closeness(span, name) for span in reversed(spans) for name in nearest(span, scanner.expected)}
    near = sorted(close, key=lambda each: -close[each])
    if not words:
        return NotUnderstood(start, len(scanner.text), "Something is missing at the end.", ())
    shown = " ".join(words[:3])
    own = {fold(each): each for each in scanner.expected}
    names = tuple(vocabulary.spelled.get(each, own[each]) for each in near[:3])
    return NotUnderstood(start, start + len(words[0]), f"“{shown}” is not understood here.", names)


def _completions(scanner: Scanner, vocabulary: Vocabulary) -> tuple[str, ...]:
    """What the text could go on with where it could last be read, if what stands there begins so: names first."""
    before, begun = scanner.text[: scanner.furthest], scanner.text[scanner.furthest :].lstrip()
    is_quoted = begun[:1] in ('"', "“")
    wanted = fold(begun[1:] if is_quoted else begun)
    kinds = ("name",) if is_quoted else ("name", "word")
    words = [each for each, kind in scanner.expected.items() if each[0].isalnum() and kind in kinds]
    found = [each for each in words if fold(each).startswith(wanted) and fold(each) != wanted]
    found.sort(key=lambda each: scanner.expected[each] != "name")
    space = " " if before and not before[-1].isspace() and before[-1] not in "(" else ""
    return tuple(f"{before}{space}{_written(each, scanner, vocabulary)}" for each in found[:COMPLETIONS])


def _written(expected: str, scanner: Scanner, vocabulary: Vocabulary) -> str:
    """What is expected as people write it."""
    if scanner.expected[expected] != "name":
        return expected
    return as_name(vocabulary.spelled.get(expected, expected))
