"""One step in the workspace: from a document and a gesture to everything that the screen shows."""

from __future__ import annotations

import time
from dataclasses import dataclass

from dastan.core.analysis.document import Analysis
from dastan.core.analysis.gestures import Gesture, PutDimension, PutMeasure, apply_gesture
from dastan.core.analysis.sentence import Phrase, sentence_of
from dastan.core.analysis.steps import step_words
from dastan.core.engine.waist import Rights
from dastan.core.engine.window import Window, window_of
from dastan.core.errors import AppError
from dastan.core.model.document import SemanticModel
from dastan.core.model.reach import shown_hierarchies
from dastan.server.answers import Answers
from dastan.server.number_format import NumberFormat, number_format
from dastan.server.shelf import ShelvedModel

FIRST_ROWS, FIRST_COLUMNS = 80, 40


@dataclass(frozen=True, slots=True)
class ShownMeasure:
    """A measure in the table, with how to write its numbers."""

    name: str
    caption: str
    unit: str
    description: str
    format: NumberFormat


@dataclass(frozen=True, slots=True)
class Unavailable:
    """A measure or hierarchy ("line/livery") that cannot be put into the document as it is, and why."""

    measures: dict[str, str]
    dimensions: dict[str, str]


@dataclass(frozen=True, slots=True)
class Shown:
    """A document as the workspace shows it: its sentence, its answer's handle and the first window."""

    document: Analysis
    sentence: tuple[Phrase, ...]
    text: str
    words: str
    handle: str
    window: Window
    measures: tuple[ShownMeasure, ...]
    unavailable: Unavailable
    newest: str | None
    took_ms: float


def show(document: Analysis, words: str, shelved: ShelvedModel, rights: Rights, answers: Answers) -> Shown:
    """Answers a document and puts it into words."""
    started = time.perf_counter()
    handle, answer = answers.ask(document, shelved, rights)
    sentence = sentence_of(document, shelved.model, shelved.members)
    window = window_of(answer, 0, FIRST_ROWS, 0, FIRST_COLUMNS)
    measures = tuple(
        ShownMeasure(each.name, each.caption, each.unit, each.description, number_format(each.format))
        for each in answer.measures
    )
    unavailable = find_unavailable(document, shelved.model)
    took_ms = (time.perf_counter() - started) * 1000
    return Shown(
        document, sentence.phrases, sentence.text, words, handle, window, measures, unavailable, answer.newest, took_ms
    )


def take_step(document: Analysis, gesture: Gesture, shelved: ShelvedModel, rights: Rights, answers: Answers) -> Shown:
    """Applies a gesture and shows the result. Raises without changing anything where it cannot be."""
    words = step_words(document, gesture, shelved.model, shelved.members)
    return show(apply_gesture(document, gesture, shelved.model), words, shelved, rights, answers)


def find_unavailable(document: Analysis, model: SemanticModel) -> Unavailable:
    """What cannot join the document, each with the reason."""
    measures: dict[str, str] = {}
    dimensions: dict[str, str] = {}
    for measure in model.measures:
        reason = _reason(document, PutMeasure(measure=measure.name), model)
        if reason is not None:
            measures[measure.name] = reason
    for dimension in model.dimensions:
        for hierarchy in shown_hierarchies(dimension):
            gesture = PutDimension(dimension=dimension.name, hierarchy=hierarchy.name, axis="rows")
            reason = _reason(document, gesture, model)
            if reason is not None:
                dimensions[f"{dimension.name}/{hierarchy.name}"] = reason
    return Unavailable(measures, dimensions)


def _reason(document: Analysis, gesture: Gesture, model: SemanticModel) -> str | None:
    try:
        apply_gesture(document, gesture, model)
    except AppError as error:
        return error.message
    return None
