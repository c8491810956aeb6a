"""Measures being made: a formula read as it is written, what it would give, and those that are made already."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dastan.core.analysis.document import Analysis, MadeMeasure, PlacedMeasure
from dastan.core.analysis.formula_words import aloud
from dastan.core.analysis.gestures import ChangeMade, MakeMeasure, apply_gesture
from dastan.core.analysis.lists import find_list
from dastan.core.analysis.made import used_by, with_made
from dastan.core.analysis.offer import Thing
from dastan.core.analysis.resolve import find_hierarchy
from dastan.core.engine.watch import Watch
from dastan.core.errors import FormulaError
from dastan.core.language.naming import FormulaNames
from dastan.core.language.reading import Formula, read_formula
from dastan.core.language.writing import write_condition, write_formula
from dastan.core.model.conditions import LevelName, MemberFilter
from dastan.core.model.expression import Expression
from dastan.core.reading.preview import Preview, preview_of
from dastan.core.words.vocabulary import Vocabulary
from dastan.exports.number_format import NumberFormat, number_format
from dastan.server.answers import Answers
from dastan.server.readers import Reader

PREVIEW_ROWS, PREVIEW_COLUMNS = 4, 2
_ON_TRIAL = "made_on_trial"


@dataclass(frozen=True, slots=True)
class FormulaFix:
    """A way out of a fault: the whole text that would stand."""

    caption: str
    text: str


@dataclass(frozen=True, slots=True)
class FormulaFault:
    """What is wrong with a formula, from one character to another, and what to do."""

    message: str
    hint: str
    start: int
    end: int
    fixes: tuple[FormulaFix, ...]


@dataclass(frozen=True, slots=True)
class ReadFormula:
    """A formula as it was read: what it reads like aloud, its unit, the pattern that its numbers have unless said; or
    what is wrong with it."""

    expression: Expression | None
    aloud: str
    unit: str
    pattern: str
    format: NumberFormat | None
    fault: FormulaFault | None


@dataclass(frozen=True, slots=True)
class ShownMade:
    """A made measure as it is listed: its formula as text and aloud, and what stands on it."""

    made: MadeMeasure
    text: str
    aloud: str
    unit: str
    used_by: tuple[str, ...]


def made_in(document: Analysis, reader: Reader) -> tuple[ShownMade, ...]:
    """The measures that a document makes."""
    if not document.made:
        return ()
    model = with_made(reader.shelved.model, document)
    vocabulary = Vocabulary(model, reader.members_of(document))
    return tuple(
        ShownMade(
            each, write_formula(each.formula, vocabulary), aloud(each.formula, vocabulary.model, vocabulary.members),
            model.measure(each.name).unit, tuple(used_by(document, each.name)),
        )
        for each in document.made
    )  # fmt: skip


def read_on_trial(document: Analysis, text: str, name: str, reader: Reader) -> ReadFormula:
    """A formula as somebody is writing it. Args: `name` is the made measure that it defines, where it is one."""
    vocabulary = Vocabulary(with_made(reader.shelved.model, document), reader.members_of(document))
    try:
        found = read_formula(text, vocabulary, name)
    except FormulaError as error:
        start, end = error.details.get("span", [0, len(text)])
        fixes = tuple(FormulaFix(each["caption"], each["text"]) for each in error.details.get("fixes", []))
        return ReadFormula(None, "", "", "", None, FormulaFault(error.message, error.hint, start, end, fixes))
    pattern = _pattern(document, found, reader)
    said = aloud(found.expression, vocabulary.model, vocabulary.members)
    return ReadFormula(found.expression, said, found.unit.text, pattern, number_format(pattern), None)


def _pattern(document: Analysis, formula: Formula, reader: Reader) -> str:
    made = MadeMeasure(name=_ON_TRIAL, caption="on trial", formula=formula.expression)
    return with_made(reader.shelved.model, replace(document, made=(*document.made, made))).measure(_ON_TRIAL).format


def text_of_thing(document: Analysis, thing: Thing, reader: Reader) -> str:
    """What a formula says of a thing that is pointed at: a measure's name, a slice by a member, a level's name."""
    names = FormulaNames(Vocabulary(with_made(reader.shelved.model, document), reader.members_of(document)))
    if thing.measure is not None:
        return names.write_measure(thing.measure)
    if thing.list is not None:
        found = find_list(names.vocabulary.model, thing.list)
        kept = MemberFilter(dimension=found.dimension, hierarchy=found.hierarchy, list=found.name)
        return f"only {write_condition(kept, names.vocabulary)}"
    if thing.dimension is None or thing.hierarchy is None:
        return ""
    if not thing.path:
        dimension = names.vocabulary.model.dimension(thing.dimension)
        level = thing.level or find_hierarchy(dimension, thing.hierarchy).levels[0]
        return names.write_level(LevelName(dimension=thing.dimension, hierarchy=thing.hierarchy, level=level))
    members = (thing.path, *thing.more)
    kept = MemberFilter(dimension=thing.dimension, hierarchy=thing.hierarchy, members=members)
    return f"only {write_condition(kept, names.vocabulary)}"


def preview_on_trial(
    document: Analysis, made: MadeMeasure, row: int, column: int, reader: Reader, answers: Answers, watch: Watch
) -> Preview:
    """What a measure would give around a place of the table. Raises AppError where it could not be put in."""
    model = reader.shelved.model
    if any(each.name == made.name for each in document.made):
        after = apply_gesture(document, ChangeMade(made=made), model)
        name = made.name
    else:
        caption = made.caption.strip() or "This measure"
        known = {each.caption for each in with_made(model, document).measures}
        while caption in known:
            caption += "’"
        after = apply_gesture(document, MakeMeasure(made=replace(made, name=_ON_TRIAL, caption=caption)), model)
        name = _ON_TRIAL
    placed = PlacedMeasure(measure=name)
    measures = after.question.measures
    if placed not in measures:
        measures = (*measures, placed)
    question = replace(after.question, measures=measures)
    _, answer = answers.ask(replace(after, question=question), reader.shelved, reader.rights, watch)
    return preview_of(answer, measures.index(placed), row, column, PREVIEW_ROWS, PREVIEW_COLUMNS)
