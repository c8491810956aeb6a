"""One step in the workspace: from a document and a gesture to everything that the screen shows."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from typing import Literal

from dastan.core.analysis.checks import unreached
from dastan.core.analysis.document import Analysis, NumberDress, PlacedMeasure
from dastan.core.analysis.dress import threshold_words, written
from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.gestures import Gesture, apply_gesture, step_words
from dastan.core.analysis.going import WayBack, ways_back
from dastan.core.analysis.lost import Lost, fitted
from dastan.core.analysis.made import with_made
from dastan.core.analysis.prompts import prompts_of
from dastan.core.analysis.sentence import NameWords, Phrase, name_of, name_words, sentence_of
from dastan.core.analysis.view_captions import heading_of
from dastan.core.analysis.views import is_change, is_difference, is_itself
from dastan.core.analysis.warnings import Warning, warnings_of
from dastan.core.engine.answer import Answer
from dastan.core.engine.watch import Watch
from dastan.core.model.conditions import Prompt
from dastan.core.model.document import Measure, SemanticModel
from dastan.core.model.financial_layouts import pattern_of_row
from dastan.core.model.joints import ratios
from dastan.core.reading.chart import innermost_range
from dastan.core.reading.marks import WindowMarks, marks_of
from dastan.core.reading.remarks import missing_members, remarks_of
from dastan.core.reading.window import RATIO_FORMAT, Window, window_of
from dastan.exports.number_format import NumberFormat, number_format
from dastan.server.answers import Answers
from dastan.server.asked_model import files_since
from dastan.server.formulas import ShownMade, made_in
from dastan.server.joints import ShownJoint, joints_in
from dastan.server.layouts import ShownLayout, layouts_in
from dastan.server.lists import ShownList, lists_for
from dastan.server.readers import Reader

FIRST_ROWS, FIRST_COLUMNS = 80, 40


@dataclass(frozen=True, slots=True)
class ShownMeasure:
    """A measure in the table, with how to write its numbers."""

    name: str
    placed: PlacedMeasure
    caption: str
    heading: str
    """What heads its numbers: less than its caption for a view that stands beside its measure."""
    unit: str
    description: str
    format: NumberFormat
    direction: Literal["more", "less", "either"] | None
    """Of a change: whether more of the measure is favourable, or less; None of what is no change."""
    dress: NumberDress
    legend: tuple[str, ...]
    """What each threshold says."""
    row_format: Literal["own", "change"] | None
    """Whether a row of a financial layout says how its numbers are written, or how a change of them is; None for a view
    that has a unit of its own."""
    least: float | None
    greatest: float | None
    """The ends of its innermost numbers, where a bar or shade stands behind them."""


@dataclass(frozen=True, slots=True)
class Answered:
    """The answer's handle and its first window."""

    handle: str
    window: Window
    marks: WindowMarks | None
    """Of the cells of the window, where any number is marked."""
    measures: tuple[ShownMeasure, ...]
    row_formats: dict[str, NumberFormat]
    """How numbers are written by the patterns that rows of financial layouts have."""
    newest: str | None
    since: str | None
    """When the newest of the model's files was written: what was asked is as it was then."""
    is_behind: bool
    """Whether these have changed since, and could not be read as they are."""
    took_ms: float


@dataclass(frozen=True, slots=True)
class Shown:
    """A document as the workspace shows it: its sentence, and its answer where one was wanted."""

    document: Analysis
    sentence: tuple[Phrase, ...]
    text: str
    name: str
    """What it may be called when it is saved."""
    name_words: NameWords
    """Of what it may be called where its folder says how."""
    words: str
    lost: tuple[Lost, ...]
    """What the document named and the model no longer has; the document that is shown is the rest."""
    unavailable: dict[str, str]
    """The hierarchies, "line/livery", that cannot join what is there, each with the reason."""
    warnings: tuple[Warning, ...]
    prompts: tuple[Prompt, ...]
    """The questions whose answers stand in it."""
    ways_back: tuple[WayBack, ...]
    made: tuple[ShownMade, ...]
    """The measures that were made in it."""
    joints: tuple[ShownJoint, ...]
    """The joint members that were made in it."""
    layouts: tuple[ShownLayout, ...]
    """The financial layouts that were made in it."""
    lists: tuple[ShownList, ...]
    """The lists of members that there are, those that were made in it first."""
    answered: Answered | None
    """None where the document was arranged and not yet asked."""


def show(
    document: Analysis, words: str, reader: Reader, answers: Answers, watch: Watch, is_asked: bool = True
) -> Shown:
    """Puts a document into words, and answers it where it is asked."""
    document, lost = fitted(document, reader.model)
    model = with_made(reader.shelved.model, document)
    answered: Answered | None = None
    remarks: tuple[Warning, ...] = ()
    if is_asked:
        answered, answer = _answer(document, reader, answers, watch)
        gone = missing_members(document, reader.members_of(document))
        remarks = (*gone, *remarks_of(document, answer, model, reader.shelved.source))
    sentence = sentence_of(document, model, reader.members, reader.seen_as)
    return Shown(
        document,
        sentence.phrases,
        sentence.text,
        name_of(sentence),
        name_words(sentence, model),
        words,
        lost,
        {f"{dimension}/{hierarchy}": why for (dimension, hierarchy), why in unreached(document, model).items()},
        (*warnings_of(document, model), *remarks),
        prompts_of(document.question, model),
        ways_back(document, model, reader.members_of(document)),
        made_in(document, reader),
        joints_in(document, reader),
        layouts_in(document),
        lists_for(document, reader),
        answered,
    )


def _answer(document: Analysis, reader: Reader, answers: Answers, watch: Watch) -> tuple[Answered, Answer]:
    started = time.perf_counter()
    handle, answer = answers.ask(document, reader.shelved, reader.rights, watch)
    window = window_of(answer, 0, FIRST_ROWS, 0, FIRST_COLUMNS)
    measures = tuple(
        _shown(at, placed, document, answer, reader) for at, placed in enumerate(document.question.measures)
    )
    since = files_since(reader.shelved)
    took = (time.perf_counter() - started) * 1000
    marks = marks_of(
        answer, document.question.measures, document.dress.numbers,
        range(len(window.rows)), range(len(window.columns)),
    )  # fmt: skip
    answered = Answered(
        handle, window, marks, measures, _row_formats(answer), answer.newest, since, reader.is_behind, took
    )
    return answered, answer


def _shown(at: int, placed: PlacedMeasure, document: Analysis, answer: Answer, reader: Reader) -> ShownMeasure:
    model = with_made(reader.shelved.model, document)
    measure, numbers = answer.measures[at], document.dress_of(placed)
    look = written(numbers, model)
    least, greatest = innermost_range(answer, at) if numbers.in_cell != "number" else (None, None)
    heading = heading_of(at, document.question, model, reader.members_of(document))
    return ShownMeasure(
        measure.name, placed, measure.caption, heading, look.unit, _about(placed, measure, model, reader),
        number_format(look.pattern, look.divisor, look.is_turned, measure.unit), _direction(placed, measure), numbers,
        tuple(threshold_words(each, numbers, model) for each in numbers.thresholds), _row_format(placed), least,
        greatest,
    )  # fmt: skip


def _row_formats(answer: Answer) -> dict[str, NumberFormat]:
    layouts = [one for axis in (answer.rows, answer.columns) for each in axis.placements if (one := each.layout)]
    found = {pattern for layout in layouts for row in layout.rows if (pattern := pattern_of_row(layout, row))}
    axes = (answer.rows, answer.columns)
    members = [each.members for axis in axes for each in axis.placements]
    if any(ratios(each, depth) for each in members for depth in range(len(each.levels))):
        found.add(RATIO_FORMAT)
    return {name: own for each in sorted(found) for name, own in ((each, number_format(each)), _of_change(each))}


def _of_change(pattern: str) -> tuple[str, NumberFormat]:
    """How a change of such numbers is written: with its sign, and that of per cent in points."""
    positive = pattern.split(";")[0]
    own = number_format(f"+{positive};−{positive}")
    suffix = own.suffix.replace("%", "points")
    return f"{pattern}|change", replace(own, suffix=suffix, negative_suffix=suffix)


def _about(placed: PlacedMeasure, measure: Measure, model: SemanticModel, reader: Reader) -> str:
    """What a measure is; of a formula also what it says."""
    formula = model.measure(placed.measure).formula
    said = aloud(formula, model, reader.members) if formula is not None else ""
    return " · ".join(each for each in (measure.description, said) if each)


def _row_format(placed: PlacedMeasure) -> Literal["own", "change"] | None:
    view = placed.view
    if is_itself(view):
        return "own"
    return "change" if is_difference(view) else None


def _direction(placed: PlacedMeasure, measure: Measure) -> Literal["more", "less", "either"] | None:
    return (measure.favourable or "either") if is_change(placed.view) else None


def take_step(
    document: Analysis, gesture: Gesture, reader: Reader, answers: Answers, watch: Watch, is_asked: bool = True
) -> Shown:
    """Applies a gesture and shows the result. Raises without changing anything where it cannot be."""
    model = reader.model
    if not gesture.may_name_what_is_gone:
        document, _ = fitted(document, model)
    after = apply_gesture(document, gesture, model)
    gesture.check_members(reader.members)
    return show(after, step_words(document, gesture, model, reader.members), reader, answers, watch, is_asked)
